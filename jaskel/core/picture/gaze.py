"""Gaze: how far eyes look past the camera, and how far they are turned to it.

The eye is a ball that turns about its middle; how far the iris lies off the place it has when somebody looks into the camera is
how far the ball is turned. Lengths on a picture are told by the iris, which is nearly equally large in all grown people.
"""

from __future__ import annotations

from dataclasses import dataclass
from math import asin, atan2, degrees, hypot, radians, sin
from typing import Literal, NamedTuple

IRIS = 5.85
"""Half of how wide an iris is, in millimetres: 11.7 ± 0.5 across in grown people (Rüfer and others, 2005)."""

DEEP = 10.0
"""From the middle of the eye to the plane of the iris, in millimetres: half of its 24, less the chamber before the lens."""

BEHIND = 6.0
"""The middle of the eye lies so far behind the line between its corners, in millimetres."""

RISE = 0.35
"""Straight ahead, the iris lies so many of its radii above that line."""

AWAY = (20.0, 30.0)
"""Of a head that is turned further than the first, eyes are turned less; further than the second, not at all. In degrees."""

SHUT = (0.17, 0.25)
"""How far eyes are open, by their width: below the first it is a blink; up to the second they are turned less."""

EASED = 0.75
"""From this share of the angle on, within which eyes are turned, they are turned less, so that they do not jump at its end."""

LEAST_EYE = 10.0
"""Pixels across: smaller eyes are left alone."""


@dataclass(frozen=True, slots=True)
class Gaze:
    """Eyes are turned to the camera by ``amount`` per cent, where they look past it by no more than ``within`` degrees."""

    amount: float = 0.0
    within: float = 15.0

    def __post_init__(self) -> None:
        if not 0 <= self.amount <= 100 or not 5 <= self.within <= 20:
            raise ValueError("eyes are turned by 0 to 100 per cent, where they are within 5 to 20 degrees")


AS_IT_LOOKS = Gaze()


Pixel = tuple[float, float]


@dataclass(frozen=True, slots=True)
class Eye:
    """An eye in a picture, in pixels: its iris, its two corners from left to right, and its lids, once round.

    ``opened`` is how far the lids are apart, by its width.
    """

    iris: Pixel
    radius: float
    corners: tuple[Pixel, Pixel]
    lids: tuple[Pixel, ...]
    opened: float

    @property
    def width(self) -> float:
        (a, b), (c, d) = self.corners
        return hypot(c - a, d - b)


class Pair(NamedTuple):
    """The two eyes of a face, which is turned to the right of the picture by ``yaw`` degrees."""

    left: Eye
    right: Eye
    yaw: float


class Look(NamedTuple):
    """How eyes look past the camera: to the right and down by so many radii of the iris; along the line between their corners.

    ``width`` is that of the smaller one, in pixels.
    """

    right: float
    down: float
    yaw: float
    opened: float
    width: float

    @property
    def angle(self) -> float:
        """In degrees."""
        return degrees(asin(min(1.0, hypot(self.right, self.down) * IRIS / DEEP)))


def look_of(pair: Pair) -> Look:
    """How a pair of eyes looks; both look the same way, so what is measured of them is averaged."""
    sides, downs = [], []
    for eye in (pair.left, pair.right):
        (a, b), (c, d) = eye.corners
        along, across = ((c - a) / eye.width, (d - b) / eye.width), (-(d - b) / eye.width, (c - a) / eye.width)
        off = (eye.iris[0] - (a + c) / 2) / eye.radius, (eye.iris[1] - (b + d) / 2) / eye.radius
        # The middle of the eye is behind its corners: a head turned to the right shows it further to the left.
        turned = -BEHIND / IRIS * sin(radians(pair.yaw))
        sides.append(off[0] * along[0] + off[1] * along[1] - turned)
        downs.append(off[0] * across[0] + off[1] * across[1] + RISE)
    width = min(pair.left.width, pair.right.width)
    return Look(sum(sides) / 2, sum(downs) / 2, pair.yaw, (pair.left.opened + pair.right.opened) / 2, width)


Why = Literal["", "nobody", "small", "closed", "away", "aside"]
"""Why eyes are not turned: no face is seen, it is too small, they are closed, the head or the eyes are turned too far."""


def why_not(look: Look | None, gaze: Gaze) -> Why:
    """Why eyes are not turned; "" where they are."""
    if look is None:
        return "nobody"
    if look.width < LEAST_EYE:
        return "small"
    if look.opened <= SHUT[0]:
        return "closed"
    if abs(look.yaw) >= AWAY[1]:
        return "away"
    return "aside" if look.angle >= gaze.within else ""


def strength(look: Look, gaze: Gaze) -> float:
    """By what share of their way eyes are turned to the camera, 0 to 1."""
    if why_not(look, gaze):
        return 0.0
    return (
        gaze.amount
        / 100
        * (1 - _eased(look.angle, EASED * gaze.within, gaze.within))
        * (1 - _eased(abs(look.yaw), *AWAY))
        * _eased(look.opened, *SHUT)
    )


def _eased(value: float, low: float, high: float) -> float:
    share = min(1.0, max(0.0, (value - low) / (high - low)))
    return share * share * (3 - 2 * share)


def yaw_of(left: tuple[float, float, float], right: tuple[float, float, float]) -> float:
    """How far a face is turned to the right of the picture, in degrees, by the depth of two points of its sides.

    Each is x, y and depth, less being nearer to the camera.
    """
    return degrees(atan2(right[2] - left[2], hypot(right[0] - left[0], right[1] - left[1])))
