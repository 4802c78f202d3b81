"""A line said again is fitted to its neighbours: to their pace, their sound, their loudness and their room."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, field
from pathlib import Path

import av
import numpy as np
import soundfile

from jaskel.core.marks.level import gain
from jaskel.core.pickup import PAD, Manner
from jaskel.core.sound.match import matched
from jaskel.core.timebase import RATE, Ticks
from jaskel.media.analysis import spectrum
from jaskel.media.process import through
from jaskel.media.processor import About, sections_of
from jaskel.media.weighted import K_WEIGHTING

Places = Sequence[tuple[Ticks, Ticks]]
"""Where words lie in a sound."""

EDGE: Ticks = RATE // 125
"""A line fades into and out of its room within 8 ms."""

SLOWEST, QUICKEST, SAME_PACE = 0.85, 1.18, 0.03
"""A line is made slower or quicker by so much at most, and by nothing where it is as quick within 3 %."""

MOST_GAIN, HIGHEST = 24.0, 0.97


@dataclass(frozen=True)
class Like:
    """What a line is fitted to: how its neighbours are said, their spectrum, and the tone of their room (mono)."""

    manner: Manner
    hertz: np.ndarray = field(default_factory=lambda: np.zeros(0))
    level: np.ndarray = field(default_factory=lambda: np.zeros(0))
    room: np.ndarray = field(default_factory=lambda: np.zeros(0, np.float32))


def manner_of(sound: np.ndarray, words: Places, letters: int) -> Manner:
    """How words are said in a ``sound`` (mono at 48 kHz), of so many letters."""
    spoken = sum(end - start for start, end in words) / RATE
    return Manner(pitch_of(sound, words), letters / spoken if spoken else 0.0, _loudness(sound, words))


def like(sound: np.ndarray, words: Places, letters: int, room: np.ndarray) -> Like:
    """What the words around a spot are like."""
    hertz, level = spectrum(lambda a, b: sound[a:b, None], [(start, max(end, start + RATE // 2)) for start, end in words])
    return Like(manner_of(sound, words, letters), hertz, level, room)


def _loudness(sound: np.ndarray, words: Places) -> float | None:
    """Of a few words, which are too short for the gates of the recommendation; one channel is heard from both sides."""
    if not len(sound):
        return None
    power = sections_of(K_WEIGHTING, 1)(sound[:, None]).astype(np.float64)[:, 0] ** 2
    spoken = np.concatenate([power[start:end] for start, end in words])
    mean = 2 * float(spoken.mean()) if len(spoken) else 0.0
    return -0.691 + 10 * float(np.log10(mean)) if mean > 1e-7 else None


LOWEST_VOICE, HIGHEST_VOICE = 60.0, 400.0
FRAME: Ticks = RATE // 25
VOICED = 0.2


def pitch_of(sound: np.ndarray, words: Places) -> float:
    """The median pitch of words in hertz, 0 where no voice is heard in them.

    Every 20 ms by the cumulative mean normalised difference of de Cheveigné and Kawahara, "YIN" (2002), at 12 kHz.
    """
    found = []
    rate = 12_000
    low, high = int(rate / HIGHEST_VOICE), int(rate / LOWEST_VOICE)
    for start, end in words:
        part = sound[start:end].astype(np.float64)
        part = part[: len(part) // 4 * 4].reshape(-1, 4).mean(axis=1)
        size = FRAME // 4
        for at in range(0, len(part) - size - high, size // 2):
            here = part[at : at + size + high]
            if (here**2).mean() < 1e-7:
                continue
            base = here[:size]
            difference = np.array([((base - here[lag : lag + size]) ** 2).sum() for lag in range(1, high + 1)])
            normal = difference * np.arange(1, high + 1) / np.maximum(np.cumsum(difference), 1e-12)
            dips = np.flatnonzero(normal[low:] < VOICED)
            if len(dips):
                lag = low + int(dips[0])
                while lag + 1 < high and normal[lag + 1] < normal[lag]:
                    lag += 1
                found.append(rate / (lag + 1))
    return float(np.median(found)) if len(found) >= 3 else 0.0


def fitted(sound: np.ndarray, words: Places, letters: int, wanted: Like, *, foreign: bool) -> tuple[np.ndarray, Places]:
    """A line as it stands among its neighbours, with their room around it, and where its words lie then.

    Parameters
    ----------
    sound
        Mono at 48 kHz; what is before its first word and after its last is left out.
    words, letters
        Where its words lie in it, and of how many letters they are.
    foreign
        Whether it comes from elsewhere than the recording it goes into: then its spectrum is brought near, and the room added.
    """
    first, last = words[0][0], words[-1][1]
    line = sound[first:last].astype(np.float32)
    own = manner_of(sound, words, letters)
    tempo = 1.0
    if own.pace and wanted.manner.pace and abs(wanted.manner.pace / own.pace - 1) > SAME_PACE:
        tempo = min(QUICKEST, max(SLOWEST, wanted.manner.pace / own.pace))
        line = at_tempo(line, tempo)
    places = [(PAD + round((a - first) / tempo), PAD + round((b - first) / tempo)) for a, b in words]
    places = [(a, min(b, PAD + len(line))) for a, b in places]
    if foreign and len(wanted.level):
        line = _coloured(line, wanted)
    here = _loudness(np.pad(line, (PAD, PAD)), places)
    if here is not None and wanted.manner.loudness is not None:
        line = line * np.float32(gain(min(MOST_GAIN, max(-MOST_GAIN, wanted.manner.loudness - here))))
    line = line * np.float32(min(1.0, HIGHEST / max(1e-9, float(np.abs(line).max(initial=0.0)))))
    return _in_its_room(line, wanted.room, foreign=foreign), places


def at_tempo(sound: np.ndarray, tempo: float) -> np.ndarray:
    """Mono sound said ``tempo`` times as quickly at the same pitch, by libavfilter's overlap-add."""
    graph = av.filter.Graph()
    source = graph.add("abuffer", f"sample_rate={RATE}:sample_fmt=flt:channel_layout=mono:time_base=1/{RATE}")
    step = graph.add("atempo", f"{tempo:.4f}")
    sink = graph.add("abuffersink")
    source.link_to(step)
    step.link_to(sink)
    graph.configure()
    frame = av.AudioFrame.from_ndarray(np.ascontiguousarray(sound[None], np.float32), "flt", "mono")
    frame.sample_rate, frame.pts = RATE, 0
    graph.push(frame)
    graph.push(None)
    out = []
    while True:
        try:
            out.append(graph.pull().to_ndarray().reshape(-1))
        except (av.error.BlockingIOError, av.error.EOFError):
            break
    made = np.concatenate(out) if out else sound
    length = round(len(sound) / tempo)
    return np.pad(made[:length], (0, max(0, length - len(made)))).astype(np.float32)


