"""Levels of picture: exposure, white balance, saturation and contrast, as one step that is the same everywhere.

All of it is linear in brightness and the two colours (Y, Cb and Cr of ITU-R BT.601), so films apply it to their planes, and the
monitor as one matrix of colours.
"""

from __future__ import annotations

from dataclasses import dataclass
from math import log
from typing import NamedTuple

BLACK, MIDDLE, NEUTRAL = 16.0, 110.0, 128.0
"""Brightness of black, that which contrast leaves alone, and colours of grey, in levels of 255."""

STOP = 1.36
"""A stop more light makes a picture brighter by this factor: 2 to the power of 1/2.25, as pictures are coded."""


class Linear(NamedTuple):
    """Brightness times ``bright`` plus ``lift``, both colours times ``colour``, plus ``blue`` and ``red``."""

    bright: float
    lift: float
    colour: float
    blue: float
    red: float


@dataclass(frozen=True, slots=True)
class Grade:
    """Levels of a camera's picture.

    Attributes
    ----------
    exposure
        In stops.
    warmth, tint
        From -100 (blue, green) to 100 (orange, magenta).
    saturation, contrast
        In per cent.
    """

    exposure: float = 0.0
    warmth: float = 0.0
    tint: float = 0.0
    saturation: float = 100.0
    contrast: float = 100.0

    def __post_init__(self) -> None:
        for told, value, least, most in (
            ("exposure is", self.exposure, -3, 3), ("warmth is", self.warmth, -100, 100), ("tint is", self.tint, -100, 100),
            ("saturation is", self.saturation, 0, 300), ("contrast is", self.contrast, 30, 300),
        ):  # fmt: skip
            if not least <= value <= most:
                raise ValueError(f"{told} from {least} to {most}, not {value:g}")

    @property
    def linear(self) -> Linear:
        """The same as one step."""
        light, contrast = STOP**self.exposure, self.contrast / 100
        lift = contrast * (BLACK - BLACK * light - MIDDLE) + MIDDLE
        blue, red = -0.3 * self.warmth + 0.2 * self.tint, 0.3 * self.warmth + 0.2 * self.tint
        return Linear(light * contrast, lift, light * self.saturation / 100, blue, red)

    @property
    def matrix(self) -> tuple[float, ...]:
        """The same for red, green and blue from 0 to 1: four rows of five, as SVG's ``feColorMatrix`` has them."""
        bright, lift, colour, blue, red = self.linear
        kr, kb = 0.299, 0.114
        kg = 1 - kr - kb
        # Of each of the three: brightness plus so much of its colour difference; the differences are scaled and shifted.
        added = ((bright - 1) * BLACK + lift) / 219
        from_blue, from_red = 2 * (1 - kb), 2 * (1 - kr)
        shifts = (
            from_red * red / 224,
            -(kb * from_blue / kg) * blue / 224 - (kr * from_red / kg) * red / 224,
            from_blue * blue / 224,
        )
        rows: list[float] = []
        for channel in range(3):
            own = [colour if each == channel else 0.0 for each in range(3)]
            grey = [(bright - colour) * share for share in (kr, kg, kb)]
            rows += [*(a + b for a, b in zip(own, grey, strict=True)), 0.0, added + shifts[channel]]
        return (*(round(value, 6) for value in rows), 0, 0, 0, 1, 0)


AS_FILMED = Grade()


class Statistics(NamedTuple):
    """Of a picture: the mean and the spread of its brightness, the means of its colours, and how far those spread."""

    bright: float
    spread: float
    blue: float
    red: float
    colour: float


def matched(mine: Statistics, theirs: Statistics) -> Grade:
    """The levels that give a picture the statistics of another, as far as levels can."""
    gain = _within(theirs.spread / max(1.0, mine.spread), 0.4, 2.5)
    lift = theirs.bright - gain * mine.bright
    contrast = _within((MIDDLE - BLACK * gain - lift) / (MIDDLE - BLACK), 0.3, 3.0)
    light = gain / contrast
    exposure = _within(log(max(0.05, light)) / log(STOP), -3, 3)
    saturation = _within(theirs.colour / max(0.5, mine.colour) / STOP**exposure, 0.0, 3.0)
    colour = STOP**exposure * saturation
    blue = theirs.blue - NEUTRAL - colour * (mine.blue - NEUTRAL)
    red = theirs.red - NEUTRAL - colour * (mine.red - NEUTRAL)
    warmth, tint = (red - blue) / 0.6, (red + blue) / 0.4
    warmth, tint = (_within(each, -100, 100) for each in (warmth, tint))
    return Grade(*(round(each, 2) for each in (exposure, warmth, tint, 100 * saturation, 100 * contrast)))


def _within(value: float, least: float, most: float) -> float:
    return min(most, max(least, value))
