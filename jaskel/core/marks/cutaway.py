"""Cutaways: another picture over the words."""

from __future__ import annotations

from dataclasses import dataclass, replace
from typing import ClassVar, Self, cast

from jaskel.core.marks.anchor import Carry, Place, Whole
from jaskel.core.marks.mark import Mark, mark
from jaskel.core.picture.framing import SINGLE, WHOLE, Box, FramingName
from jaskel.core.timebase import Ticks


@mark
@dataclass(frozen=True)
class Cutaway(Mark):
    """A picture or film that is seen from the word at its first anchor up to the end of that at its second.

    Attributes
    ----------
    shown, place
        The recording that is seen, and from where on in it.
    framing
        How it is seen: by itself, or with who speaks, it first.
    first, last
        Which part of its picture is seen at its beginning and at its end, within what the slot shows of it; it moves evenly
        from one to the other.
    decibels
        The level at which its sound is heard; None where it is not.
    on
        Whether it is seen at all.
    """

    kind: ClassVar[str] = "cutaway"
    shown: str
    place: Ticks = 0
    framing: FramingName = SINGLE
    first: Box = WHOLE
    last: Box = WHOLE
    decibels: float | None = None
    on: bool = True

    def __post_init__(self) -> None:
        if len(self.anchors) != 2 or not all(isinstance(each, Place) for each in self.anchors):
            raise ValueError("a cutaway lies from one word to another")
        if self.place < 0 or not (self.decibels is None or -60 <= self.decibels <= 24):
            raise ValueError("a cutaway's place or level is out of range")
        for box in (self.first, self.last):
            if not (0 < box.width <= 1 and 0 < box.height <= 1 and 0 <= box.x <= 1 - box.width + 1e-9):
                raise ValueError("a part of a picture lies within it")
            if not 0 <= box.y <= 1 - box.height + 1e-9:
                raise ValueError("a part of a picture lies within it")

    @property
    def begins(self) -> Place:
        return cast("Place", self.anchors[0])

    @property
    def ends(self) -> Place:
        return cast("Place", self.anchors[1])

    def carried(self, carry: Carry) -> Self | None:
        moved = super().carried(carry)
        if moved is None or self.shown != carry.recording:
            return moved
        own = carry.anchor(Whole(self.shown))
        assert isinstance(own, Whole)
        return replace(moved, shown=own.recording)
