"""Loudness by EBU R 128 and ITU-R BS.1770-4, and bringing a sound to a loudness with a true-peak limiter.

Measured by libavfilter's ``ebur128``; held by :mod:`jaskel.media.limiter`.
"""

from __future__ import annotations

import math
from collections.abc import Callable, Iterable, Iterator
from dataclasses import dataclass
from fractions import Fraction
from typing import Any

import av
import numpy as np

from jaskel.core.marks.level import gain
from jaskel.core.timebase import RATE
from jaskel.media.limiter import held_under

SILENT = -70.0
"""In LUFS: the gate of the measure; what is softer has no loudness."""


@dataclass(frozen=True)
class Loudness:
    """Integrated loudness in LUFS, its range in LU, and the true peak in dBTP; -inf where there is only silence."""

    integrated: float
    range: float
    peak: float

    @property
    def is_silent(self) -> bool:
        return self.integrated <= SILENT


class Meter:
    """Measures what goes through it, a block (float32, samples by channels) at a time."""

    def __init__(self, channels: int) -> None:
        self._layout = "mono" if channels == 1 else "stereo"
        graph = av.filter.Graph()
        source = graph.add_abuffer(sample_rate=RATE, format="flt", layout=self._layout, time_base=Fraction(1, RATE))
        meter = graph.add("ebur128", "peak=true:metadata=1:framelog=quiet")
        sink = graph.add("abuffersink")
        source.link_to(meter)
        meter.link_to(sink)
        graph.configure()
        self._graph, self._at, self._told = graph, 0, 0
        self._last: dict[str, str] = {}
        self.short_term: list[float] = []
        """In LUFS, of the three seconds up to each full second."""

    def add(self, sound: np.ndarray) -> None:
        frame = av.AudioFrame.from_ndarray(np.ascontiguousarray(sound.reshape(1, -1), np.float32), "flt", self._layout)
        frame.sample_rate, frame.pts, frame.time_base = RATE, self._at, Fraction(1, RATE)
        self._at += len(sound)
        self._graph.push(frame)
        self._pull()

    def _pull(self) -> None:
        while True:
            try:
                measured: Any = self._graph.pull()
            except (av.BlockingIOError, av.EOFError):
                return
            self._last = dict(measured.metadata) or self._last
            if self._told >= (len(self.short_term) + 1) * RATE:
                self.short_term.append(float(self._last.get("lavfi.r128.S", -math.inf)))
            self._told += measured.samples

    def loudness(self) -> Loudness:
        """What it came to. Nothing can be added after that."""
        # A measure is told every tenth of a second; what is left of one is filled up with silence, which is gated.
        channels = 1 if self._layout == "mono" else 2
        self.add(np.zeros((RATE // 5, channels), np.float32))
        self._graph.push(None)
        self._pull()

        def told(name: str, nothing: float) -> float:
            value = float(self._last.get(f"lavfi.r128.{name}", nothing))
            return value if math.isfinite(value) else nothing

        peaks = [told(f"true_peaks_ch{channel}", 0.0) for channel in range(channels)]
        peak = 20 * math.log10(max(peaks)) if max(peaks) > 0 else -math.inf
        integrated = told("I", -math.inf)
        return Loudness(integrated if integrated > SILENT else -math.inf, told("LRA", 0.0), peak)


def measured(sound: Iterable[np.ndarray], channels: int) -> Loudness:
    """The loudness of a sound given in blocks."""
    meter = Meter(channels)
    for block in sound:
        meter.add(block)
    return meter.loudness()


MARGIN = 0.02
"""In decibels: so much lower the limiter is set at first, for its gain moves between samples, too."""


@dataclass(frozen=True)
class Setting:
    """How a sound is brought to a loudness: raised by so many decibels, under a true peak (dBTP) less a margin."""

    decibels: float
    peak: float
    margin: float = MARGIN


TRIES, WITHIN = 4, 0.03
"""The limiter takes some loudness away where it works, and its gain moves between samples. Both are
measured and made good, so often at most; so near to a loudness, in LU, nothing is done again."""


def setting_for(
    sound: Callable[[], Iterator[np.ndarray]], channels: int, loudness: float | None, peak: float
) -> tuple[Setting | None, Loudness]:
    """What brings a sound to a loudness (LUFS) under a true peak (dBTP), and how loud it then is.

    ``sound`` gives it anew each time. None where there is nothing to do; without a ``loudness`` only the peak is seen to.
    """
    found = measured(sound(), channels)
    if found.is_silent or (found.peak <= peak and (loudness is None or abs(loudness - found.integrated) <= WITHIN)):
        return None, found
    setting = Setting(0.0 if loudness is None else loudness - found.integrated, peak)
    for number in range(TRIES):
        found = measured(brought_to(sound(), channels, setting), channels)
        short = 0.0 if loudness is None else loudness - found.integrated
        over = max(0.0, found.peak - peak)
        if (abs(short) <= WITHIN and over == 0) or number + 1 == TRIES:
            break
        setting = Setting(setting.decibels + short, peak, setting.margin + (over + 0.05 if over else 0))
    return setting, found


def brought_to(sound: Iterator[np.ndarray], channels: int, setting: Setting) -> Iterator[np.ndarray]:
    """A sound raised and held as a setting says; as long as it was, in blocks."""
    factor = np.float32(gain(setting.decibels))
    return held_under((block * factor for block in sound), channels, setting.peak - setting.margin)
