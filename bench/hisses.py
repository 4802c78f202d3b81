"""How true the truths are: where words that begin with a hiss are heard to begin, beside where their truth has them.

A hiss begins where the level above 3.5 kHz has risen half way from what it was before; that needs no recogniser and no aligner.
"""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from typing import Any

import numpy as np
from scipy.signal import butter, sosfiltfilt

from jaskel.speech.recognise import RATE_16K

HISS = butter(4, 3500, "high", fs=RATE_16K, output="sos")
BEFORE, AFTER = 0.15, 0.15
HOP = RATE_16K // 200
CLEAR = 12.0
"""Decibels by which a hiss must rise for its beginning to be told."""


def beginnings(sound: np.ndarray, words: Sequence[Mapping[str, Any]]) -> np.ndarray:
    """Seconds from the true start of each word that begins with s or sh to where it is heard; ``sound`` is mono at 16 kHz."""
    high = sosfiltfilt(HISS, sound)
    found = []
    for word in words:
        text = word["text"].lower()
        if not word["exact"] or text[0] != "s" or text[:2] in ("sc", "sk", "sp", "st"):
            continue
        first = round((word["start"] - BEFORE) * RATE_16K)
        near = high[max(0, first) : round((word["start"] + AFTER) * RATE_16K)]
        levels = 10 * np.log10(np.mean(near[: len(near) // HOP * HOP].reshape(-1, HOP) ** 2, axis=1) + 1e-9)
        peak = int(levels[10:].argmax()) + 10
        quiet = int(levels[:peak].argmin())
        if levels[peak] - levels[quiet] >= CLEAR:
            risen = quiet + int(np.argmax(levels[quiet:peak] >= (levels[quiet] + levels[peak]) / 2))
            found.append(risen * HOP / RATE_16K - BEFORE)
    return np.array(found)