def _coloured(line: np.ndarray, wanted: Like) -> np.ndarray:
    hertz, mine = spectrum(lambda a, b: line[a:b, None], [(0, len(line))])
    if not len(mine):
        return line
    equaliser = matched([*hertz], [*mine], [*wanted.level])
    about = About(1, len(line), lambda a, b: line[a:b, None])
    return np.concatenate([*through(iter([line[:, None]]), (equaliser,), about)])[:, 0]


def _in_its_room(line: np.ndarray, room: np.ndarray, *, foreign: bool) -> np.ndarray:
    """A line with the tone of a room before and after it, and below it where it does not bring that along."""
    fade = min(EDGE, len(line) // 2)
    rise = np.sin(np.pi / 2 * (np.arange(fade) + 0.5) / fade).astype(np.float32)
    line = line.copy()
    line[:fade] *= rise
    line[len(line) - fade :] *= rise[::-1]
    length = len(line) + 2 * PAD
    tone = np.resize(room, length).astype(np.float32) if len(room) else np.zeros(length, np.float32)
    if not foreign:
        below = np.zeros(len(line), np.float32)
        below[:fade], below[len(line) - fade :] = rise[::-1], rise
        tone[PAD : PAD + len(line)] *= below
    tone[PAD : PAD + len(line)] += line
    return tone


def write_line(path: Path, sound: np.ndarray) -> None:
    """Write mono sound at 48 kHz as FLAC with 24 bit."""
    soundfile.write(path, sound, RATE, format="FLAC", subtype="PCM_24")


def read_line(path: Path) -> np.ndarray:
    """The sound of any file that can be opened, as mono at 48 kHz."""
    from jaskel.media.conform import decoded

    blocks = [*decoded(path, 1)]
    return np.concatenate(blocks)[:, 0] if blocks else np.zeros(0, np.float32)
