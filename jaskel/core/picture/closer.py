"""Where the picture comes closer."""

from __future__ import annotations

from bisect import bisect_right
from collections.abc import Sequence
from typing import NamedTuple

from jaskel.core.timebase import Ticks


class Closer(NamedTuple):
    """From ``begin`` to ``until`` the picture is larger by ``share``; ``slowly`` where it grows to that all the while."""

    begin: Ticks
    until: Ticks
    share: float
    slowly: bool = False

    def at(self, place: Ticks) -> float:
        """How much larger the picture is at a place, as a factor."""
        return 1 + self.share * ((place - self.begin) / (self.until - self.begin) if self.slowly else 1)


AS_IT_IS: tuple[tuple[Ticks, float], ...] = ((0, 1.0),)
"""Nothing is closer."""


def closer_from(places: Sequence[Closer], begin: Ticks, until: Ticks) -> tuple[tuple[Ticks, float], ...]:
    """How much larger the picture is from ``begin`` to ``until``, between which none begins or ends: at one or both ends."""
    number = bisect_right(places, begin, key=lambda each: each.begin) - 1 if places else -1
    if number < 0 or begin >= (known := places[number]).until:
        return AS_IT_IS
    if not known.slowly:
        return ((0, known.at(begin)),)
    return (0, known.at(begin)), (until - begin, known.at(until))


def factor_at(closer: Sequence[tuple[Ticks, float]], at: Ticks) -> float:
    """The factor at a place between those of :func:`closer_from`."""
    (first, a), (last, b) = closer[0], closer[-1]
    return a if last == first else a + (b - a) * min(1.0, max(0.0, (at - first) / (last - first)))
