"""Bringing the sound of one voice near that of another with an equaliser."""

from __future__ import annotations

from collections.abc import Sequence
from itertools import pairwise
from math import log2
from typing import Any

from jaskel.core.sound.processor import Equaliser

PLAIN = (
    (50, -14.0),
    (100, -2.0),
    (200, 0.0),
    (400, 0.0),
    (800, -4.0),
    (1600, -9.0),
    (3200, -14.0),
    (6400, -18.0),
    (12800, -24.0),
)
"""The long-term average spectrum of speech, in decibels to its own maximum, by octaves (smoothed after Byrne et al., "An
international comparison of long-term average speech spectra", 1994)."""

MOST = 9.0
"""In decibels: further away than that, another voice is not brought nearer by an equaliser."""

SHARE = 0.8

BANDS = (
    ("shelf_low", 60, 180, 120.0),
    ("bell_low", 200, 600, 350.0),
    ("bell_high", 1500, 5000, 2800.0),
    ("shelf_high", 6000, 14_000, 8000.0),
)
"""The bands of the equaliser: from where to where each is compared, and where it works."""


def matched(hertz: Sequence[float], mine: Sequence[float], wanted: Sequence[float] | None) -> Equaliser:
    """The equaliser that brings a spectrum near another, or near plain speech; both in decibels at ``hertz``."""
    other = wanted if wanted is not None else [plain(each) for each in hertz]
    differences = [b - a for a, b in zip(mine, other, strict=True)]
    middle = _mean([d for f, d in zip(hertz, differences, strict=True) if 200 <= f <= 5000])
    settings: dict[str, Any] = {"bell_low_q": 0.7, "bell_high_q": 0.7}
    for name, low, high, at in BANDS:
        found = _mean([d for f, d in zip(hertz, differences, strict=True) if low <= f <= high]) - middle
        settings[name] = at
        settings[f"{name}_gain"] = round(min(MOST, max(-MOST, SHARE * found)) * 2) / 2
    return Equaliser(**settings)


def plain(hertz: float) -> float:
    """Plain speech at a frequency, in decibels.

    >>> plain(200), plain(50)
    (0.0, -14.0)
    """
    for (low, one), (high, other) in pairwise(PLAIN):
        if hertz <= high:
            share = min(1.0, max(0.0, log2(hertz / low) / log2(high / low)))
            return one + (other - one) * share
    return PLAIN[-1][1]


def _mean(values: Sequence[float]) -> float:
    return sum(values) / len(values) if values else 0.0
