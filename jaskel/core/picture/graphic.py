"""What is drawn over the picture: lower thirds, titles, a logo, and a bar that shows how far the programme has come."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Literal, NamedTuple

from jaskel.core.picture.framing import Box
from jaskel.core.picture.style import Entrance
from jaskel.core.timebase import RATE, Ticks

TitlePlace = Literal["top", "middle", "bottom"]


@dataclass(frozen=True, slots=True)
class Strap:
    """A lower third: who speaks, and what they are."""

    name: str
    role: str = ""


@dataclass(frozen=True, slots=True)
class Title:
    """Words over the picture."""

    text: str
    down: TitlePlace = "middle"


@dataclass(frozen=True, slots=True)
class Tag:
    """A name below somebody who is seen in a place of the picture, or (with no place) a line below them all."""

    text: str
    below: Box | None = None


@dataclass(frozen=True, slots=True)
class Logo:
    """The show's logo in its corner."""


@dataclass(frozen=True, slots=True)
class Placed:
    """The episode's card or the show's logo in a place of the picture."""

    kind: Literal["card", "logo"]
    box: Box


@dataclass(frozen=True, slots=True)
class Bar:
    """A bar that grows from the first moment to the last."""


Graphic = Strap | Title | Tag | Logo | Placed | Bar

MOVE: Ticks = RATE * 4 // 10
"""What is drawn comes and goes in so long."""


class Seen(NamedTuple):
    """How opaque a graphic is at a moment, and how much of it, from its left, has come out behind the moving edge."""

    opaque: float = 1.0
    share: float = 1.0


WHOLLY = Seen()


@dataclass(frozen=True, slots=True)
class Overlay:
    """A graphic that is seen from ``begin`` to ``until`` in the programme; ``mark`` is the id of what it comes from."""

    begin: Ticks
    until: Ticks
    graphic: Graphic
    enter: Entrance = "none"
    mark: str | None = None

    @property
    def moves(self) -> Ticks:
        """How long it takes to come, and to go."""
        return min(MOVE, (self.until - self.begin) // 3)

    def seen(self, at: Ticks) -> Seen:
        """How it is seen at a place of the programme.

        >>> Overlay(0, 480_000, Strap("Orla Venn"), "fade").seen(9_600)
        Seen(opaque=0.5, share=1.0)
        """
        if isinstance(self.graphic, Bar):
            return Seen(1.0, min(1.0, max(0.0, (at - self.begin) / max(1, self.until - self.begin))))
        if self.enter == "none" or not self.moves:
            return WHOLLY
        come = _smooth(min(at - self.begin, self.until - at) / self.moves)
        return Seen(come, 1.0) if self.enter == "fade" else Seen(1.0, come)


def _smooth(part: float) -> float:
    """The smoothstep 3p² − 2p³, which begins and ends gently."""
    part = min(1.0, max(0.0, part))
    return part * part * (3 - 2 * part)
