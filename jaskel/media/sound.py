"""Reading conformed sound from any sample, and mixing slices of a plan from it."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from pathlib import Path
from threading import Lock

import numpy as np
import soundfile

from jaskel.core.marks.level import LEVEL_FADE, gain
from jaskel.core.plan import BARE, Feed, Material, Plan, SoundSlice, Span, TrackSpan
from jaskel.core.plan.sound import Envelope, FadeShape
from jaskel.core.problem import Missing
from jaskel.core.sound.ride import Ride
from jaskel.core.source import Source
from jaskel.core.timebase import RATE, Ticks
from jaskel.media.conformed import ConformedSound
from jaskel.media.limiter import limited

Read = Callable[[Feed, Ticks, Ticks], np.ndarray]
"""Gives the stereo sound of a feed between two of its ticks: float32 of shape (ticks, 2); silence outside of it."""

OPEN_FILES = 24


class _OpenFile:
    """A file that is open, and the lock under which it is read: files are read side by side, each by one thread at a time."""

    def __init__(self, path: Path) -> None:
        self.sound = ConformedSound(path)
        self.lock = Lock()
        self.closed = False

    def close(self) -> None:
        with self.lock:
            self.closed = True
            self.sound.close()


class Shelf:
    """Conformed sound files, kept open while they are in use. Safe to use from several threads.

    ``locate`` gives the file of a feed.
    """

    def __init__(self, locate: Callable[[Feed], Path]) -> None:
        self._locate = locate
        self._open: dict[Path, _OpenFile] = {}
        self._lock = Lock()

    def read(self, feed: Feed, start: Ticks, end: Ticks) -> np.ndarray:
        """See :data:`Read`."""
        out = np.zeros((end - start, 2), np.float32)
        path = self._locate(feed)
        while True:
            file = self._file(path)
            with file.lock:
                if file.closed:
                    continue  # put away by another thread meanwhile
                begin, until = max(0, start), min(end, file.sound.length)
                if begin < until:
                    out[begin - start : until - start] = file.sound.read(begin, until)
                return out

    def mono_16k(self, recording: str, start: Ticks, end: Ticks) -> np.ndarray:
        """The sound of a recording between two ticks as the recogniser wants it: float32 mono at 16 kHz."""
        return to_mono_16k(lambda a, b: self.read(Feed(recording), a, b), start, end)

    def close(self) -> None:
        with self._lock:
            files = [*self._open.values()]
            self._open.clear()
        for file in files:
            file.close()

    def _file(self, path: Path) -> _OpenFile:
        put_away: list[_OpenFile] = []
        with self._lock:
            file = self._open.pop(path, None)
            if file is None:
                if not path.exists():
                    raise Missing(
                        "sound-gone",
                        "The sound of a recording is not there. Open its episode: what was cleared is made again, and a file "
                        "that is gone can be found again under Gather.",
                    )
                file = _OpenFile(path)
            self._open[path] = file  # the newest stands last
            while len(self._open) > OPEN_FILES:
                put_away.append(self._open.pop(next(iter(self._open))))
        for old in put_away:
            old.close()
        return file


def to_mono_16k(read: Callable[[Ticks, Ticks], np.ndarray], start: Ticks, end: Ticks) -> np.ndarray:
    """Stereo sound at 48 kHz between two ticks, as float32 mono at 16 kHz."""
    import soxr

    margin = 480
    sound = read(start - margin, end + margin)
    resampled: np.ndarray = soxr.resample((sound[:, 0] + sound[:, 1]) / 2, RATE, 16_000)
    return resampled[margin // 3 : margin // 3 + (end - start) // 3]


def sound_of(source: Source, start: Ticks, end: Ticks, read: Read, material: Material = BARE) -> np.ndarray:
    """What a source sounds like by itself, all of its tracks together: float32 of shape (ticks, 2)."""
    return mix(Plan((Span(source, start, end, 0, 0),), material=material), 0, end - start, read)


def mix(plan: Plan, begin: Ticks, end: Ticks, read: Read) -> np.ndarray:
    """The sound of a stretch of the programme: float32 of shape (end - begin, 2).

    Each sample depends on its place in the plan alone, so stretches mixed one by one and joined are the stretch mixed at
    once. Both listening and exporting mix with :func:`mix_slice` and nothing else.
    """
    return mix_slice(plan.sound(begin, end), read)


def mix_slice(heard: SoundSlice, read: Read) -> np.ndarray:
    """The sound of a slice of a plan: float32 of shape (its length, 2). It is summed in double precision and rounded once."""
    out = np.zeros((heard.length + 2 * heard.around, 2))
    for span in heard.spans:
        a, b = max(0, span.at), min(len(out), span.until)
        start = span.start + a - span.at
        sound = _tone(span.feed.hertz, start, start + b - a) if span.feed.hertz else read(span.feed, start, start + b - a)
        factor = _fades(span, a, b)
        if span.decibels or span.envelope:
            factor *= level_curve(span.envelope, a, b, span.decibels)
        if span.ride:
            factor *= ridden(span.ride, a, b)
        if span.pan:
            out[a:b] += sound * factor[:, None] * balance(span.pan)
        else:
            out[a:b] += sound * factor[:, None]
    if heard.bus and heard.bus.mono:
        out = np.repeat(out.mean(axis=1, keepdims=True), 2, axis=1)
    if heard.bus:
        out = limited(out * gain(heard.bus.decibels), heard.bus.peak)
    return out[heard.around : heard.around + heard.length].astype(np.float32)


def _tone(hertz: float, start: Ticks, end: Ticks) -> np.ndarray:
    """A steady tone, the same at the same place wherever it is begun: float64 of shape (ticks, 2)."""
    wave = np.sin(2 * np.pi * np.mod(np.arange(start, end) * hertz, RATE) / RATE)
    return np.repeat(wave[:, None], 2, axis=1)


def balance(pan: float) -> np.ndarray:
    """Factors of left and right for a place from -1 to 1; the nearer side keeps its level, the other goes down by a cosine."""
    return np.array([np.cos(np.pi / 2 * max(0.0, pan)), np.cos(np.pi / 2 * max(0.0, -pan))])


def ridden(ride: Ride, begin: Ticks, end: Ticks) -> np.ndarray:
    """The factor of a ride at each tick from ``begin`` to ``end`` of a slice."""
    places, levels = zip(*ride, strict=True)
    return np.asarray(10 ** (np.interp(np.arange(begin, end), places, levels) / 20))


def _fades(span: TrackSpan, begin: Ticks, end: Ticks) -> np.ndarray:
    """What crossfades leave of a span at each tick of its slice from ``begin`` to ``end``."""
    factor = np.ones(end - begin)
    clear_from, clear_to = span.at + span.fade_in, span.until - span.fade_out
    if span.fade_in and begin < clear_from:
        place = np.arange(begin, min(end, clear_from)) - span.at
        factor[: len(place)] *= _rising((place + 0.5) / span.fade_in, span.shape_in)
    if span.fade_out and end > clear_to:
        place = np.arange(max(begin, clear_to), end) - clear_to
        factor[len(factor) - len(place) :] *= _rising(1 - (place + 0.5) / span.fade_out, span.shape_out)
    return factor


def _rising(share: np.ndarray, shape: FadeShape) -> np.ndarray:
    if shape == "equal power":
        return np.asarray(np.sin(np.pi / 2 * share))
    return share if shape == "linear" else 0.5 - 0.5 * np.cos(np.pi * share)


def level_curve(envelope: Sequence[Envelope], begin: Ticks, end: Ticks, decibels: float = 0.0) -> np.ndarray:
    """The factor at which a track sounds at each tick from ``begin`` to ``end`` of a slice: that many of them.

    A stretch has its level from its first tick to its last; beside it, the level goes over to that around, ``decibels``, within
    :data:`~jaskel.core.marks.level.LEVEL_FADE`.
    """
    curve = np.full(end - begin, gain(decibels))
    for level in envelope:
        a, b = max(begin, level.begin - LEVEL_FADE), min(end, level.end + LEVEL_FADE)
        if a >= b:
            continue
        at = np.arange(a, b)
        outside = np.maximum(np.maximum(level.begin - at, at - (level.end - 1)), 0) / LEVEL_FADE
        share = 0.5 + 0.5 * np.cos(np.pi * np.minimum(outside, 1))
        curve[a - begin : b - begin] *= 1 + (gain(level.decibels) - 1) * share
    return curve


def outline(sound: np.ndarray, points: int) -> np.ndarray:
    """How ``sound``, shape (samples, channels), is drawn: int8 of shape (points, 2), least and most of each point.

    127 is full scale. Values are signed square roots, which keeps quiet speech visible.
    """
    edges = np.linspace(0, len(sound), points + 1).astype(int)
    starts = np.minimum(edges[:-1], len(sound) - 1)
    least = np.minimum.reduceat(sound.min(axis=1), starts)
    most = np.maximum.reduceat(sound.max(axis=1), starts)
    drawn = np.stack([least, most], axis=1)
    return np.clip(np.round(np.sign(drawn) * np.sqrt(np.abs(drawn)) * 127), -127, 127).astype(np.int8)


def pcm16(sound: np.ndarray) -> np.ndarray:
    """Float sound as 16-bit integers, clipped; the one conversion used for preview blocks."""
    return np.clip(np.round(sound * 32767), -32768, 32767).astype("<i2")


def wav_bytes(sound: np.ndarray) -> bytes:
    """A 16-bit WAV file of ``sound``, shape (samples, 2)."""
    from io import BytesIO

    file = BytesIO()
    soundfile.write(file, pcm16(sound), RATE, "PCM_16", format="WAV")
    return file.getvalue()
