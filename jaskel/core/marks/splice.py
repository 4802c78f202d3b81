"""How one splice is made, where somebody wanted it otherwise than by itself, or a better place was found by listening."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from typing import ClassVar, Literal

from jaskel.core.marks.anchor import Meeting
from jaskel.core.marks.mark import Mark, Marks, mark
from jaskel.core.source import Source, recording_of
from jaskel.core.timebase import RATE, Ticks

CROSSFADE: Ticks = RATE // 100
"""Length of the crossfade at a splice: 10 ms, long enough to hide a step in the wave, too short to be heard itself."""

LONGEST_CROSSFADE: Ticks = 2 * RATE
LONGEST_LEAD: Ticks = 5 * RATE

Shape = Literal["equal power", "linear"]
"""Equal power suits sounds that have nothing to do with one another, linear those that are alike (room tone, a held note)."""


@dataclass(frozen=True, slots=True)
class Splice:
    """The settings of a splice.

    Attributes
    ----------
    crossfade
        How long both sides sound together, 0 to two seconds.
    shape
        How they are faded.
    lead
        By how much the sound goes over before the picture does; negative where the picture goes first.
    before, after
        How much of what was taken out still plays after the side before, and already before the side after: room to find a
        better place for the join.
    settled
        Whether that place was found by listening, rather than set by a person.
    """

    crossfade: Ticks = CROSSFADE
    shape: Shape = "equal power"
    lead: Ticks = 0
    before: Ticks = 0
    after: Ticks = 0
    settled: bool = False

    def __post_init__(self) -> None:
        if not 0 <= self.crossfade <= LONGEST_CROSSFADE:
            raise ValueError(f"a crossfade of {self.crossfade} ticks is out of range")
        if abs(self.lead) > LONGEST_LEAD:
            raise ValueError(f"a lead of {self.lead} ticks is out of range")
        if min(self.before, self.after) < 0:
            raise ValueError("a splice cannot reach into what is kept")


@mark
@dataclass(frozen=True)
class SpliceMark(Mark):
    """The settings of the splice at a meeting of two places."""

    kind: ClassVar[str] = "splice"
    splice: Splice

    @property
    def meeting(self) -> Meeting:
        (anchor,) = self.anchors
        assert isinstance(anchor, Meeting)
        return anchor


def by_meeting(splices: Sequence[SpliceMark]) -> dict[Meeting, Splice]:
    """The settings of splices by where they are."""
    return {each.meeting: each.splice for each in splices}


def by_place(splices: Sequence[SpliceMark]) -> dict[tuple[Ticks, Ticks], list[SpliceMark]]:
    """Splices by the two places that meet, whatever they are places of: few share them, and they are quickly looked up."""
    found: dict[tuple[Ticks, Ticks], list[SpliceMark]] = {}
    for each in splices:
        found.setdefault((each.meeting.end, each.meeting.start), []).append(each)
    return found


def id_of(meeting: Meeting) -> str:
    """The usual id of the mark for a meeting."""
    sides = ((meeting.before, meeting.end), (meeting.after, meeting.start))
    return ".".join(["splice", *(f"{_name(source)}.{at}" for source, at in sides)])


def _name(source: Source) -> str:
    return f"{type(source).__name__.lower()}-{recording_of(source) or ''}".rstrip("-")


def set_splices(marks: Marks, wanted: Sequence[tuple[Meeting, Splice | None]]) -> dict[str, Mark | None]:
    """The changes that make splices in a certain way, or (with None) as they are by themselves."""
    known = {each.meeting: each.id for each in marks.all(SpliceMark)}
    changes: dict[str, Mark | None] = {}
    for meeting, splice in wanted:
        id = known.get(meeting) or marks.free_id(id_of(meeting))
        if splice or meeting in known:
            changes[id] = SpliceMark(id, (meeting,), splice) if splice else None
    return changes
