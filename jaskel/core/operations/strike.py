"""Taking stretches out and putting them back."""

from __future__ import annotations

from abc import abstractmethod
from collections.abc import Sequence
from dataclasses import dataclass, replace
from typing import ClassVar, Self

from jaskel.core.edition import Edition, Piece, merged
from jaskel.core.operations.base import Meanwhile, Operation, Range, Telling, joined, operation
from jaskel.core.operations.rewrite import Rewrite, with_parts
from jaskel.core.timebase import clock

TIDIED = {
    "filler": ("filler", "fillers"),
    "doubled": ("word said twice", "words said twice"),
    "empty word": ("empty word", "empty words"),
    "voice without words": ("sound without words", "sounds without words"),
    "long rest": ("long rest", "long rests"),
    "retake": ("retake", "retakes"),
    "chatter": ("stretch of chatter", "stretches of chatter"),
}
"""What accepting findings took out, by the reason that is written down with it: one, and several."""


@dataclass(frozen=True)
class _Marking(Operation):
    """Something is done to each piece within ranges; the running order stays."""

    verb: ClassVar[str]
    ranges: tuple[Range, ...]

    @abstractmethod
    def changed(self, piece: Piece) -> Piece:
        """What becomes of a piece."""

    def apply(self, edition: Edition) -> tuple[Edition, Rewrite]:
        clipped = ((max(0, begin), min(edition.length, end)) for begin, end in joined(self.ranges))
        places = [place for begin, end in clipped if begin < end for place in (begin, end)]
        parts = edition.parted(places)
        return with_parts(edition, places, parts, [tuple(merged(map(self.changed, part))) for part in parts[1::2]])

    def carried(self, since: Meanwhile) -> Self:
        return replace(self, ranges=tuple(since.carry(each) for each in self.ranges))

    def summary(self, telling: Telling) -> str:
        return told_by_ranges(self.verb, joined(self.ranges), telling)


def told_by_ranges(verb: str, ranges: Sequence[Range], telling: Telling) -> str:
    """What was done to ranges: to one by its words, to several by their number."""
    if len(ranges) != 1:
        return f"{verb} {len(ranges)} stretches"
    return f"{verb} {telling.words(ranges[0]) or 'a stretch'} at {clock(telling.at(ranges[0][0]))}"


@operation
@dataclass(frozen=True)
class Strike(_Marking):
    """Take ranges out of the running time and leave them readable."""

    kind: ClassVar[str] = "strike"
    verb: ClassVar[str] = "struck"
    why: str = "by hand"

    def changed(self, piece: Piece) -> Piece:
        # What is struck already keeps its reason: it was taken out before this.
        return Piece(piece.source, piece.start, piece.end, False, self.why) if piece.kept else piece

    def summary(self, telling: Telling) -> str:
        return told_as_tidied([self]) if self.why in TIDIED else super().summary(telling)


@operation
@dataclass(frozen=True)
class Lift(_Marking):
    """Take ranges out of the running time and out of sight; a mark stays."""

    kind: ClassVar[str] = "lift"
    asked: ClassVar[bool] = True
    verb: ClassVar[str] = "lifted"
    why: str = "by hand"

    def changed(self, piece: Piece) -> Piece:
        return Piece(piece.source, piece.start, piece.end, False, self.why if piece.kept else piece.why, lifted=True)

    def summary(self, telling: Telling) -> str:
        return told_as_tidied([self]) if self.why in TIDIED else super().summary(telling)


@operation
@dataclass(frozen=True)
class PutBack(_Marking):
    """Return ranges to the running time."""

    kind: ClassVar[str] = "put back"
    asked: ClassVar[bool] = True
    verb: ClassVar[str] = "put back"

    def changed(self, piece: Piece) -> Piece:
        return Piece(piece.source, piece.start, piece.end)


def told_as_tidied(operations: Sequence[Strike | Lift]) -> str:
    """What accepting findings took out, by kinds."""
    told = [f"{len(each.ranges)} {TIDIED[each.why][len(each.ranges) != 1]}" for each in operations]
    verb = "shortened" if {each.why for each in operations} == {"long rest"} else "took out"
    return f"{verb} {', '.join(told[:-1])}{' and ' if len(told) > 1 else ''}{told[-1]}"
