"""Telling voices by their prints: see :func:`jaskel.speech.voices.print_of` for what a print is."""

from __future__ import annotations

import math
from collections.abc import Mapping, Sequence

Print = Sequence[float]

NEAR = 0.15
"""How far apart (one less the cosine) two prints of one voice may be. Measured: the same voice through one microphone up to
0.03, in a mix of two up to 0.12; two voices of one synthesiser from 0.21 on."""

CLEARER = 0.05
"""By how much nearer the nearest voice must be than the next."""


def nearest(mine: Sequence[Print], others: Mapping[str, Sequence[Print]]) -> str | None:
    """The one of ``others`` whose prints are like ``mine``; None where none is near, or two are nearly as near."""
    far = sorted((min(distance(a, b) for a in mine for b in theirs), name) for name, theirs in others.items())
    if not far or far[0][0] > NEAR or (len(far) > 1 and far[1][0] - far[0][0] < CLEARER):
        return None
    return far[0][1]


def distance(one: Print, other: Print) -> float:
    """One less the cosine of two prints, from 0 to 2; without bound where they were not taken in the same way."""
    if len(one) != len(other):
        return math.inf
    return 1 - sum(a * b for a, b in zip(one, other, strict=True)) / (math.hypot(*one) * math.hypot(*other) + 1e-9)
