"""Beds: music or ambience under the words, or a short sound at one of them."""

from __future__ import annotations

from dataclasses import dataclass, replace
from typing import ClassVar, Self, cast

from jaskel.core.marks.anchor import Beginning, Carry, End, Place, Whole
from jaskel.core.marks.mark import Mark, mark
from jaskel.core.marks.splice import Shape
from jaskel.core.timebase import RATE, Ticks

LONGEST_FADE: Ticks = 60 * RATE

Tie = Place | Beginning | End
"""What an end of a bed is tied to: a word, which it follows wherever it is moved, or one of the programme's ends."""


@mark
@dataclass(frozen=True)
class Bed(Mark):
    """A recording that sounds under the programme, from its first anchor on: up to its second, or with only one to its own end.

    Attributes
    ----------
    recording, start
        What sounds, and from where on in it.
    decibels
        Its level.
    duck
        By how many decibels it is lower under words; 0 where it stays.
    attack, release
        How long it takes to go down and to come up again, in ticks.
    fade_in, fade_out, shape
        How it begins and ends.
    loop
        Whether it begins again where it is shorter than its place.
    seam
        Over how long its end then goes over into its beginning: next to nothing where it was made to be a loop.
    """

    kind: ClassVar[str] = "bed"
    recording: str
    start: Ticks = 0
    decibels: float = -12.0
    duck: float = 10.0
    attack: Ticks = RATE * 4 // 10
    release: Ticks = RATE * 8 // 10
    fade_in: Ticks = RATE // 2
    fade_out: Ticks = RATE * 3 // 2
    shape: Shape = "equal power"
    loop: bool = False
    seam: Ticks = RATE * 3 // 2

    def __post_init__(self) -> None:
        if not 1 <= len(self.anchors) <= 2 or not all(isinstance(each, Place | Beginning | End) for each in self.anchors):
            raise ValueError("a bed begins at a word or an end of the programme, and may end at another")
        if self.start < 0 or not 0 <= self.duck <= 60 or not -60 <= self.decibels <= 24:
            raise ValueError("a bed's level or place is out of range")
        if not all(0 <= each <= LONGEST_FADE for each in (self.fade_in, self.fade_out, self.attack, self.release)):
            raise ValueError("a bed fades within a minute")

    @property
    def begins(self) -> Tie:
        return cast("Tie", self.anchors[0])

    @property
    def ends(self) -> Tie | None:
        return cast("Tie", self.anchors[1]) if len(self.anchors) > 1 else None

    def carried(self, carry: Carry) -> Self | None:
        moved = super().carried(carry)
        if moved is None or self.recording != carry.recording:
            return moved
        own = carry.anchor(Whole(self.recording))
        assert isinstance(own, Whole)
        return replace(moved, recording=own.recording)
