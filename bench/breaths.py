"""Made-up breaths laid into the rests of recordings that have none, so that it is known where they are."""

from __future__ import annotations

from collections.abc import Iterable
from itertools import pairwise

import numpy as np
from scipy.signal import butter, sosfilt

from jaskel.speech.recognise import RATE_16K

LENGTHS = (0.2, 0.25, 0.3, 0.35, 0.4)
BELOW_VOICE = (16, 20, 24)
"""Seconds and decibels, in turns."""

ROOM, BEFORE_VOICE = 0.15, 0.05
"""A rest has a breath where it is so much longer, in seconds; so long before the next word the breath ends."""


def breath(seconds: float, level: float, seed: int) -> np.ndarray:
    """Air, float32 mono at 16 kHz: noise from 400 to 5,000 Hz that swells and dies away."""
    noise = np.random.default_rng(seed).standard_normal(round(seconds * RATE_16K))
    shaped = sosfilt(butter(2, (400, 5000), "bandpass", fs=RATE_16K, output="sos"), noise) * np.hanning(len(noise)) ** 0.5
    return (level * shaped / np.sqrt((shaped**2).mean())).astype(np.float32)


def breathing(sound: np.ndarray, spoken: Iterable[tuple[float, float]]) -> tuple[np.ndarray, list[tuple[float, float]]]:
    """The sound with a breath in every rest that has room for it, and from-to of each in seconds.

    ``spoken`` is from-to in seconds of all that is said, in order.
    """
    known = list(spoken)
    voice = np.concatenate([sound[round(a * RATE_16K) : round(b * RATE_16K)] for a, b in known])
    level = float(np.sqrt((voice**2).mean()))
    breathed, taken = sound.copy(), []
    for number, ((_, begun), (until, _)) in enumerate(pairwise(known)):
        length = LENGTHS[number % len(LENGTHS)]
        if until - begun < length + ROOM:
            continue
        start = until - BEFORE_VOICE - length
        softer = BELOW_VOICE[number % len(BELOW_VOICE)]
        air = breath(length, level * 10 ** (-softer / 20), number)
        breathed[round(start * RATE_16K) :][: len(air)] += air
        taken.append((start, start + length))
    return breathed, taken
