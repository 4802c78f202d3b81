"""Mending what is gone from a wave: clicks, and peaks that were cut off.

What is missing is drawn in so that an autoregressive model of its neighbourhood is surprised by it as little as possible
(Janssen, Veldhuis and Vries, "Adaptive interpolation of discrete-time signals that can be modeled as autoregressive processes",
1986).
"""

from __future__ import annotations

import numpy as np
from scipy.linalg import solve_toeplitz
from scipy.ndimage import label, maximum_filter1d, median_filter, minimum_filter1d
from scipy.signal import firwin, oaconvolve

from jaskel.core.timebase import RATE, Ticks

ORDER = 32
AROUND: Ticks = 1024
"""Samples on each side of a gap that tell what the wave does there."""

LONGEST: Ticks = RATE // 250
"""Longer gaps than 4 ms are left: nothing can be said about them."""

REACH: Ticks = AROUND + LONGEST
"""How far what is mended depends on its neighbourhood."""


def draw_in(wave: np.ndarray, begin: int, end: int) -> np.ndarray:
    """What probably stood in ``wave`` (float64, one channel) from ``begin`` to ``end``."""
    first, last = max(0, begin - AROUND), min(len(wave), end + AROUND)
    part = wave[first:last].copy()
    a, b = begin - first, end - first
    # A straight line to begin with; the model is made with it, then once more with what was found.
    before, after = part[a - 1] if a else 0.0, part[b] if b < len(part) else 0.0
    part[a:b] = np.linspace(before, after, b - a + 2)[1:-1]
    for _ in range(2):
        power = np.correlate(part, part, "full")[len(part) - 1 : len(part) + ORDER]
        if power[0] <= 0:
            return part[a:b]
        power[0] *= 1 + 1e-7
        model = np.concatenate([[1.0], -solve_toeplitz(power[:ORDER], power[1 : ORDER + 1])])
        rows = np.arange(max(a, ORDER), min(b + ORDER, len(part)))
        columns = rows[:, None] - np.arange(a, b)[None, :]
        inside = (columns >= 0) & (columns <= ORDER)
        unknown = np.where(inside, model[np.clip(columns, 0, ORDER)], 0.0)
        known = part.copy()
        known[a:b] = 0.0
        rest = np.array([model @ known[row - ORDER : row + 1][::-1] for row in rows])
        part[a:b] = np.linalg.lstsq(unknown, -rest, rcond=None)[0]
    return part[a:b]


_HIGH = firwin(65, 5000, fs=RATE, pass_zero=False)
LEVEL: Ticks = RATE // 200
"""What is high is compared with what is around it by stretches of 5 ms."""


def clicks_in(wave: np.ndarray, threshold: float) -> list[tuple[int, int]]:
    """From-to of clicks: short, ``threshold`` times as far above the noise of its neighbourhood as hisses ever are, and alone.

    What follows or leads to more of its kind is a t or k, or a voice that begins: a click is over at once on both sides.
    """
    high = np.abs(oaconvolve(wave, _HIGH, mode="same"))
    blocks = -(-len(high) // LEVEL)
    usual = np.median(np.pad(high, (0, blocks * LEVEL - len(high))).reshape(blocks, LEVEL), axis=1)
    # A hiss is loud for longer than a click: what is usual around it is what the middle of five stretches has.
    usual = np.maximum(median_filter(usual, 5), 1e-6)
    loud = high > HISS * threshold * np.repeat(usual, LEVEL)[: len(high)]
    if not loud.any():
        return []
    near = maximum_filter1d(loud, 2 * 12 + 1)
    found, count = label(near)
    edges = np.searchsorted(found[np.flatnonzero(found)], [*range(1, count + 2)])
    places = np.flatnonzero(found)
    runs = [(int(places[edges[i]]), int(places[edges[i + 1] - 1]) + 1) for i in range(count)]
    power = np.concatenate([[0.0], np.cumsum(high**2)])

    def beside(first: int, last: int) -> float:
        first, last = max(0, first), min(len(high), last)
        return float(np.sqrt((power[last] - power[first]) / (last - first))) if last > first else 0.0

    def alone(a: int, b: int) -> bool:
        around = max(beside(a - LEVEL, a - CLEAR), beside(b + CLEAR, b + LEVEL))
        return float(high[a:b].max()) > ALONE * threshold * around

    return [(a, b) for a, b in runs if b - a <= LONGEST and alone(a, b)]


CLEAR: Ticks = 20
"""The filter that finds clicks makes them longer by so much."""

ALONE = 4.0
"""A click stands out from the 5 ms on either side of it by so much times its threshold."""

HISS = 7.0
"""Of what is high in a hiss, no sample is more than so many times its median."""


def cut_off_in(wave: np.ndarray, top: float) -> list[tuple[int, int]]:
    """From-to of peaks that were cut off at ``top``: three samples and more in a row that stand there."""
    flat = np.abs(wave) >= top
    flat = maximum_filter1d(minimum_filter1d(flat, 3), 3)
    found, count = label(flat)
    places = np.flatnonzero(found)
    edges = np.searchsorted(found[places], [*range(1, count + 2)])
    runs = [(int(places[edges[i]]), int(places[edges[i + 1] - 1]) + 1) for i in range(count)]
    return [(a, b) for a, b in runs if b - a <= LONGEST]


def without_clicks(wave: np.ndarray, threshold: float) -> np.ndarray:
    """A wave (one channel) without its clicks."""
    out = wave.astype(np.float64)
    for begin, end in clicks_in(out, threshold):
        out[begin:end] = draw_in(out, begin, end)
    return out


def with_peaks(wave: np.ndarray, top: float) -> np.ndarray:
    """A wave (one channel) whose peaks were cut off at ``top``, with what probably was above it."""
    out = wave.astype(np.float64)
    for begin, end in cut_off_in(wave, top):
        drawn, sign = draw_in(out, begin, end), np.sign(wave[begin])
        # It was above the top, and nothing of a voice is three times as high as what was left of it.
        out[begin:end] = sign * np.clip(sign * drawn, np.abs(wave[begin:end]), 3 * top)
    return out
