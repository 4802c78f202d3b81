"""Music and ambience under the words, and short sounds at one of them."""

from __future__ import annotations

from typing import Any, Literal, Self

from jaskel.core.edition import Edition
from jaskel.core.marks.anchor import Beginning, End, Place
from jaskel.core.marks.bed import Bed, Tie
from jaskel.core.operations import Operation, SetMarks
from jaskel.core.problem import Problem
from jaskel.core.rebase import Since
from jaskel.core.source import Recorded
from jaskel.core.timebase import RATE, Ticks, clock
from jaskel.store.models import Recording
from jaskel.web.asked.asked import Asked, Floor, asked
from jaskel.web.schemas.sound import BedFields, TieField

SEAMLESS: Ticks = RATE // 100
"""So short is the join of a loop that was made to be one."""


@asked
class BedIn(BedFields, Asked):
    """Lay a recording of music under the words, or change how one lies there (by its ``id``).

    Without ``ends`` it sounds to its own end.
    """

    kind: Literal["bed"]
    id: str | None = None
    recording: str
    begins: TieField
    ends: TieField | None = None

    def carried(self, since: Since) -> Self:
        if not since:
            return self
        return self.model_copy(
            update={"begins": _carried(self.begins, since), "ends": self.ends and _carried(self.ends, since)}
        )

    def operation(self, floor: Floor) -> Operation:
        recording, edition = floor.session.get(Recording, self.recording), floor.opened.edition
        if recording is None or recording.state != "ready":
            raise Problem("no-recording", "This recording is not here, or not ready yet. Choose another.")
        if not recording.length:
            raise Problem("no-sound", f"“{recording.name}” has no sound, so it cannot lie under the words.")
        known = edition.marks.get(self.id) if self.id else None
        if self.id and not isinstance(known, Bed):
            raise Problem("no-bed", "This music is not there any more; it may have been taken off meanwhile.")
        anchors = tuple(tie_of(edition, each, ends=number > 0) for number, each in enumerate((self.begins, self.ends)) if each)
        settings = {name: getattr(self, name) for name in BedFields.model_fields}
        settings |= {"seam": SEAMLESS} if recording.info.get("loops") else {}
        bed = Bed(self.id or edition.marks.free_id(f"bed.{self.recording}"), anchors, self.recording, **settings)
        if bed == known:
            raise Problem("nothing-changed", "That changes nothing: it is so already.")
        told = f"changed “{recording.name}” under the words" if known else f"laid “{recording.name}” under the words"
        return SetMarks.of({bed.id: bed}, told)


def _carried(tie: TieField, since: Since) -> TieField:
    if tie.at is None:
        return tie
    return tie.model_copy(update={"at": since.carry((tie.at, tie.at))[0]})


def tie_of(edition: Edition, tie: TieField, *, ends: bool) -> Tie:
    """What an end of a bed is tied to, as a place of the material.

    Raises
    ------
    Problem
        ``no-word``.
    """
    if tie.to == "beginning":
        return Beginning(tie.offset)
    if tie.to == "end":
        return End(tie.offset)
    # The end of a word belongs to it, and not to what follows.
    at = max(0, (tie.at or 0) - ends)
    index = edition.index_at(at)
    piece = edition.pieces[index] if index < len(edition.pieces) else None
    if piece is None or not isinstance(piece.source, Recorded):
        raise Problem("no-word", f"There is no word at {clock(at)} that music could be tied to. Choose a word beside it.")
    return Place(piece.source.recording, piece.start + at - edition.starts[index] + ends, tie.offset)


@asked
class BedOffIn(Asked):
    """Take music off that lies under the words; the recording stays with the episode."""

    kind: Literal["bed off"]
    id: str

    def carried(self, _since: Any) -> BedOffIn:
        return self

    def operation(self, floor: Floor) -> Operation:
        if not isinstance(floor.opened.edition.marks.get(self.id), Bed):
            raise Problem("no-bed", "This music is not there any more; it may have been taken off meanwhile.")
        return SetMarks.of({self.id: None}, "took music off")
