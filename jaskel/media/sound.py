"""Reading conformed sound from any sample, and mixing a plan from it."""

from __future__ import annotations

from collections import OrderedDict
from collections.abc import Callable, Sequence
from dataclasses import dataclass
from pathlib import Path
from threading import Lock

import numpy as np
import soundfile

from jaskel.core.plan import Plan, Span
from jaskel.core.timebase import RATE, Ticks

Read = Callable[[str, Ticks, Ticks], np.ndarray]
"""Gives the stereo sound of a recording or session between two ticks, float32 of shape (ticks, 2); silence outside of it."""

OPEN_FILES = 16


@dataclass(frozen=True, slots=True)
class Sounding:
    """A conformed file that sounds, and the tick at which it begins."""

    path: Path
    offset: Ticks = 0


def alone(path: Path) -> tuple[Sounding, ...]:
    """A recording that is one file."""
    return (Sounding(path),)


class Shelf:
    """Conformed sound files, kept open while they are in use. Safe to use from several threads.

    ``locate`` gives the files that sound together under a name: one for a recording, one for each track of a session.
    """

    def __init__(self, locate: Callable[[str], Sequence[Sounding]]) -> None:
        self._locate = locate
        self._open: OrderedDict[Path, soundfile.SoundFile] = OrderedDict()
        self._lock = Lock()

    def read(self, recording: str, start: Ticks, end: Ticks) -> np.ndarray:
        """See :data:`Read`."""
        out = np.zeros((end - start, 2), np.float32)
        sources = self._locate(recording)
        with self._lock:
            for source in sources:
                file = self._file(source.path)
                begin, until = max(source.offset, start), min(end, source.offset + file.frames)
                if begin < until:
                    file.seek(begin - source.offset)
                    out[begin - start : until - start] += file.read(until - begin, "float32", always_2d=True)
        return out

    def mono_16k(self, recording: str, start: Ticks, end: Ticks) -> np.ndarray:
        """The sound between two ticks as the recogniser wants it: float32 mono at 16 kHz."""
        from scipy.signal import resample_poly

        margin = 480
        sound = self.read(recording, start - margin, end + margin).mean(axis=1)
        return resample_poly(sound, 1, 3)[margin // 3 : margin // 3 + (end - start) // 3].astype(np.float32)

    def close(self) -> None:
        with self._lock:
            while self._open:
                self._open.popitem()[1].close()

    def _file(self, path: Path) -> soundfile.SoundFile:
        if path not in self._open:
            self._open[path] = soundfile.SoundFile(path)
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
        sound = read(span.recording, span.start + a - span.at, span.start + b - span.at)
        out[a - begin : b - begin] += sound * _gain(span, a, b)[:, None]
    return out


def _gain(span: Span, begin: Ticks, end: Ticks) -> np.ndarray:
    """Gain of a span at each tick of the programme from ``begin`` to ``end``: equal power in the crossfades."""
    gain = np.ones(end - begin, np.float32)
    if span.fade_in and begin < span.clear_from:
        place = np.arange(begin, min(end, span.clear_from)) - span.at
        gain[: len(place)] *= np.sin(np.pi / 2 * (place + 0.5) / span.fade_in).astype(np.float32)
    if span.fade_out and end > span.clear_to:
        place = np.arange(max(begin, span.clear_to), end) - span.clear_to
        gain[len(gain) - len(place) :] *= np.cos(np.pi / 2 * (place + 0.5) / span.fade_out).astype(np.float32)
    return gain


def pcm16(sound: np.ndarray) -> np.ndarray:
    """Float sound as 16-bit integers, clipped; the one conversion used for preview blocks."""
    return np.clip(np.round(sound * 32767), -32768, 32767).astype("<i2")


def wav_bytes(sound: np.ndarray) -> bytes:
    """A 16-bit WAV file of ``sound``, shape (samples, 2)."""
    from io import BytesIO

    file = BytesIO()
    soundfile.write(file, pcm16(sound), RATE, "PCM_16", format="WAV")
    return file.getvalue()
