"""Who speaks into which microphone: telling a voice from the bleed of the others.

Each microphone of a session hears its own voice loud and the others faintly. How faintly is measured for each pair, from the
moments when the other voice is loud. A moment belongs to a microphone when it is louder there than that bleed explains.
"""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np
from scipy.ndimage import binary_closing, binary_dilation, maximum_filter1d, uniform_filter1d

from jaskel.speech.recognise import RATE_16K

HOPS_A_SECOND = 100
HOP = RATE_16K // HOPS_A_SECOND

MARGIN = 8.0
"""Decibels above the bleed that make a voice its own: echoes of a room swing by about as much."""

ABOVE_NOISE = 8.0
"""Decibels above its quiet moments at which a microphone hears anything."""

BRIDGED = 30
"""Hops (0.3 s) that a voice may fall silent in a word or between two."""

AROUND = 12
"""Hops (0.12 s) taken along before and after, for soft beginnings and ends of words."""

LOUD = 75
"""A voice is loud in this percentile of the moments when it speaks at all."""


def levels(sound: np.ndarray) -> np.ndarray:
    """Level in decibels for each 10 ms of float32 mono at 16 kHz, smoothed over 50 ms."""
    count = len(sound) // HOP
    power = np.square(sound[: count * HOP].reshape(count, HOP)).mean(axis=1)
    return (10 * np.log10(uniform_filter1d(power, 5) + 1e-10)).astype(np.float32)


def own_speech(tracks: Sequence[np.ndarray]) -> list[np.ndarray]:
    """For each microphone, the hops that are its own voice.

    ``tracks`` are the levels of microphones on one clock, of equal length (see :func:`levels`); -100 where one does not record.
    """
    floors = [float(np.percentile(level[level > -99], 10)) if (level > -99).any() else -100.0 for level in tracks]
    heard = [level > floor + ABOVE_NOISE for level, floor in zip(tracks, floors, strict=True)]
    own: list[np.ndarray] = []
    for here, level in enumerate(tracks):
        mine = heard[here].copy()
        for other, loudness in enumerate(tracks):
            if other == here or not heard[other].any():
                continue
            expected = maximum_filter1d(loudness, 7) + _bleed(loudness, level, heard[other])
            mine &= level > expected + MARGIN
        mine = binary_closing(np.pad(mine, BRIDGED), np.ones(BRIDGED))[BRIDGED:-BRIDGED]
        own.append(binary_dilation(mine, np.ones(2 * AROUND + 1)))
    return own


def _bleed(source: np.ndarray, into: np.ndarray, heard: np.ndarray) -> float:
    """How many decibels of ``source`` arrive in ``into``: what the latter hears at the least while the former is loud.

    While the other voice is silent it is bleed alone that is heard, and that is the lower half of all moments.
    """
    loud = heard & (source > np.percentile(source[heard], LOUD))
    recorded = loud & (into > -99)
    return float(np.percentile((into - source)[recorded], 30)) if recorded.any() else -100.0


def ranges(hops: np.ndarray) -> list[tuple[float, float]]:
    """From-to in seconds of where ``hops`` is true."""
    edges = np.flatnonzero(np.diff(np.concatenate([[0], hops.astype(np.int8), [0]])))
    return [(a / HOPS_A_SECOND, b / HOPS_A_SECOND) for a, b in edges.reshape(-1, 2).tolist()]
