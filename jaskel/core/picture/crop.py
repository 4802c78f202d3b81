"""Which part of a camera's picture is seen in a slot."""

from __future__ import annotations

from fractions import Fraction

from jaskel.core.picture.framing import WHOLE, Box


def crop_of(picture: Fraction, slot: Fraction, closer: float = 1.0, at: tuple[float, float] = (0.5, 0.5)) -> Box:
    """The largest part of a picture that has the shape of a slot, ``closer`` by a factor, with ``at`` as near its middle as the
    edges let it. ``picture`` and ``slot`` are width to height.

    >>> crop_of(Fraction(16, 9), Fraction(1), at=(0.0, 0.5)).x
    0.0
    """
    wide = float(slot / picture)
    width, height = (wide, 1.0) if wide < 1 else (1.0, 1 / wide)
    width, height = width / max(1.0, closer), height / max(1.0, closer)
    x, y = at
    return Box(min(max(0.0, x - width / 2), 1 - width), min(max(0.0, y - height / 2), 1 - height), width, height)


def on_pixels(box: Box, width: int, height: int) -> Box:
    """A part of a picture of so many pixels with its edges on even ones: colours have half as many pixels as light.

    >>> on_pixels(Box(0.1, 0.0, 0.5, 1.0), 64, 36).x * 64
    6.0
    """
    left, right = (round(at * width / 2) * 2 / width for at in (box.x, box.x + box.width))
    top, bottom = (round(at * height / 2) * 2 / height for at in (box.y, box.y + box.height))
    return Box(left, top, right - left, bottom - top)


def fitted_in(picture: Fraction, slot: Fraction) -> Box:
    """Where a whole picture lies in a slot of another shape."""
    wide = float(picture / slot)
    if abs(wide - 1) < 1e-6:
        return WHOLE
    width, height = (wide, 1.0) if wide < 1 else (1.0, 1 / wide)
    return Box((1 - width) / 2, (1 - height) / 2, width, height)
