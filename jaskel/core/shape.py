"""Shapes of picture an edition can have."""

from __future__ import annotations

from fractions import Fraction
from typing import Literal

PictureShape = Literal["as recorded", "wide", "square", "upright", "tall"]

RATIOS: dict[PictureShape, Fraction] = {
    "wide": Fraction(16, 9),
    "square": Fraction(1),
    "upright": Fraction(9, 16),
    "tall": Fraction(4, 5),
}
"""Width to height."""


def size_in(shape: PictureShape, width: int, height: int) -> tuple[int, int]:
    """Size in pixels, both even, of a picture of ``shape`` made from one of ``width`` × ``height``.

    The shorter side stays, so that neither cropping to another shape nor turning it upright asks for more pixels than a film of
    the recording's own shape would have along that side.

    >>> size_in("upright", 1920, 1080)
    (1080, 1920)
    """
    ratio = RATIOS.get(shape, Fraction(width, height))
    short = min(width, height)
    wide, high = (short * ratio, Fraction(short)) if ratio >= 1 else (Fraction(short), short / ratio)
    return max(2, round(wide / 2) * 2), max(2, round(high / 2) * 2)
