"""Covers: parts of a camera's picture that must not be seen."""

from __future__ import annotations

from bisect import bisect_right
from dataclasses import dataclass, replace
from typing import Literal

from jaskel.core.picture.framing import Box
from jaskel.core.timebase import Ticks

CoverForm = Literal["blur", "pixels", "solid"]

FOREVER: Ticks = 2**40

Way = tuple[tuple[Ticks, Box], ...]
"""Places of time, and where in the camera's picture something is then; between two of them it moves evenly."""


@dataclass(frozen=True, slots=True)
class Cover:
    """A part of a camera's picture that is covered from the first place of its way to the last, counted from its layer."""

    form: CoverForm
    way: Way

    def at(self, after: Ticks) -> Box | None:
        """What is covered so many ticks after the layer begins; None where nothing is."""
        if not self.way or not self.way[0][0] <= after <= self.way[-1][0]:
            return None
        number = bisect_right(self.way, after, key=lambda each: each[0])
        if number == len(self.way):
            return self.way[-1][1]
        (begin, a), (end, b) = self.way[number - 1 : number + 1]
        share = (after - begin) / (end - begin)
        # What lies between two places is covered wholly, wherever within it the thing is.
        left, top = a.x + (b.x - a.x) * share, a.y + (b.y - a.y) * share
        return Box(left, top, max(a.width, b.width), max(a.height, b.height))

    def held(self) -> Cover:
        """The same, going on before its first place and after its last: in a join the picture does, too."""
        if not self.way:
            return self
        (first, a), (last, b) = self.way[0], self.way[-1]
        return replace(self, way=((first - FOREVER, a), *self.way, (last + FOREVER, b)))

    def later(self, ticks: Ticks) -> Cover:
        """The same for a layer that begins so many ticks later."""
        return replace(self, way=tuple((at - ticks, box) for at, box in self.way))
