"""Voices without a name that sound like a named one of the same show."""

from __future__ import annotations

from sqlalchemy import select
from sqlalchemy.orm import Session

from jaskel.core.voiceprints import nearest
from jaskel.store.models import Show, Voice, VoicePrint


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
        named = {other: theirs for other, theirs in prints.items() if voices[other].name}
        if like := nearest(mine, named):
            found[voice_id] = like
    return found
