"""The captions of an edition: the rules they keep to, and where somebody wants them broken."""

from __future__ import annotations

from bisect import bisect_left
from collections.abc import Mapping, Sequence
from dataclasses import dataclass, replace
from typing import ClassVar

from jaskel.core.captions.lines import Before
from jaskel.core.captions.rules import USUAL, Rules
from jaskel.core.marks.anchor import Beginning, End, Place
from jaskel.core.marks.mark import Mark, Marks, mark
from jaskel.core.timebase import Ticks


@mark
@dataclass(frozen=True)
class CaptionRules(Mark):
    """Rules that are not those of the show."""

    kind: ClassVar[str] = "caption rules"
    rules: Rules


def caption_rules(marks: Marks, house: Rules = USUAL) -> Rules:
    """The rules of an edition; where it has none of its own, those of the ``house``."""
    known = next(iter(marks.all(CaptionRules)), None)
    return known.rules if known else house


def set_caption_rules(marks: Marks, rules: Rules | None) -> dict[str, Mark | None]:
    """The changes that give an edition rules of its own, or with None those of its show again."""
    known = next(iter(marks.all(CaptionRules)), None)
    if rules is None:
        return {known.id: None} if known else {}
    id = known.id if known else marks.free_id("captions")
    return {id: CaptionRules(id, (Beginning(), End()), rules)}


@mark
@dataclass(frozen=True)
class CaptionBreak(Mark):
    """What somebody wants before a word: it is tied to the middle of that, which stays in it when its edges are drawn anew."""

    kind: ClassVar[str] = "caption break"
    before: Before

    @property
    def place(self) -> Place:
        (anchor,) = self.anchors
        assert isinstance(anchor, Place)
        return anchor


@dataclass(frozen=True)
class Breaks:
    """Breaks by recording, in order of their places."""

    places: Mapping[str, Sequence[tuple[Ticks, CaptionBreak]]]

    def at(self, recording: str, start: Ticks, end: Ticks) -> CaptionBreak | None:
        """What is wanted before a word of a recording that is said from ``start`` to ``end``."""
        row = self.places.get(recording, ())
        number = bisect_left(row, start, key=lambda each: each[0])
        return row[number][1] if number < len(row) and row[number][0] < end else None

    def before(self, recording: str, start: Ticks, end: Ticks) -> Before:
        """The same as a word; empty where nobody wants anything."""
        known = self.at(recording, start, end)
        return known.before if known else ""


def breaks_in(marks: Marks) -> Breaks | None:
    """The breaks that somebody set; None where there are none."""
    return marks.derived(CaptionBreak, _by_recording)


def _by_recording(marks: Sequence[CaptionBreak]) -> Breaks | None:
    rows: dict[str, list[tuple[Ticks, CaptionBreak]]] = {}
    for each in marks:
        rows.setdefault(each.place.recording, []).append((each.place.at, each))
    for row in rows.values():
        row.sort(key=lambda each: each[0])
    return Breaks(rows) if rows else None


def set_caption_break(marks: Marks, recording: str, start: Ticks, end: Ticks, before: Before) -> dict[str, Mark | None]:
    """The changes that break the captions before a word as somebody wants; with an empty ``before`` as the rules have it."""
    breaks = breaks_in(marks)
    known = breaks.at(recording, start, end) if breaks else None
    if not before:
        return {known.id: None} if known else {}
    if known:
        return {known.id: replace(known, before=before)} if known.before != before else {}
    at = (start + end) // 2
    new = CaptionBreak(marks.free_id(f"caption.{recording}.{at}"), (Place(recording, at),), before)
    return {new.id: new}
