"""Joins of two pictures: a bridge that hides a jump, or another way to go over from one to the next."""

from __future__ import annotations

import re
from dataclasses import dataclass
from typing import Literal

from jaskel.core.timebase import RATE, Ticks

JoinKind = Literal["bridge", "dissolve", "dip", "slide", "push"]
Where = Literal["before", "across", "after"]

SHORTEST_JOIN: Ticks = RATE // 15
LONGEST_JOIN: Ticks = 3 * RATE

FURTHEST: Ticks = RATE * 8 // 25
"""By more, lips are seen to say what is not heard."""


@dataclass(frozen=True, slots=True)
class Join:
    """How one picture goes over into another.

    Attributes
    ----------
    kind
        Through pictures made of both (``bridge``), fading, through a colour, or with the second moving in over the first
        (``slide``) or moving it away (``push``).
    length, where
        How long it takes, and whether before the join, across it, or after it.
    colour
        What a dip goes through.
    shift
        How much later than the sound it goes over, or earlier where it is negative: within what was struck beside the splice,
        the two pictures may be more alike.
    """

    kind: JoinKind = "bridge"
    length: Ticks = RATE * 8 // 25
    where: Where = "across"
    colour: str = "#000000"
    shift: Ticks = 0

    def __post_init__(self) -> None:
        if not SHORTEST_JOIN <= self.length <= LONGEST_JOIN:
            raise ValueError(f"a join takes from {SHORTEST_JOIN} to {LONGEST_JOIN} ticks, not {self.length}")
        if abs(self.shift) > FURTHEST:
            raise ValueError(f"pictures go over within {FURTHEST} ticks of the sound")
        if not re.fullmatch("#[0-9a-f]{6}", self.colour):
            raise ValueError(f"a colour is written like #20262b, not “{self.colour}”")

    def around(self, at: Ticks) -> tuple[Ticks, Ticks]:
        """From-to in the programme of a join at a place."""
        begin = at + self.shift - {"before": self.length, "across": self.length // 2, "after": 0}[self.where]
        return begin, begin + self.length
