"""A true-peak limiter that looks ahead and has a finite memory: what it gives at a sample depends on its neighbourhood alone.

So a stretch limited by itself, with enough sound on either side, is the same stretch of the whole to the last bit: listening
and exporting can limit whatever part they want.

Peaks between samples are seen at four times the rate (ITU-R BS.1770-4, annex 2). The gain goes down shortly before a peak along
a raised cosine, and comes back up steadily; the constants of :mod:`jaskel.core.sound.bus` say how fast.
"""

from __future__ import annotations

from collections.abc import Iterator
from itertools import pairwise

import numpy as np
from scipy.ndimage import correlate1d, maximum_filter1d, minimum_filter1d
from scipy.signal import firwin, upfirdn

from jaskel.core.marks.level import gain
from jaskel.core.sound.bus import AHEAD, DEEPEST, REACH, RELEASE, TAPS

OVER = 4

_GRAIN = 2.0**-30
"""Gains in decibels are multiples of it, so that adding and taking off the release is exact."""

_UP = (firwin(2 * TAPS * OVER + 1, 0.97 / OVER, window=("kaiser", 9.0)) * OVER).astype(np.float64)
_HIGHEST = max(float(np.abs(_UP[phase::OVER]).sum()) for phase in range(OVER))
"""So many times as high as the samples around it is what lies between two of them, at most."""

_BLOCK = 256
"""Samples that are looked at together; more than the filter is long to either side."""

_SMOOTH = np.hanning(2 * AHEAD + 3)[1:-1] / np.hanning(2 * AHEAD + 3)[1:-1].sum()


def peaks_of(sound: np.ndarray) -> np.ndarray:
    """The true peak around each sample, over all channels: float64 of shape (samples,)."""
    most = np.maximum.reduce([*np.abs(sound.T)])
    for channel in range(sound.shape[1]):
        between = np.abs(upfirdn(_UP, sound[:, channel], OVER)[TAPS * OVER : TAPS * OVER + OVER * len(sound)])
        by_sample = np.maximum.reduce([between[phase::OVER] for phase in range(OVER)])
        np.maximum(most, by_sample, out=most)
        # What lies between two samples is lowered with both.
        np.maximum(most[1:], by_sample[:-1], out=most[1:])
    return np.asarray(most, np.float64)


def limited(sound: np.ndarray, peak: float) -> np.ndarray:
    """``sound``, shape (samples, channels), held under a true ``peak`` in dBTP.

    It is what a longer sound would give but for the ``REACH`` samples at its ends. Speech is seldom loud: only around what has
    to come down is anything computed.
    """
    places, needed = _over(sound, gain(peak))
    if not len(places):
        return sound
    held = sound.copy()
    for begin, end, (first, last) in _apart(places, needed, len(sound)):
        wanted = np.zeros(end - begin)
        wanted[places[first:last] - begin] = needed[first:last]
        lowest = minimum_filter1d(wanted, 2 * AHEAD + 1, mode="constant", cval=0.0)
        smooth = np.floor(correlate1d(lowest, _SMOOTH, mode="constant", cval=0.0) / _GRAIN) * _GRAIN
        climb = np.arange(end - begin) * RELEASE
        down = np.minimum(np.minimum.accumulate(smooth - climb) + climb, 0.0)
        held[begin:end] = sound[begin:end] * (10 ** (down / 20))[:, None]
    return held


def _over(sound: np.ndarray, ceiling: float) -> tuple[np.ndarray, np.ndarray]:
    """The samples around which the true peak is over a ceiling, and by how many decibels it has to come down there."""
    places, needed = [np.zeros(0, int)], [np.zeros(0)]
    for begin, end in _loud(sound, ceiling):
        start = max(0, begin - TAPS - 1)
        most = peaks_of(sound[start : end + TAPS])[begin - start : end - start]
        found = np.flatnonzero(most > ceiling)
        places.append(begin + found)
        needed.append(np.maximum(20 * np.log10(ceiling / most[found]), -DEEPEST))
    return np.concatenate(places), np.concatenate(needed)


def _loud(sound: np.ndarray, ceiling: float) -> Iterator[tuple[int, int]]:
    """The stretches beside which samples are so high that what lies between them may be over a ceiling."""
    if not len(sound):
        return
    blocks = np.maximum.reduceat(np.abs(sound), np.arange(0, len(sound), _BLOCK)).max(axis=1)
    loud = maximum_filter1d(blocks, 3, mode="nearest") * _HIGHEST > ceiling
    edges = np.flatnonzero(np.diff(loud, prepend=False, append=False)) * _BLOCK
    yield from ((int(begin), min(int(end), len(sound))) for begin, end in edges.reshape(-1, 2))


def _apart(places: np.ndarray, needed: np.ndarray, length: int) -> Iterator[tuple[int, int, tuple[int, int]]]:
    """Stretches beyond which nothing comes down, each with which of the ``places`` are in it, as a slice has them."""
    until = np.maximum.accumulate(places + 2 * AHEAD + np.ceil(-needed / RELEASE).astype(int) + 2)
    begins = np.flatnonzero(np.concatenate([[True], places[1:] - 2 * AHEAD > until[:-1]]))
    for first, last in pairwise([*begins.tolist(), len(places)]):
        yield max(0, int(places[first]) - 2 * AHEAD), min(int(until[last - 1]), length), (first, last)


def held_under(sound: Iterator[np.ndarray], channels: int, peak: float) -> Iterator[np.ndarray]:
    """The same for a sound that comes in blocks; gives blocks that together are as long."""
    kept = np.zeros((0, channels), np.float32)
    before = 0  # so much of what is kept was given already
    for block in sound:
        kept = np.concatenate([kept, block])
        ready = len(kept) - REACH
        if ready > before:
            yield limited(kept, peak)[before:ready]
            start = max(0, ready - REACH)
            kept, before = kept[start:], ready - start
    if len(kept) > before:
        yield limited(kept, peak)[before:]
