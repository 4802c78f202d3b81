"""The chapters of a programme: where those of the material begin in an edition."""

from __future__ import annotations

from collections.abc import Iterable
from dataclasses import dataclass, replace
from itertools import pairwise

from jaskel.core.breaks import breaks_in
from jaskel.core.marks.chapter import Chapter
from jaskel.core.places import Places
from jaskel.core.plan import Plan
from jaskel.core.timebase import RATE, Ticks

SHORTEST: Ticks = RATE
"""Of two chapters that begin within a second the later one is told: nothing is left of the other."""


@dataclass(frozen=True)
class ProgrammeChapter:
    """A chapter from-to in the programme."""

    begin: Ticks
    end: Ticks
    title: str
    is_break: bool = False


BREAK = "Break"


def with_breaks(chapters: list[ProgrammeChapter], plan: Plan) -> list[ProgrammeChapter]:
    """The chapters with the breaks of a programme among them: after one, the chapter that it parts goes on."""
    whole = chapters or [ProgrammeChapter(0, plan.length, plan.material.titles[0])]
    found = [*chapters]
    for _, begin, end in sorted(breaks_in(plan), key=lambda each: each[1]):
        end = min(plan.length, max(end, begin + SHORTEST))
        parted = next((each for each in found or whole if each.begin <= begin < each.end and not each.is_break), None)
        if parted is None:
            continue
        found = [each for each in found or whole if each is not parted]
        sides = [replace(parted, end=begin), ProgrammeChapter(begin, end, BREAK, True), replace(parted, begin=end)]
        found = sorted([*found, *(each for each in sides if each.begin < each.end)], key=lambda each: each.begin)
    return found


def programme_chapters(marks: Iterable[Chapter], plan: Plan) -> list[ProgrammeChapter]:
    """The chapters that are heard, in order; the first begins with the programme, each ends where the next begins.

    One whose first word was struck begins with the next that is kept. One of which nothing is in the edition is not told.
    """
    places = Places(plan.edition)
    found: dict[Ticks, str] = {}
    for each in sorted(marks, key=lambda mark: (mark.place.recording, mark.place.at)):
        for laid, _ in places.of(each.place)[:1]:
            at = plan.programme_at(laid)
            if at < plan.length - SHORTEST:
                found[at] = each.title
    kept = [at for at, following in pairwise([*sorted(found), plan.length]) if following - at >= SHORTEST]
    return [
        ProgrammeChapter(0 if number == 0 else at, end, found[at])
        for number, (at, end) in enumerate(pairwise([*kept, plan.length]))
    ]
