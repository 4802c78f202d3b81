"""Voices without a name that sound like a named one of the same show."""

from __future__ import annotations

import math
from collections.abc import Sequence

from sqlalchemy import select
from sqlalchemy.orm import Session

from jaskel.store.models import Show, Voice, VoicePrint

NEAR = 0.28
"""How far apart two prints of one voice may be. Measured: the same voice through one microphone up to 0.1, through two up to
0.26; two voices of one synthesiser from 0.27 on."""

CLEARER = 0.04
"""By how much nearer the nearest voice must be than the next."""


def recognised(session: Session, show: Show) -> dict[str, str]:
    """For voices without a name the id of the named voice that each sounds like. It is a proposal, no more."""
    voices = {voice.id: voice for voice in show.voices}
    if all(voice.name for voice in voices.values()):
        return {}
    prints: dict[str, list[list[float]]] = {}
    for row in session.scalars(select(VoicePrint).join(Voice, Voice.id == VoicePrint.voice_id).where(Voice.show_id == show.id)):
        prints.setdefault(row.voice_id, []).append(row.print)
    found = {}
    for voice_id, mine in prints.items():
        if voices[voice_id].name:
            continue
        far = sorted(
            (min(_distance(a, b) for a in mine for b in theirs), other)
            for other, theirs in prints.items()
            if voices[other].name
        )
        if far and far[0][0] <= NEAR and (len(far) < 2 or far[1][0] - far[0][0] >= CLEARER):
            found[voice_id] = far[0][1]
    return found


def _distance(one: Sequence[float], other: Sequence[float]) -> float:
    """Root mean square of the distance of the means (first half) in units of their spread (second half). The lowest cepstrum is
    left out: it tells more of the microphone than of the voice.
    """
    half = len(one) // 2
    parts = [(one[i] - other[i]) ** 2 / ((one[half + i] ** 2 + other[half + i] ** 2) / 2 + 1e-9) for i in range(1, half)]
    return math.sqrt(sum(parts) / len(parts))
