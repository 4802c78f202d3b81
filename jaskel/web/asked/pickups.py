"""Letting a line that was said again take its place, and taking it off."""

from __future__ import annotations

from typing import Any, Literal

from jaskel.core.operations import Operation
from jaskel.core.pickup import put_in_line, spot_at, take_off_line
from jaskel.core.problem import Problem
from jaskel.store.models import Recording
from jaskel.store.pickups import KIND, Line, line_of
from jaskel.web.asked.asked import Asked, Floor, asked
from jaskel.web.asked.settling import settling
from jaskel.web.schemas.common import TicksField
from jaskel.web.schemas.pieces import Id


@asked
class PickupIn(Asked):
    """Let a line that was said again take the place of a range; what was said there is struck."""

    kind: Literal["pickup"]
    begin: TicksField
    end: TicksField
    recording: Id

    @property
    def settles(self) -> bool:
        return True

    def operation(self, floor: Floor) -> Operation:
        return settling(floor, placing(floor, self.recording, self.begin, self.end))


def placing(floor: Floor, recording_id: str, begin: int, end: int) -> Operation:
    """The operation that lets a line take the place of a range.

    Raises
    ------
    Problem
        ``no-line``, or ``another-spot`` where it was made for other words.
    """
    recording, line = find_line(floor, recording_id)
    edition = floor.opened.edition
    spot = spot_at(edition, floor.context.transcripts(floor.session, floor.opened), begin, end)
    if spot.home != line.home or spot.end <= line.start or line.end <= spot.start:
        raise Problem("another-spot", "This line was made for other words. Select those it is to take the place of.")
    return put_in_line(edition, begin, end, line.source(recording.id), recording.length, line.told)


def find_line(floor: Floor, recording_id: str) -> tuple[Recording, Line]:
    """The recording of a line, and what it is.

    Raises
    ------
    Problem
        ``no-line``.
    """
    recording = floor.session.get(Recording, recording_id)
    if recording is None or recording.kind != KIND:
        raise Problem("no-line", "This line is not there any more. Make it again.")
    return recording, line_of(recording)


@asked
class PickupOffIn(Asked):
    """Take a line that was said again off, and put back what was said before."""

    kind: Literal["pickup off"]
    recording: Id

    def carried(self, _since: Any) -> PickupOffIn:
        return self

    def operation(self, floor: Floor) -> Operation:
        return take_off_line(floor.opened.edition, self.recording)
