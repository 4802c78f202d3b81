"""Forms in which the log was written before: read, and written anew in today's form when they are undone or redone.

What a kind and version became is said by an upcaster (:mod:`jaskel.core.codec.upcasters`), from plain values to plain values.
Where that depends on the edition it is applied to, the old form is still an operation here, which comes down to today's when it
is carried out.
"""

from __future__ import annotations

from abc import abstractmethod
from collections.abc import Mapping, Sequence
from dataclasses import dataclass, replace
from typing import Any, ClassVar

from jaskel.core.edition import Edition, Piece
from jaskel.core.marks.anchor import Meeting
from jaskel.core.marks.level import Fader, Level, Setting, set_fader, set_levels
from jaskel.core.marks.mark import NO_MARKS, Mark, Marks
from jaskel.core.marks.splice import Splice, set_splices
from jaskel.core.operations.base import Edited, Meanwhile, Operation, Telling, operation
from jaskel.core.operations.become import Become
from jaskel.core.operations.marks import SetMarks
from jaskel.core.operations.material import substituted
from jaskel.core.operations.rewrite import Rewriting
from jaskel.core.source import CLOSING, OPENING, SILENCE, Recorded, RoomTone, Source
from jaskel.core.timebase import RATE, Ticks

Values = Mapping[str, Any]

# Sources were strings: "tone:" before a recording, "silence", and "card", whose closing one began an hour in.

TONE, CARD_CLOSES = "tone:", 3_600 * RATE


def source_of(recording: str, at: Ticks = 0) -> tuple[Source, Ticks]:
    """A source from the name it had, and by how much its places are earlier now."""
    if recording == "silence":
        return SILENCE, 0
    if recording == "card":
        return (CLOSING, CARD_CLOSES) if at >= CARD_CLOSES else (OPENING, 0)
    return (RoomTone(recording.removeprefix(TONE)) if recording.startswith(TONE) else Recorded(recording)), 0


def piece_of(recording: str, start: Ticks, end: Ticks, kept: bool = True, why: str = "", lifted: bool = False) -> Piece:
    """A piece from its values in the first form."""
    source, less = source_of(recording, start)
    return Piece(source, start - less, end - less, kept, why, lifted)


def meeting_of(before: str, end: Ticks, after: str, start: Ticks) -> Meeting:
    """A meeting from its values in the first form."""
    (one, less), (other, also_less) = source_of(before, end), source_of(after, start)
    return Meeting(one, end - less, other, start - also_less)


def marks_of(values: Values) -> Marks:
    """The splices and levels of the first form, as marks."""
    splices = [(meeting_of(*meeting), Splice(**splice)) for meeting, splice in values.get("splices", ()) if splice]
    marks = NO_MARKS.changed(set_splices(NO_MARKS, splices))
    marks = marks.changed(set_levels(marks, [Setting(*level) for level in values.get("stretches", ())]))
    for track, decibels in values.get("tracks", ()):
        marks = marks.changed(set_fader(marks, track, decibels))
    return marks


def edition_of(values: Values, now: Edition) -> Edition:
    """An edition from the first form of a snapshot or of going back, which held pieces, splices and levels only."""
    pieces = tuple(piece_of(**each) if isinstance(each, dict) else piece_of(*each) for each in values["pieces"])
    return replace(now, pieces=pieces, marks=marks_of(values))


class _Old(Operation):
    """An old form of something, which is only read."""

    @abstractmethod
    def resolved(self, edition: Edition) -> Operation: ...

    def apply(self, edition: Edition) -> tuple[Edition, Operation]:
        return self.resolved(edition).apply(edition)

    def carried(self, since: Meanwhile) -> Operation:
        since.check_nothing()
        return self

    def summary(self, _telling: Telling) -> str:
        return "changed levels"


@operation
@dataclass(frozen=True)
class Adjust(_Old):
    """Set the level of stretches of a track, and of whole tracks, in decibels."""

    kind: ClassVar[str] = "adjust"
    stretches: tuple[tuple[str, str, int, int, float], ...] = ()
    tracks: tuple[tuple[str, float], ...] = ()

    def resolved(self, edition: Edition) -> SetMarks:
        changes = set_levels(edition.marks, [Setting(*each) for each in self.stretches])
        for track, decibels in self.tracks:
            changes |= set_fader(edition.marks, track, decibels)
        return SetMarks.of(changes)


@operation
@dataclass(frozen=True)
class SetLevels(_Old):
    """Have exactly these levels."""

    kind: ClassVar[str] = "levels"
    stretches: tuple[tuple[str, str, int, int, float], ...] = ()
    tracks: tuple[tuple[str, float], ...] = ()

    def resolved(self, edition: Edition) -> SetMarks:
        wanted = marks_of({"stretches": self.stretches, "tracks": self.tracks})
        known = {each.id: each for kind in (Level, Fader) for each in edition.marks.all(kind)}
        changes: dict[str, Mark | None] = dict.fromkeys(known)
        changes |= {each.id: each for each in wanted}
        return SetMarks.of({id: mark for id, mark in changes.items() if mark != known.get(id)})


@operation
@dataclass(frozen=True)
class Became(_Old):
    """Be as at another time: its pieces, splices and levels, which were all there was."""

    kind: ClassVar[str] = "become"
    pieces: tuple[dict[str, Any], ...]
    splices: tuple[Any, ...] = ()
    stretches: tuple[Any, ...] = ()
    tracks: tuple[Any, ...] = ()
    what: str = ""

    def resolved(self, edition: Edition) -> Become:
        return Become(edition_of(vars(self), edition), self.what)

    def summary(self, _telling: Telling) -> str:
        return f"went back to {self.what}" if self.what else "went back"


@operation
@dataclass(frozen=True)
class SubstitutedAlone(Rewriting):
    """Another file of the same sound takes the place of a recording, and marks stay behind."""

    kind: ClassVar[str] = "substitute"
    recording: str
    by: str
    shift: Ticks
    length: Ticks

    def edits(self, edition: Edition) -> Sequence[Edited]:
        return substituted(edition, self.recording, self.by, self.shift, self.length)

    def carried(self, since: Meanwhile) -> SubstitutedAlone:
        since.check_nothing()
        return self

    def summary(self, _telling: Telling) -> str:
        return "replaced a recording by another file of it"
