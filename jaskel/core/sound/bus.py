"""The bus: what the whole programme goes through after it is mixed, one gain and a true-peak limiter."""

from __future__ import annotations

from dataclasses import dataclass

from jaskel.core.timebase import RATE, Ticks

TAPS = 32
"""Of the filter by which the limiter sees peaks between samples, on each side of a sample."""

AHEAD: Ticks = RATE * 3 // 1000
"""The limiter is down so long before a peak and stays down so long after it, and takes that long to get there."""

RELEASE = 2.0**-9
"""In decibels for each sample, 94 a second. A power of two: sums of it are exact, wherever one begins to count."""

DEEPEST = 24.0
"""In decibels. More than that nobody limits; it bounds the memory."""

REACH: Ticks = TAPS + 2 * AHEAD + round(DEEPEST / RELEASE)
"""How far from a sample what decides its gain may lie: 0.26 s."""


@dataclass(frozen=True, slots=True)
class Bus:
    """The programme is raised by ``decibels`` and held under a true ``peak`` in dBTP; ``mono`` is the same on both sides."""

    decibels: float
    peak: float
    mono: bool = False
