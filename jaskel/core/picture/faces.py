"""Faces in a recording over time, and how a camera operator would follow them."""

from __future__ import annotations

from bisect import bisect_left, bisect_right
from collections.abc import Iterator, Sequence
from dataclasses import dataclass, field
from itertools import pairwise
from statistics import median
from typing import NamedTuple

from jaskel.core.picture.framing import Box
from jaskel.core.timebase import RATE, Ticks

EVERY: Ticks = RATE // 5
"""Faces are looked for so often."""

AHEAD: Ticks = RATE * 6 // 10
"""Who moves is followed a little before: what is coming is known."""

TAKES: Ticks = RATE
"""A movement of the crop takes so long."""

STILL = 0.12
"""A face may move by such a share of what is seen, and nothing follows it."""

EYES = 0.42
"""The middle of a face lies so far down in what is seen: that leaves headroom."""

LOOKING, FAR_ROUND = 0.07, 0.12
"""Who looks aside by the second (about 30 degrees) is given room that way, by such a share of what is seen; others less."""

LASTING = 10
"""For so many looks on both sides somebody has to look aside: a glance needs no room."""


class Point(NamedTuple):
    """A place in a picture, in shares of its width and height."""

    x: float
    y: float


Path = Sequence[tuple[Ticks, Point]]
"""Places of time, and a point at each; between two of them it moves evenly."""


@dataclass(frozen=True)
class Face:
    """One face, from look number ``first`` on, every :data:`EVERY`, also where it was lost for a moment.

    ``turns`` are how far the nose lies to the right of the eyes at each look, by the width of the face; empty where unknown.
    """

    first: int
    boxes: tuple[Box, ...]
    turns: tuple[float, ...] = ()

    @property
    def size(self) -> float:
        """How much of all there is to see it takes: large ones that stay matter most."""
        return sum(box.width * box.height for box in self.boxes)

    def at(self, look: int) -> Box | None:
        number = look - self.first
        return self.boxes[number] if 0 <= number < len(self.boxes) else None

    def room(self, look: int) -> float:
        """How much room it is given to the right, or to the left where it is negative, by the width of what is seen."""
        number = look - self.first
        some = self.turns[max(0, number - LASTING) : number + LASTING + 1]
        return LOOKING * max(-1.0, min(1.0, median(some) / FAR_ROUND)) if some else 0.0


