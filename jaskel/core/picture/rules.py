"""How shots follow who speaks."""

from __future__ import annotations

from dataclasses import dataclass

from jaskel.core.picture.framing import FramingName
from jaskel.core.timebase import RATE, Ticks


@dataclass(frozen=True, slots=True)
class ShotRules:
    """How shots follow who speaks.

    Attributes
    ----------
    follow
        Whether they do; else the first camera is seen.
    shortest
        No shot is shorter.
    lead
        A shot changes by so much before the voice, where there is a rest.
    reactions
        Whether somebody else is seen for a moment during long answers.
    together
        Whether both are shown when they laugh, interrupt, or alternate quickly.
    framing
        How both are shown.
    """

    follow: bool = False
    shortest: Ticks = 2 * RATE
    lead: Ticks = RATE // 5
    reactions: bool = True
    together: bool = True
    framing: FramingName = "side by side"

    def __post_init__(self) -> None:
        if not RATE // 2 <= self.shortest <= 30 * RATE:
            raise ValueError("the shortest shot lasts half a second to 30 seconds")
        if not 0 <= self.lead <= RATE:
            raise ValueError("a shot changes up to a second before the voice")
