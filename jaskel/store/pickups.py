"""Lines said again in the database: what a recording is a line of, where one takes it from, and who may be spoken for."""

from __future__ import annotations

from dataclasses import asdict, dataclass, replace
from typing import Any, Literal

from sqlalchemy import select
from sqlalchemy.orm import Session

from jaskel.core.pickup import How, Spot
from jaskel.core.source import SaidAgain
from jaskel.core.timebase import Ticks
from jaskel.store import spoken
from jaskel.store.models import Recording, Voice, now

KIND = "pickup"


@dataclass(frozen=True)
class Line:
    """What a recording of kind ``pickup`` is: what takes the place of what, by whom, and how it came about.

    ``machine`` is the name of the voice that spoke it; ``source_of`` and ``source_at`` say where it was borrowed.
    """

    how: How
    text: str
    was: str
    home: str
    track: str
    start: Ticks
    end: Ticks
    voice: str | None
    machine: str = ""
    source_of: str = ""
    source_at: Ticks = 0

    def source(self, recording: str) -> SaidAgain:
        """The line as a source of pieces."""
        return SaidAgain(recording, self.home, self.track, self.start, self.end)

    @property
    def told(self) -> str:
        """What it did, for the history."""
        by = {"borrowed": "borrowed from elsewhere", "recorded": "recorded anew", "spoken": "spoken by a machine"}[self.how]
        same = self.was.casefold() == self.text.casefold()
        return f"“{self.text}” said again, {by}" if same else f"“{self.was}” said again as “{self.text}”, {by}"


def line_of(recording: Recording) -> Line:
    """What the line in a recording is."""
    return Line(**recording.pickup)


def line_values(line: Line) -> dict[str, Any]:
    """A line as it is stored."""
    return asdict(line)


def lines_of(session: Session, spot: Spot, episode_id: str) -> list[Recording]:
    """The lines that were made for a spot, or for one that overlaps it, the newest first."""
    rows = session.scalars(
        select(Recording).where(Recording.episode_id == episode_id, Recording.kind == KIND).order_by(Recording.created.desc())
    )
    return [row for row in rows if _overlaps(line_of(row), spot)]


def _overlaps(line: Line, spot: Spot) -> bool:
    return line.home == spot.home and line.start < spot.end and spot.start < line.end


@dataclass(frozen=True)
class Consent:
    """That of a person to be spoken for by a machine: by name and date, ``ticked`` or ``spoken`` (then with the words)."""

    name: str
    date: str
    how: Literal["ticked", "spoken"]
    words: str = ""
    recording: str = ""
    start: Ticks = 0
    end: Ticks = 0


def consent_of(voice: Voice | None) -> Consent | None:
    """The consent of the person whose voice it is."""
    return Consent(**voice.consent) if voice and voice.consent else None


def give_consent(voice: Voice, consent: Consent) -> Consent:
    """Store it with the date of today."""
    known = replace(consent, date=now().date().isoformat())
    voice.consent = asdict(known)
    return known


MOST_SAID = 40


def said_elsewhere(session: Session, show_id: str, voice: str, text: str) -> list[spoken.Said]:
    """Where a voice says the same words, anywhere in its show."""
    found = spoken.search(session, text, [show_id], whole=True, voice=voice, most=MOST_SAID)
    return [each for each in found if each.recording.kind != KIND]