@dataclass(frozen=True)
class Faces:
    """All faces of a recording, the one that matters most first; ``cuts`` are where its own picture changes all at once.

    ``moving`` is what moves at each look, for recordings without a face.
    """

    faces: tuple[Face, ...]
    looks: int
    cuts: tuple[Ticks, ...] = ()
    moving: tuple[Box | None, ...] = ()
    _paths: dict[tuple[float, float], Path] = field(default_factory=dict, init=False, compare=False, repr=False)

    def middle(self, look: int, width: float) -> tuple[Box, float] | None:
        """What should be in the middle of a crop of so much of the width: all faces if it has room for them, else the first.

        Where the recording has no face, it is what moves. Beside it stands how far to the right what is seen is moved, by its
        width: one face by itself has room to look to.
        """
        if not self.faces:
            moves = self.moving[look] if look < len(self.moving) else None
            return (moves, 0.0) if moves else None
        seen = [(face, box) for face in self.faces if (box := face.at(look))]
        if not seen:
            return None
        together = _around([box for _, box in seen])
        if len(seen) > 1 and together.width <= width * 0.9:
            return together, 0.0
        face, box = seen[0]
        room = 0.8 * (width - box.width) / 2 / width  # no more than leaves all of it in
        return box, max(-room, min(room, face.room(look))) if room > 0 else 0.0

    def nearest(self, place: Ticks, x: float, y: float) -> Face | None:
        """The face at a point of the picture, at a place of the recording; None where none is near."""
        look = place // EVERY
        near = [(face, box) for face in self.faces if (box := face.at(look)) and _within(box, x, y)]
        return min(near, key=lambda each: _far(each[1], x, y))[0] if near else None

    def only(self, face: Face) -> Faces:
        """The same with one face alone."""
        return Faces((face,), self.looks, self.cuts)

    def at(self, place: Ticks) -> list[Box]:
        """The faces that are seen at a place of the recording."""
        return [box for face in self.faces if (box := face.at(place // EVERY))]

    def path(self, width: float, height: float) -> Path:
        """How the middle of a crop of such shares of the picture moves, by places of the recording."""
        key = round(width, 3), round(height, 3)
        if key not in self._paths:
            self._paths[key] = _path(self, *key)
        return self._paths[key]

    def way(self, begin: Ticks, until: Ticks, width: float, height: float) -> list[tuple[Ticks, Point]]:
        """The same from one place of the recording to another, counted from the first."""
        path = self.path(width, height)
        if not path:
            return [(0, Point(0.5, 0.5))]
        first, last = bisect_right(path, begin, key=_time), bisect_left(path, until, key=_time)
        out = [(0, along(path, begin)), *((at - begin, point) for at, point in path[first:last])]
        if until > begin and last < len(path):
            out.append((until - begin, along(path, until)))
        return [each for number, each in enumerate(out) if number in (0, len(out) - 1) or not _in_line(out, number)]


def _time(each: tuple[Ticks, Point]) -> Ticks:
    return each[0]


def _in_line(path: Sequence[tuple[Ticks, Point]], number: int) -> bool:
    """Whether a place stands still between its neighbours."""
    return path[number - 1][1] == path[number][1] == path[number + 1][1]


def along(path: Path, at: Ticks) -> Point:
    """Where a path is at a place of time."""
    number = bisect_right(path, at, key=_time)
    if number in (0, len(path)):
        return path[min(number, len(path) - 1)][1]
    (begin, a), (end, b) = path[number - 1 : number + 1]
    share = (at - begin) / (end - begin)
    return Point(a.x + (b.x - a.x) * share, a.y + (b.y - a.y) * share)


def _within(box: Box, x: float, y: float) -> bool:
    """Whether a point is in a face, or beside it by half of it."""
    return abs(x - box.x - box.width / 2) <= box.width and abs(y - box.y - box.height / 2) <= box.height


def _far(box: Box, x: float, y: float) -> float:
    return abs(x - box.x - box.width / 2) + abs(y - box.y - box.height / 2)


FILLS = 0.3
"""A face that is shown by itself fills so much of the height, where the camera sees several."""

NEAREST = 3.0
"""It comes no closer than by this factor."""


def closer_to(face: Face) -> float:
    """By how much the picture of a camera that sees several comes closer to one face."""
    return min(NEAREST, max(1.0, FILLS / median(box.height for box in face.boxes)))


def _around(boxes: Sequence[Box]) -> Box:
    left, top = min(box.x for box in boxes), min(box.y for box in boxes)
    right, bottom = max(box.x + box.width for box in boxes), max(box.y + box.height for box in boxes)
    return Box(left, top, right - left, bottom - top)


def _path(faces: Faces, width: float, height: float) -> Path:
    """The crop stands still while the face stays near its middle; else it goes to where that will be, without haste.

    Where the picture changes all at once, so does the crop.
    """
    out: list[tuple[Ticks, Point]] = []
    edges = [0, *(-(-cut // EVERY) for cut in faces.cuts), faces.looks]
    for number, (first, last) in enumerate(pairwise(edges)):
        wanted = _wanted(faces, first, last, width, height)
        if not wanted:
            continue
        if number:
            cut = faces.cuts[number - 1]
            out = [each for each in out if each[0] < cut]
            out += [(cut - 1, out[-1][1])] if out else []
        out += _followed(wanted, first, width, height, (cut if number else 0))
    return tuple(dict(out).items())


def _followed(
    wanted: Sequence[_Wanted], first: int, width: float, height: float, begin: Ticks
) -> Iterator[tuple[Ticks, Point]]:
    """How a crop follows where its middle should be, from look number ``first`` on, which ``begin`` is at or before."""
    ahead, takes = AHEAD // EVERY, max(1, TAKES // EVERY)
    here = _steady(wanted, 0, takes)
    near_x, near_y = (_still(size, [side(place) for place in wanted]) for size, side in ((width, _wide), (height, _high)))
    yield begin, here
    look = 0
    while look < len(wanted):
        coming = wanted[min(look + ahead, len(wanted) - 1)]
        if abs(coming.x - here.x) <= near_x and abs(coming.y - here.y) <= near_y:
            look += 1
            continue
        there = _steady(wanted, min(look + takes, len(wanted) - 1), takes)
        yield max(begin, (first + look) * EVERY), here
        yield (first + look + takes) * EVERY, there
        here = there
        look += takes


class _Wanted(NamedTuple):
    """Where the middle of a crop should be, and how large what is to be in it is."""

    x: float
    y: float
    width: float
    height: float


def _wide(place: _Wanted) -> float:
    return place.width


def _high(place: _Wanted) -> float:
    return place.height


def _still(size: float, sides: Sequence[float]) -> float:
    """How far a face may move before it is followed: less where it fills the crop."""
    return min(STILL * size, max(STILL / 8 * size, (size - median(sides)) / 2))


def _steady(wanted: Sequence[_Wanted], look: int, around: int) -> Point:
    """Where a face is for a while: a single look may be off."""
    some = wanted[look : look + around + 1]
    return Point(median(place.x for place in some), median(place.y for place in some))


def _wanted(faces: Faces, first: int, last: int, width: float, height: float) -> list[_Wanted]:
    """Where the middle of a crop should be at looks from ``first`` to ``last``; while no face is seen, where it was or will be.

    Without any face it is empty.
    """
    found: list[_Wanted | None] = []
    for look in range(first, last):
        middle = faces.middle(look, width)
        if middle is None:
            found.append(None)
            continue
        box, room = middle
        x, y = box.x + box.width / 2 + room * width, box.y + box.height / 2 + (0.5 - EYES) * height
        found.append(_Wanted(_bounded(x, width), _bounded(y, height), box.width, box.height))
    known = next((point for point in found if point), None)
    if known is None:
        return []
    out = []
    for point in found:
        known = point or known
        out.append(known)
    return out


def _bounded(middle: float, size: float) -> float:
    return min(max(size / 2, middle), 1 - size / 2) if size < 1 else 0.5
