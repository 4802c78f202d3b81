"""Who is seen when, and from how near."""

from __future__ import annotations

from typing import Annotated, Any, Literal

from pydantic import Field

from jaskel.core.marks.shot import clear_shots, set_punch_in, set_shot, set_shot_rules
from jaskel.core.operations import Operation, SetMarks
from jaskel.core.picture.framing import FRAMINGS
from jaskel.core.problem import Problem
from jaskel.core.source import Recorded
from jaskel.core.timebase import Ticks
from jaskel.store.house_style import style_of
from jaskel.web.asked.asked import Asked, Floor, asked
from jaskel.web.context import show_of
from jaskel.web.schemas.common import FramingField, RangeField, TicksField
from jaskel.web.schemas.shots import ShotRulesField


@asked
class ShotRulesIn(Asked):
    """Let shots follow who speaks, or the first camera be seen, by rules of the edition."""

    kind: Literal["shot rules"]
    rules: ShotRulesField

    def carried(self, _since: Any) -> ShotRulesIn:
        return self

    def operation(self, floor: Floor) -> Operation:
        changes = set_shot_rules(floor.opened.edition.marks, self.rules.rules)
        if not changes:
            raise Problem("nothing-changed", "That changes nothing: shots keep to these rules already.")
        return SetMarks.of(changes, "let shots follow who speaks" if self.rules.follow else "changed the rules of shots")


@asked
class ShotIn(Asked):
    """Show ranges in a framing: the cameras of ``voices``, or without any the first one. A null framing is as it follows."""

    kind: Literal["shot"]
    ranges: Annotated[list[RangeField], Field(min_length=1, max_length=5000)]
    framing: FramingField | None
    voices: Annotated[tuple[Annotated[str, Field(max_length=64)], ...], Field(max_length=9)] = ()

    def operation(self, floor: Floor) -> Operation:
        marks = floor.opened.edition.marks
        places = [place for each in self.ranges for place in places_in(floor, each.begin, each.end)]
        known_framing(floor, self.framing)
        if self.framing is None:
            changes = clear_shots(marks, places)
        else:
            changes = set_shot(marks, places, self.framing, tuple(dict.fromkeys(self.voices)))
        if not changes:
            raise Problem("nothing-changed", "That changes nothing: nobody chose what is seen there.")
        return SetMarks.of(changes, "let shots follow again" if self.framing is None else f"chose a shot: {self.framing}")


@asked
class PunchInIn(Asked):
    """Bring the picture closer in ranges, by so many per cent; 0 takes that off."""

    kind: Literal["punch in"]
    ranges: Annotated[list[RangeField], Field(min_length=1, max_length=5000)]
    percent: Annotated[int, Field(ge=0, le=200)]
    slowly: bool = False

    def operation(self, floor: Floor) -> Operation:
        places = [place for each in self.ranges for place in places_in(floor, each.begin, each.end)]
        changes = set_punch_in(floor.opened.edition.marks, places, self.percent, slowly=self.slowly)
        if not changes:
            raise Problem("nothing-changed", "That changes nothing: the picture is no closer there.")
        return SetMarks.of(changes, f"came closer by {self.percent} %" if self.percent else "took a punch-in off")


def known_framing(floor: Floor, name: str | None) -> None:
    """Refuse a framing that neither comes with Jaskel nor is the show's.

    Raises
    ------
    Problem
        ``no-framing``.
    """
    own = style_of(show_of(floor.session, floor.opened)).framings
    if name is not None and name not in FRAMINGS and all(each.name != name for each in own):
        raise Problem("no-framing", f"There is no framing called “{name}” in this show any more. Choose another.")


def places_in(floor: Floor, begin: TicksField, end: TicksField) -> list[tuple[str, Ticks, Ticks]]:
    """The stretches of recordings and sessions in a range of laid time.

    Raises
    ------
    Problem
        ``nothing-recorded``.
    """
    found = [
        (run.source.recording, run.start + first - run.laid, run.start + last - run.laid)
        for run in floor.opened.edition.runs
        if isinstance(run.source, Recorded)
        for first, last in [(max(begin, run.laid), min(end, run.laid + run.end - run.start))]
        if first < last
    ]
    if not found:
        raise Problem("nothing-recorded", "Nothing recorded is there. Select some words and repeat it.")
    return found
