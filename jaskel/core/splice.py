"""How one splice is made, where somebody wanted it otherwise than by itself."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Literal, NamedTuple

from jaskel.core.timebase import RATE, Ticks

CROSSFADE: Ticks = RATE // 100
"""Length of the crossfade at a splice: 10 ms, long enough to hide a step in the wave, too short to be heard itself."""

LONGEST_CROSSFADE: Ticks = 2 * RATE
LONGEST_LEAD: Ticks = 5 * RATE

Shape = Literal["equal power", "linear"]
"""Equal power suits sounds that have nothing to do with one another, linear those that are alike (room tone, a held note)."""


class Meeting(NamedTuple):
    """What meets at a splice: ``before`` up to ``end``, then ``after`` from ``start``, in ticks of the recordings.

    It names a splice by its content, so it is the same splice wherever it is moved, and again after undo.
    """

    before: str
    end: Ticks
    after: str
    start: Ticks


@dataclass(frozen=True, slots=True)
class Splice:
    """The settings of a splice.

    Attributes
    ----------
    crossfade
        How long both sides sound together, 0 to two seconds.
    shape
        How they are faded.
    lead
        By how much the sound goes over before the picture does; negative where the picture goes first.
    before, after
        How much of what was taken out still plays after the side before, and already before the side after: room to find a
        better place for the join.
    settled
        Whether that place was found by listening, rather than set by a person.
    """

    crossfade: Ticks = CROSSFADE
    shape: Shape = "equal power"
    lead: Ticks = 0
    before: Ticks = 0
    after: Ticks = 0
    settled: bool = False

    def __post_init__(self) -> None:
        if not 0 <= self.crossfade <= LONGEST_CROSSFADE:
            raise ValueError(f"a crossfade of {self.crossfade} ticks is out of range")
        if abs(self.lead) > LONGEST_LEAD:
            raise ValueError(f"a lead of {self.lead} ticks is out of range")
        if min(self.before, self.after) < 0:
            raise ValueError("a splice cannot reach into what is kept")
