"""Laying stretches at another place."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, replace
from typing import ClassVar

from jaskel.core.edition import Edition, merged
from jaskel.core.operations.base import Edited, Meanwhile, Range, Telling, joined, operation
from jaskel.core.operations.rewrite import Rewriting
from jaskel.core.operations.strike import told_by_ranges
from jaskel.core.problem import Problem
from jaskel.core.timebase import Ticks


@operation
@dataclass(frozen=True)
class Move(Rewriting):
    """Lay ranges, one after the other, at another place."""

    kind: ClassVar[str] = "move"
    asked: ClassVar[bool] = True
    ranges: tuple[Range, ...]
    to: Ticks

    def edits(self, edition: Edition) -> Sequence[Edited]:
        ranges = joined((begin, min(end, edition.length)) for begin, end in self.ranges)
        if any(begin < self.to < end for begin, end in ranges):
            raise Problem("into-itself", "That would move the words into themselves. Choose a place outside of them.")
        moved = tuple(merged(piece for begin, end in ranges for piece in edition.cut_out(begin, end)))
        edits: list[Edited] = [(begin, end, ()) for begin, end in ranges]
        return sorted([*edits, (self.to, self.to, moved)], key=lambda edit: edit[:2])

    def carried(self, since: Meanwhile) -> Move:
        ranges = tuple(since.carry(each) for each in self.ranges)
        return replace(self, ranges=ranges, to=since.carry((self.to, self.to))[0])

    def summary(self, telling: Telling) -> str:
        return told_by_ranges("moved", joined(self.ranges), telling)
