"""Telling voices by their prints: see :func:`jaskel.speech.voices.print_of` for what a print is."""

from __future__ import annotations

import math
from collections.abc import Mapping, Sequence

Print = Sequence[float]

NEAR = 0.28
"""How far apart two prints of one voice may be. Measured: the same voice through one microphone up to 0.1, through two up to
0.26; two voices of one synthesiser from 0.27 on."""

CLEARER = 0.04
"""By how much nearer the nearest voice must be than the next."""


def nearest(mine: Sequence[Print], others: Mapping[str, Sequence[Print]]) -> str | None:
    """The one of ``others`` whose prints are like ``mine``; None where none is near, or two are nearly as near."""
    far = sorted((min(distance(a, b) for a in mine for b in theirs), name) for name, theirs in others.items())
    if not far or far[0][0] > NEAR or (len(far) > 1 and far[1][0] - far[0][0] < CLEARER):
        return None
    return far[0][1]


def distance(one: Print, other: Print) -> float:
    """Root mean square of the distance of the means (first half) in units of their spread (second half). The lowest cepstrum is
    left out: it tells more of the microphone than of the voice.
    """
    half = len(one) // 2
    parts = [(one[i] - other[i]) ** 2 / ((one[half + i] ** 2 + other[half + i] ** 2) / 2 + 1e-9) for i in range(1, half)]
    return math.sqrt(sum(parts) / len(parts))
