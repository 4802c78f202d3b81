"""Reading conformed sound from any sample, and mixing a plan from it."""

from __future__ import annotations

from collections import OrderedDict
from collections.abc import Callable, Sequence
from dataclasses import dataclass
from pathlib import Path
from threading import Lock

import numpy as np
import soundfile

from jaskel.core.edition import CARD, SILENCE
from jaskel.core.levels import AS_RECORDED, LEVEL_FADE, Levels, gain
from jaskel.core.plan import Plan, Span
from jaskel.core.problem import Missing
from jaskel.core.splice import Shape
from jaskel.core.timebase import RATE, Ticks
from jaskel.media.conformed import ConformedSound

Read = Callable[[str, Ticks, Ticks, Levels], np.ndarray]
"""Gives the stereo sound of a recording or session between two ticks, its tracks at their levels: float32 of shape (ticks, 2);
silence outside of it."""

OPEN_FILES = 16


@dataclass(frozen=True, slots=True)
class Sounding:
    """A conformed file that sounds, the tick at which it begins, and the recording it is of."""

    path: Path
    offset: Ticks = 0
    track: str = ""


def alone(path: Path) -> tuple[Sounding, ...]:
    """A recording that is one file."""
    return (Sounding(path),)


class Shelf:
    """Conformed sound files, kept open while they are in use. Safe to use from several threads.

    ``locate`` gives the files that sound together under a name: one for a recording, one for each track of a session.
    """

    def __init__(self, locate: Callable[[str], Sequence[Sounding]]) -> None:
        self._locate = locate
        self._open: OrderedDict[Path, ConformedSound] = OrderedDict()
        self._lock = Lock()

    def read(self, recording: str, start: Ticks, end: Ticks, levels: Levels = AS_RECORDED) -> np.ndarray:
        """See :data:`Read`."""
        out = np.zeros((end - start, 2), np.float32)
        if recording in (SILENCE, CARD):
            return out
        sources = self._locate(recording)
        with self._lock:
            for source in sources:
                file = self._file(source.path)
                begin, until = max(source.offset, start), min(end, source.offset + file.length)
                if begin < until:
                    sound = file.read(begin - source.offset, until - source.offset)
                    if levels != AS_RECORDED:
                        sound = sound * level_curve(levels, recording, source.track or recording, begin, until)[:, None]
                    out[begin - start : until - start] += sound
        return out

    def mono_16k(self, recording: str, start: Ticks, end: Ticks) -> np.ndarray:
        """The sound between two ticks as the recogniser wants it: float32 mono at 16 kHz."""
        import soxr

        margin = 480
        sound = self.read(recording, start - margin, end + margin)
        resampled: np.ndarray = soxr.resample((sound[:, 0] + sound[:, 1]) / 2, RATE, 16_000)
        return resampled[margin // 3 : margin // 3 + (end - start) // 3]

    def close(self) -> None:
        with self._lock:
            while self._open:
                self._open.popitem()[1].close()

    def _file(self, path: Path) -> ConformedSound:
        if path not in self._open:
            if not path.exists():
                raise Missing(
                    "sound-gone",
                    "The file of a recording is not there any more. Under Gather it can be found again.",
                )
            self._open[path] = ConformedSound(path)
            while len(self._open) > OPEN_FILES:
                self._open.popitem(last=False)[1].close()
        self._open.move_to_end(path)
        return self._open[path]


def mix(plan: Plan, begin: Ticks, end: Ticks, read: Read) -> np.ndarray:
    """The sound of a stretch of the programme: float32 of shape (end - begin, 2).

    Each sample depends on its place in the plan alone, so stretches mixed one by one and joined are the stretch mixed at
    once. Both listening and exporting use this function and no other.
    """
    out = np.zeros((end - begin, 2), np.float32)
    for span in plan.between(begin, end):
        a, b = max(begin, span.at), min(end, span.until)
        sound = read(span.recording, span.start + a - span.at, span.start + b - span.at, plan.levels)
        out[a - begin : b - begin] += sound * _gain(span, a, b)[:, None]
    return out


def _gain(span: Span, begin: Ticks, end: Ticks) -> np.ndarray:
    """Gain of a span at each tick of the programme from ``begin`` to ``end``: what its crossfades leave of it."""
    gain = np.ones(end - begin, np.float32)
    if span.fade_in and begin < span.clear_from:
        place = np.arange(begin, min(end, span.clear_from)) - span.at
        gain[: len(place)] *= _rising((place + 0.5) / span.fade_in, span.shape_in)
    if span.fade_out and end > span.clear_to:
        place = np.arange(max(begin, span.clear_to), end) - span.clear_to
        gain[len(gain) - len(place) :] *= _rising(1 - (place + 0.5) / span.fade_out, span.shape_out)
    return gain


def _rising(share: np.ndarray, shape: Shape) -> np.ndarray:
    return (share if shape == "linear" else np.sin(np.pi / 2 * share)).astype(np.float32)


def level_curve(levels: Levels, recording: str, track: str, begin: Ticks, end: Ticks) -> np.ndarray:
    """The factor at which a track sounds at each tick from ``begin`` to ``end`` of its recording: float32 of that length.

    A stretch has its level from its first tick to its last; beside it, the level goes over to that around within
    :data:`~jaskel.core.levels.LEVEL_FADE`.
    """
    base = gain(levels.of_tracks.get(track, 0.0))
    curve = np.full(end - begin, base, np.float32)
    for level in levels.within(recording, begin - LEVEL_FADE, end + LEVEL_FADE):
        if level.track != track:
            continue
        a, b = max(begin, level.start - LEVEL_FADE), min(end, level.end + LEVEL_FADE)
        at = np.arange(a, b)
        outside = np.maximum(np.maximum(level.start - at, at - (level.end - 1)), 0) / LEVEL_FADE
        share = 0.5 + 0.5 * np.cos(np.pi * np.minimum(outside, 1))
        curve[a - begin : b - begin] *= (1 + (gain(level.decibels) - 1) * share).astype(np.float32)
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
