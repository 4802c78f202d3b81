"""What shows want tidied, and what was refused, in the database."""

from __future__ import annotations

from collections.abc import Sequence
from typing import Any

from sqlalchemy import select
from sqlalchemy.orm import Session

from jaskel.core.tidy.chatter import REMARKS
from jaskel.core.tidy.fillers import FILLERS
from jaskel.core.tidy.finding import phrases_of
from jaskel.core.tidy.heard import NOTHING, Heard
from jaskel.core.tidy.retakes import CUES
from jaskel.core.tidy.review import Refused, Spoken
from jaskel.core.tidy.settings import STEADY, Threshold, TidySettings
from jaskel.core.transcript import Word
from jaskel.store.models import BroughtText, HeardRow, Recording, Refusal, SessionRow, Show
from jaskel.store.sessions import sound_name, tracks_of


def settings_of(show: Show) -> TidySettings:
    """What a show wants tidied, and how."""
    known: dict[str, Any] = show.tidy or {}
    rests = known.get("rests")
    return TidySettings(
        fillers=frozenset(known["fillers"]) if "fillers" in known else FILLERS,
        cues=frozenset(known["cues"]) if "cues" in known else CUES,
        remarks=phrases_of("\n".join(known["remarks"])) if "remarks" in known else REMARKS,
        rhythm=known.get("rhythm", STEADY),
        rests=Threshold(*rests) if rests else None,
        voices={voice: Threshold(*limit) for voice, limit in known.get("voices", {}).items()},
        keep_answers=known.get("keep_answers", False),
        keep_laughter=known.get("keep_laughter", False),
        soften_breaths=known.get("soften_breaths", False),
        actions=known.get("actions", {}),
    )


def language_of(session: Session, name: str) -> str:
    """The language of a recording, or of a session: that of its first track."""
    row = session.get(SessionRow, name)
    recording = row.tracks[0].recording if row and row.tracks else session.get(Recording, name)
    return recording.language if recording and recording.language != "auto" else "en"


def sounds_as(session: Session, name: str) -> str:
    """Changes where a recording or session may sound otherwise than before."""
    return sound_name(session, [name]) if session.get(SessionRow, name) else name


def heard_in(session: Session, name: str) -> Heard | None:
    """What is to be heard besides words, None where nobody has listened yet."""
    row = session.get(HeardRow, name)
    if row is None or row.state != sounds_as(session, name):
        return None
    return Heard(*([(start, end) for start, end in stretches] for stretches in (row.voice, row.breaths, row.bursts)))


def keep_heard(session: Session, name: str, heard: Heard) -> None:
    """Remember what is to be heard in a recording or session as it sounds now."""
    voice, breaths, bursts = ([list(each) for each in stretches] for stretches in (heard.voice, heard.breaths, heard.bursts))
    session.merge(HeardRow(name=name, state=sounds_as(session, name), voice=voice, breaths=breaths, bursts=bursts))


def material_of(session: Session, name: str, words: Sequence[Word]) -> Spoken:
    """What accepting findings of a recording or session needs to know of it."""
    return Spoken(words, heard_in(session, name) or NOTHING, tracks_of(session, name))


def script_of(session: Session, name: str) -> list[str]:
    """The words of the text that was brought to a recording, or to the tracks of a session, and followed; newest first."""
    row = session.get(SessionRow, name)
    names = [track.recording_id for track in row.tracks] if row else [name]
    taken = BroughtText.state.in_(("taken", "guided"))
    texts = select(BroughtText).where(BroughtText.recording_id.in_(names), taken, BroughtText.deleted.is_(None))
    newest = session.scalars(texts.order_by(BroughtText.created.desc()).limit(1)).first()
    return [word[0] for word in newest.words] if newest else []


def refusals_of(session: Session, edition_id: str) -> dict[str, Refused]:
    """What was refused in an edition, by the ids of its rows."""
    rows = session.scalars(select(Refusal).where(Refusal.edition_id == edition_id).order_by(Refusal.start))
    return {row.id: Refused(row.kind, row.recording, row.start, row.end) for row in rows}
