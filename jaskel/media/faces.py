"""Finding faces in pictures, and following them through a recording."""

from __future__ import annotations

from collections.abc import Callable, Iterator
from fractions import Fraction
from itertools import pairwise
from pathlib import Path
from typing import NamedTuple

import av
import numpy as np

from jaskel.core.picture.faces import EVERY, Face, Faces
from jaskel.core.picture.framing import Box
from jaskel.core.timebase import RATE, Ticks
from jaskel.media.network import network
from jaskel.media.picture import PictureSource, upright

SIDE, CELLS = 192, 48
"""What the full-range face detector of MediaPipe (Apache-2.0) sees: faces up to five metres from the camera."""

SURE = 0.6
"""So sure the detector has to be."""

OVERLAP = 0.3
"""Boxes that overlap by more are of one face."""

GONE = 2 * RATE // EVERY
"""A face that was not seen for so many looks is another one when it comes again."""

CHANGED = 24.0
"""Small pictures that differ by more on average, of 255, are not of one shot."""

BRIEF = RATE // EVERY
"""What was seen for fewer looks was none."""

GROWN = 1.25
"""The detector's boxes reach from brow to chin: the whole head is larger by so much."""


def small_of(picture: av.VideoFrame) -> np.ndarray:
    """An upright picture of square pixels as the detector wants it: its longer side is :data:`SIDE`."""
    scale = SIDE / max(picture.width, picture.height)
    width, height = max(2, round(picture.width * scale)), max(2, round(picture.height * scale))
    return picture.reformat(width, height, "rgb24", interpolation="AREA").to_ndarray()


class Found(NamedTuple):
    """A face in a picture, and how far its nose lies to the right of the middle of its eyes, by its width."""

    box: Box
    turn: float


