"""Framings: what is seen where in a picture, as slots for as many people as are shown."""

from __future__ import annotations

import math
from collections.abc import Callable, Sequence
from dataclasses import dataclass
from fractions import Fraction
from typing import Literal, NamedTuple

FramingName = str
"""One of :data:`FRAMINGS`, or the name of one that a show has made."""

SINGLE: FramingName = "single"

DARK = "#131313"
"""What lies between the slots of a framing where nothing else is wanted: the dark of a room without light."""

BLURRED = "blurred"
"""The ground that is the first picture itself, out of focus."""

PICTURE = "picture:"
"""The ground that is a picture of the house style begins so; its digest follows."""

FixtureKind = Literal["card", "logo", "voice"]


class Box(NamedTuple):
    """A rectangle within a picture, in shares of its width and height from the upper left."""

    x: float
    y: float
    width: float
    height: float


@dataclass(frozen=True, slots=True)
class Fixture:
    """What else lies in a framing: the episode's card, the show's logo, or the moving drawing of the voice."""

    kind: FixtureKind
    box: Box


WHOLE = Box(0.0, 0.0, 1.0, 1.0)

GAP = 0.008
"""Between two slots, as a share of the shorter side of the picture."""


@dataclass(frozen=True)
class Framing:
    """A way to show people.

    Attributes
    ----------
    name
        What it is called.
    most
        So many people it has room for.
    slots
        The places of so many people in a picture whose width is to its height as a number; later ones lie over earlier ones.
    card
        The place of the episode's card in such a picture, if it shows that, too.
    """

    name: FramingName
    most: int
    slots: Callable[[int, Fraction], tuple[Box, ...]]
    card: Callable[[Fraction], Box] | None = None


def _single(_count: int, _ratio: Fraction) -> tuple[Box, ...]:
    return (WHOLE,)


def _columns(count: int, ratio: Fraction) -> tuple[Box, ...]:
    """Beside each other; in a picture that is higher than wide one above the other, where faces have room."""
    return _table(count, count, ratio) if ratio >= 1 else _rows(count, ratio)


def _rows(count: int, ratio: Fraction) -> tuple[Box, ...]:
    return _table(count, 1, ratio)


def _grid(count: int, ratio: Fraction) -> tuple[Box, ...]:
    columns = max(1, math.ceil(math.sqrt(count * float(ratio) / (16 / 9) - 1e-9)))
    return _table(count, min(count, columns), ratio)


def _table(count: int, columns: int, ratio: Fraction) -> tuple[Box, ...]:
    """Slots in rows of so many; what is left over fills the last row."""
    across, down = (GAP / float(ratio), GAP) if ratio >= 1 else (GAP, GAP * float(ratio))
    rows = -(-count // columns)
    height = (1 - down * (rows - 1)) / rows
    out = []
    for row in range(rows):
        here = min(columns, count - row * columns)
        width = (1 - across * (here - 1)) / here
        out += [Box(n * (width + across), row * (height + down), width, height) for n in range(here)]
    return tuple(out)


SMALL, MARGIN = 0.28, 0.035
"""The side of a small picture and its distance from the edge, as shares of the shorter side of the large one and of a side."""


def _inset(count: int, ratio: Fraction) -> tuple[Box, ...]:
    """The first fills the picture; the others are small in its lower corner, from the right."""
    short = min(1.0, 1 / float(ratio))
    width = SMALL * (16 / 9 if ratio > 1 else 1) * short
    height = SMALL * (float(ratio) * short)
    right = [1 - MARGIN - width - n * (width + MARGIN / 2) for n in range(count - 1)]
    return (WHOLE, *(Box(x, 1 - MARGIN * max(1.0, float(ratio)) - height, width, height) for x in right))


def _beside_card(_count: int, ratio: Fraction) -> tuple[Box, ...]:
    return _columns(2, ratio)[1:]


FRAMINGS: dict[FramingName, Framing] = {
    each.name: each
    for each in (
        Framing(SINGLE, 1, _single),
        Framing("side by side", 4, _columns),
        Framing("stacked", 3, _rows),
        Framing("large with small", 4, _inset),
        Framing("grid", 9, _grid),
        Framing("beside a card", 1, _beside_card, lambda ratio: _columns(2, ratio)[0]),
    )
}
"""The framings that come with Jaskel."""


@dataclass(frozen=True, slots=True)
class OwnFraming:
    """A framing that a show has made.

    Attributes
    ----------
    name, slots
        What it is called, and the places of people in the order they are shown; later ones lie over earlier ones.
    ratio
        The width of the picture it was drawn in by its height: of several with one name, that of the nearest shape is taken.
    corner, border, border_colour
        How round the corners of its slots are, and how wide a line around them, in per cent of a slot's shorter side.
    ground
        What lies behind them: a colour, or :data:`BLURRED`.
    names
        Whether the name of who is seen stands below each.
    line
        A line of text below them all.
    fixtures
        What else lies in it, over the pictures.
    """

    name: str
    slots: tuple[Box, ...]
    ratio: float = 16 / 9
    corner: float = 0.0
    border: float = 0.0
    border_colour: str = "#fcfbf7"
    ground: str = DARK
    names: bool = False
    line: str = ""
    fixtures: tuple[Fixture, ...] = ()

    def __post_init__(self) -> None:
        if not self.name or self.name in FRAMINGS:
            raise ValueError(f"a framing needs a name of its own, not “{self.name}”")
        if not 1 <= len(self.slots) <= 9:
            raise ValueError("a framing has one to nine slots")
        if len({each.kind for each in self.fixtures}) < len(self.fixtures):
            raise ValueError("card, logo and voice are each seen once")
        for slot in (*self.slots, *(each.box for each in self.fixtures)):
            if (
                min(slot.width, slot.height) < 0.04
                or min(slot.x, slot.y) < 0
                or slot.x + slot.width > 1.001
                or slot.y + slot.height > 1.001
            ):
                raise ValueError("a slot lies within the picture, and is not smaller than a twentieth of it")
        if not 0 <= self.corner <= 50 or not 0 <= self.border <= 20:
            raise ValueError("corners are round up to 50 per cent, and lines up to 20 per cent wide")


def own_framing(name: FramingName, own: Sequence[OwnFraming], ratio: Fraction) -> OwnFraming | None:
    """The framing of a show with a name, for a picture of a shape; None where it is none of its own."""
    found = [each for each in own if each.name == name]
    return min(found, key=lambda each: abs(math.log(each.ratio / float(ratio))), default=None)


def slots_of(framing: FramingName, count: int, ratio: Fraction, own: Sequence[OwnFraming] = ()) -> tuple[Box, ...]:
    """The slots of a framing for so many people.

    Where there are fewer than two, that is the whole picture, unless the show has made the framing. One that is not there any
    more is single.

    >>> slots_of("large with small", 1, Fraction(16, 9))
    (Box(x=0.0, y=0.0, width=1.0, height=1.0),)
    """
    if made := own_framing(framing, own, ratio):
        return made.slots[: max(1, count)]
    known = FRAMINGS.get(framing, FRAMINGS[SINGLE])
    return known.slots(min(count, known.most), ratio) if count > 1 or known.card else (WHOLE,)


def fixtures_of(framing: FramingName, ratio: Fraction, own: Sequence[OwnFraming] = ()) -> tuple[Fixture, ...]:
    """What else than people lies in a framing."""
    if made := own_framing(framing, own, ratio):
        return made.fixtures
    known = FRAMINGS.get(framing)
    return (Fixture("card", known.card(ratio)),) if known and known.card else ()
