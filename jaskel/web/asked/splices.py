"""How single splices are made."""

from __future__ import annotations

from dataclasses import replace
from typing import Annotated, Any, Literal

from pydantic import Field

from jaskel.core.edition import Edition
from jaskel.core.marks.anchor import Meeting
from jaskel.core.marks.splice import LONGEST_CROSSFADE, LONGEST_LEAD, Shape, Splice, set_splices
from jaskel.core.operations import Operation, SetMarks
from jaskel.core.operations.trim import parted_at, splice_at
from jaskel.jobs.settle import settled
from jaskel.web.asked.asked import Asked, Floor, asked
from jaskel.web.schemas.common import TicksField


def _one_splice(edition: Edition, meeting: Meeting, splice: Splice, told: str) -> SetMarks:
    return SetMarks.of(set_splices(edition.marks, [(meeting, splice)]), told)


@asked
class SpliceIn(Asked):
    """How the splice at a place is made; with nothing given, as it is by itself."""

    kind: Literal["splice"]
    at: TicksField
    crossfade: Annotated[int | None, Field(ge=0, le=LONGEST_CROSSFADE)] = None
    shape: Shape | None = None
    lead: Annotated[int | None, Field(ge=-LONGEST_LEAD, le=LONGEST_LEAD)] = None
    places = ("at",)

    @property
    def listens(self) -> bool:
        return self.crossfade is None and self.shape is None and self.lead is None

    def operation(self, floor: Floor) -> Operation:
        edition = floor.opened.edition
        before, after = splice_at(edition, self.at)
        meeting = Meeting(before.source, before.end, after.source, after.start)
        changes: dict[str, Any] = self.model_dump(include={"crossfade", "shape", "lead"}, exclude_none=True)
        known = replace(edition.by_meeting.get(meeting, Splice(edition.crossfade)), settled=False)
        wanted = replace(known, **changes) if changes else settled(floor.context.workshop, edition, before, after)
        return _one_splice(edition, meeting, wanted, "changed a splice")


@asked
class PartIn(Asked):
    """Part what is heard at a place, taking nothing out, so that its sides can be moved and trimmed."""

    kind: Literal["part"]
    at: TicksField
    places = ("at",)

    def operation(self, floor: Floor) -> Operation:
        edition = floor.opened.edition
        return _one_splice(edition, parted_at(edition, self.at), Splice(0), "parted what is heard")
