"""What somebody marked in the material, as markers of a programme: chapters, selects, notes."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from typing import Literal

from jaskel.core.chapters import ProgrammeChapter
from jaskel.core.marks.mark import Marks
from jaskel.core.marks.note import Note
from jaskel.core.marks.select import Select
from jaskel.core.places import Places
from jaskel.core.plan import Plan
from jaskel.core.timebase import Ticks


@dataclass(frozen=True)
class Marker:
    """A place, or a stretch, of the programme; ``colour`` is that of a select."""

    kind: Literal["chapter", "select", "note"]
    name: str
    begin: Ticks
    end: Ticks
    colour: str = ""


def markers_of(plan: Plan, marks: Marks, chapters: Sequence[ProgrammeChapter]) -> list[Marker]:
    """All that is heard of them, in order of the programme; what was struck has none."""
    places = Places(plan.edition)
    found = [Marker("chapter", each.title, each.begin, each.begin) for each in chapters]
    for select in marks.all(Select):
        for begin, end in places.of(select.stretch):
            if heard := plan.heard(begin, end):
                found.append(Marker("select", select.note or "Select", *heard, select.colour))
    for note in marks.all(Note):
        for anchor in note.anchors[:1]:
            for begin, end in places.of(anchor)[:1]:
                if heard := plan.heard(begin, max(end, begin + 1)):
                    found.append(Marker("note", note.text, heard[0], heard[0]))
    return sorted(found, key=lambda each: (each.begin, each.kind))
