"""What shows want tidied, and what was refused, in the database."""

from __future__ import annotations

from collections.abc import Sequence
from typing import Any

from sqlalchemy import select
from sqlalchemy.orm import Session

from jaskel.core.tidy.chatter import REMARKS
from jaskel.core.tidy.fillers import FILLERS
from jaskel.core.tidy.finding import phrases_of
from jaskel.core.tidy.judged import Refused
from jaskel.core.tidy.retakes import CUES
from jaskel.core.tidy.settings import STEADY, Settings, Threshold
from jaskel.core.timebase import Ticks
from jaskel.store.models import BroughtText, Refusal, SessionRow, Show, VoiceActivity
from jaskel.store.sessions import sound_name


def settings_of(show: Show) -> Settings:
    """What a show wants tidied, and how."""
    known: dict[str, Any] = show.tidy or {}
    rests = known.get("rests")
    return Settings(
        fillers=frozenset(known["fillers"]) if "fillers" in known else FILLERS,
        cues=frozenset(known["cues"]) if "cues" in known else CUES,
        remarks=phrases_of("\n".join(known["remarks"])) if "remarks" in known else REMARKS,
        rhythm=known.get("rhythm", STEADY),
        rests=Threshold(*rests) if rests else None,
        voices={voice: Threshold(*limit) for voice, limit in known.get("voices", {}).items()},
        keep_answers=known.get("keep_answers", False),
        actions=known.get("actions", {}),
    )


def sounds_as(session: Session, name: str) -> str:
    """Changes where a recording or session may sound otherwise than before."""
    return sound_name(session, [name]) if session.get(SessionRow, name) else name


def voice_known(session: Session, name: str) -> list[tuple[Ticks, Ticks]] | None:
    """From-to of where there is voice, None where nobody has listened yet."""
    row = session.get(VoiceActivity, name)
    if row is None or row.state != sounds_as(session, name):
        return None
    return [(start, end) for start, end in row.stretches]


def keep_voice(session: Session, name: str, stretches: Sequence[tuple[Ticks, Ticks]]) -> None:
    """Remember where there is voice in a recording or session as it sounds now."""
    session.merge(VoiceActivity(name=name, state=sounds_as(session, name), stretches=[list(each) for each in stretches]))


def script_of(session: Session, name: str) -> list[str]:
    """The words of the text that was brought to a recording, or to the tracks of a session, and followed; newest first."""
    row = session.get(SessionRow, name)
    names = [track.recording_id for track in row.tracks] if row else [name]
    texts = select(BroughtText).where(BroughtText.recording_id.in_(names), BroughtText.state.in_(("taken", "guided")))
    newest = session.scalars(texts.order_by(BroughtText.created.desc()).limit(1)).first()
    return [word[0] for word in newest.words] if newest else []


def refusals_of(session: Session, edition_id: str) -> dict[str, Refused]:
    """What was refused in an edition, by the ids of its rows."""
    rows = session.scalars(select(Refusal).where(Refusal.edition_id == edition_id).order_by(Refusal.start))
    return {row.id: Refused(row.kind, row.recording, row.start, row.end) for row in rows}
