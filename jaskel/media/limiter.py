"""A true-peak limiter that looks ahead and has a finite memory: what it gives at a sample depends on its neighbourhood alone.

So a stretch limited by itself, with enough sound on either side, is the same stretch of the whole to the last bit: listening
and exporting can limit whatever part they want.

Peaks between samples are seen at four times the rate (ITU-R BS.1770-4, annex 2). The gain goes down shortly before a peak along
a raised cosine, and comes back up steadily; the constants of :mod:`jaskel.core.sound.bus` say how fast.
"""

from __future__ import annotations

from collections.abc import Iterator

import numpy as np
from scipy.ndimage import correlate1d, minimum_filter1d
from scipy.signal import firwin, upfirdn

from jaskel.core.marks.level import gain
from jaskel.core.sound.bus import AHEAD, DEEPEST, REACH, RELEASE, TAPS

OVER = 4

_GRAIN = 2.0**-30
"""Gains in decibels are multiples of it, so that adding and taking off the release is exact."""

_UP = (firwin(2 * TAPS * OVER + 1, 0.97 / OVER, window=("kaiser", 9.0)) * OVER).astype(np.float64)
_SMOOTH = np.hanning(2 * AHEAD + 3)[1:-1] / np.hanning(2 * AHEAD + 3)[1:-1].sum()


def peaks_of(sound: np.ndarray) -> np.ndarray:
    """The true peak around each sample, over all channels: float64 of shape (samples,)."""
    most = np.abs(sound).max(axis=1)
    for channel in range(sound.shape[1]):
        between = np.abs(upfirdn(_UP, sound[:, channel], OVER)[TAPS * OVER : TAPS * OVER + OVER * len(sound)])
        by_sample = between.reshape(-1, OVER).max(axis=1)
        np.maximum(most, by_sample, out=most)
        # What lies between two samples is lowered with both.
        np.maximum(most[1:], by_sample[:-1], out=most[1:])
    return np.asarray(most, np.float64)


def limited(sound: np.ndarray, peak: float) -> np.ndarray:
    """``sound``, shape (samples, channels), held under a true ``peak`` in dBTP.

    It is what a longer sound would give but for the ``REACH`` samples at its ends.
    """
    ceiling = gain(peak)
    if not len(sound) or np.abs(sound).max() * 4 < ceiling:  # nothing between samples is four times as high as they are
        return sound
    most = peaks_of(sound)
    if most.max() <= ceiling:
        return sound
    needed = np.maximum(20 * np.log10(ceiling / np.maximum(most, ceiling)), -DEEPEST)
    held = minimum_filter1d(needed, 2 * AHEAD + 1, mode="constant", cval=0.0)
    smooth = np.floor(correlate1d(held, _SMOOTH, mode="constant", cval=0.0) / _GRAIN) * _GRAIN
    climb = np.arange(len(sound)) * RELEASE
    down = np.minimum(np.minimum.accumulate(smooth - climb) + climb, 0.0)
    return np.asarray(sound * (10 ** (down / 20))[:, None], sound.dtype)


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