def faces_in(small: np.ndarray) -> list[Found]:
    """The faces in a picture (see :func:`small_of`), the surest first."""
    height, width = small.shape[:2]
    square = np.zeros((SIDE, SIDE, 3), np.float32)
    square[:height, :width] = small
    raw, scores = sorted(network("faces").answers(square / 127.5 - 1), key=lambda each: -each.shape[1])
    sure = 1 / (1 + np.exp(-np.clip(scores[:, 0], -80, 80)))
    found: list[Found] = []
    for index in np.flatnonzero(sure >= SURE)[np.argsort(-sure[sure >= SURE])]:
        across, down, wide, high = raw[index, :4]
        x = (index % CELLS + 0.5) / CELLS * SIDE + across
        y = (index // CELLS + 0.5) / CELLS * SIDE + down
        wide, high = wide * GROWN, high * GROWN
        box = Box(float(x - wide / 2) / width, float(y - high / 2) / height, float(wide) / width, float(high) / height)
        if all(_overlap(box, other.box) < OVERLAP for other in found):
            right_eye, left_eye, nose = raw[index, 4:10:2]  # further points of the detector, across
            found.append(Found(box, float((nose - (right_eye + left_eye) / 2) / wide)))
    return found


def _overlap(a: Box, b: Box) -> float:
    """The share of their union that two boxes have in common."""
    wide = min(a.x + a.width, b.x + b.width) - max(a.x, b.x)
    high = min(a.y + a.height, b.y + b.height) - max(a.y, b.y)
    both = max(0.0, wide) * max(0.0, high)
    return both / max(1e-9, a.width * a.height + b.width * b.height - both)


def follow_faces(path: Path, length: Ticks, progress: Callable[[Ticks], None] = lambda _: None) -> Faces:
    """The faces of a film of so many ticks, followed from look to look."""
    source = PictureSource(path)
    followed: list[_Followed] = []
    looks = max(1, -(-length // EVERY))
    cuts: list[Ticks] = []
    before: np.ndarray | None = None
    moving: list[Box | None] = []
    try:
        for look in range(looks):
            picture = source.at(Fraction(look * EVERY, RATE))
            if picture is None:
                break
            small = small_of(upright(picture))
            begun = before is not None and _differ(before, small) > CHANGED
            if begun:
                cuts.append(_cut_in(path, (look - 1) * EVERY, look * EVERY))
            _continue(followed, look, faces_in(small), anew=begun)
            moving.append(_moving(before, small) if before is not None and not begun else None)
            before = small
            progress(min(look * EVERY, length))
    finally:
        source.close()
    faces = [each.face() for each in followed if len(each.looks) >= min(BRIEF, looks)]
    return Faces(tuple(sorted(faces, key=lambda face: -face.size)), looks, tuple(cuts), () if faces else tuple(moving))


MOVED, LEAST, MOST = 14, 0.002, 0.4
"""What moves differs by so many levels from the look before, and takes from so much to so much of the picture: less is noise,
and where nearly all of it does, the camera moved."""


def _moving(before: np.ndarray, small: np.ndarray) -> Box | None:
    """Where a picture differs from the one before: nine tenths of that each way; None where nothing moves by itself."""
    if before.shape != small.shape:
        return None
    moved = np.abs(before.astype(np.int16) - small).max(axis=2) > MOVED
    if not LEAST <= moved.mean() <= MOST:
        return None
    height, width = moved.shape
    rows, columns = np.nonzero(moved)
    left, right = np.percentile(columns, (5, 95)) / width
    top, bottom = np.percentile(rows, (5, 95)) / height
    return Box(float(left), float(top), float(max(right - left, 1 / width)), float(max(bottom - top, 1 / height)))


def _differ(a: np.ndarray, b: np.ndarray) -> float:
    """By how much two small pictures differ on average, from 0 to 255."""
    return float(np.abs(a.astype(np.int16) - b).mean()) if a.shape == b.shape else 255.0


def _cut_in(path: Path, begin: Ticks, end: Ticks) -> Ticks:
    """Where between two looks the picture changes at once, to within a hundredth of a second."""
    source = PictureSource(path)
    step = RATE // 100
    try:
        small: list[tuple[Ticks, np.ndarray]] = []
        for at in range(begin, end + step, step):
            if picture := source.at(Fraction(at, RATE)):
                small.append((at, small_of(upright(picture))))
        return max(pairwise(small), key=lambda pair: _differ(pair[0][1], pair[1][1]))[1][0]
    finally:
        source.close()


class _Followed:
    """One face: at which looks it was seen, and how."""

    def __init__(self, look: int, found: Found) -> None:
        self.looks, self.found = [look], [found]

    def seen(self, look: int, found: Found) -> None:
        self.looks.append(look)
        self.found.append(found)

    def face(self) -> Face:
        """The same at every look from the first to the last."""
        every = [*self._filled()]
        return Face(self.looks[0], tuple(each.box for each in every), tuple(each.turn for each in every))

    def _filled(self) -> Iterator[Found]:
        yield self.found[0]
        for (before, a), (after, b) in pairwise(zip(self.looks, self.found, strict=True)):
            for look in range(before + 1, after + 1):
                share = (look - before) / (after - before)
                box = Box(*(x + (y - x) * share for x, y in zip(a.box, b.box, strict=True)))
                yield Found(box, a.turn + (b.turn - a.turn) * share)


def _continue(followed: list[_Followed], look: int, found: list[Found], *, anew: bool) -> None:
    """Give each face that is seen to the one it goes on from: the nearest, of those that were seen lately; ``anew`` to none."""
    lately = [] if anew else [each for each in followed if look - each.looks[-1] <= GONE]
    pairs = sorted(
        (_apart(each.found[-1].box, new.box), index, number)
        for index, each in enumerate(lately)
        for number, new in enumerate(found)
    )
    taken: set[int] = set()
    given: set[int] = set()
    for apart, index, number in pairs:
        if apart < 1.0 and index not in taken and number not in given:
            lately[index].seen(look, found[number])
            taken.add(index)
            given.add(number)
    followed += [_Followed(look, each) for number, each in enumerate(found) if number not in given]


def _apart(a: Box, b: Box) -> float:
    """How far two boxes are apart, in their widths."""
    x, y = a.x + a.width / 2 - b.x - b.width / 2, a.y + a.height / 2 - b.y - b.height / 2
    size = (a.width + b.width) / 2, (a.height + b.height) / 2
    return float(np.hypot(x / size[0], y / size[1])) + abs(float(np.log(a.width / b.width)))
