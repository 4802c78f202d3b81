"""Something drawn round in a picture, followed through the pictures after it."""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from fractions import Fraction
from pathlib import Path

import av
import cv2
import numpy as np

from jaskel.core.picture.framing import Box
from jaskel.core.timebase import RATE, Ticks
from jaskel.media.picture import PictureSource, upright

EVERY: Ticks = RATE // 12
"""It is looked for so often."""

ACROSS = 320
"""Pixels across of the pictures in which it is looked for."""

REACH = 0.6
"""It is looked for so far around where it was, in its own sizes: nobody moves further in a twelfth of a second."""

SURE = 0.55
"""Below this correlation it is not believed to be the same: it stays where it was last."""

PLAIN = 2.0
"""Levels by which what is followed varies at least: nothing tells a plain wall from the wall beside it."""

NEARER = 0.05
"""What it takes off a correlation to be a whole size away."""

LEARNS = 0.08
"""How much of how it looks is taken over each time: it turns, and light changes."""


LONGEST: Ticks = 300 * RATE
"""So much is looked through at a time: its pictures are kept in memory."""


def follow(path: Path, box: Box, at: Ticks, begin: Ticks, end: Ticks) -> list[tuple[Ticks, Box, bool]]:
    """Where something is from ``begin`` to ``end`` that lies in ``box`` at a place between them.

    Gives places of time in order, boxes, and whether it was found there for sure. By normalised cross-correlation with how it
    looked (Lewis, "Fast template matching", 1995), from that place on both ways.
    """
    times, pictures = _looked_at(path, begin, end)
    if not pictures:
        return []
    middle = min(range(len(times)), key=lambda number: abs(times[number] - at))
    known = _part(pictures[middle], box)
    if min(known.shape) < 4:
        return [(time, box, True) for time in times]
    there = [*_way(pictures[middle:], known, box)]
    back = [*_way(pictures[middle::-1], known, box)]
    return [(time, *found) for time, found in zip(times, (*reversed(back[1:]), *there), strict=True)]


def _looked_at(path: Path, begin: Ticks, end: Ticks) -> tuple[list[Ticks], list[np.ndarray]]:
    source = PictureSource(path)
    times, pictures = [], []
    try:
        for at in (*range(begin, end, EVERY), end):
            shown = source.at(Fraction(at, RATE))
            if shown is None:
                break
            times.append(at)
            pictures.append(_small(shown))
    finally:
        source.close()
    return times, pictures


def _way(pictures: Sequence[np.ndarray], known: np.ndarray, box: Box) -> Iterator[tuple[Box, bool]]:
    for number, picture in enumerate(pictures):
        found = _found(picture, known, box) if number else box
        if found:
            box = found
            seen = cv2.resize(_part(picture, box), known.shape[::-1])
            known = cv2.addWeighted(known, 1 - LEARNS, seen, LEARNS, 0)
        yield box, found is not None


def _small(frame: av.VideoFrame) -> np.ndarray:
    grey = upright(frame).to_ndarray(format="gray")
    by = min(1.0, ACROSS / grey.shape[1])
    found: np.ndarray = cv2.resize(grey, (round(grey.shape[1] * by), round(grey.shape[0] * by)), interpolation=cv2.INTER_AREA)
    return found


def _part(picture: np.ndarray, box: Box) -> np.ndarray:
    height, width = picture.shape
    left, top = max(0, round(box.x * width)), max(0, round(box.y * height))
    return np.ascontiguousarray(picture[top : round((box.y + box.height) * height), left : round((box.x + box.width) * width)])


def _found(picture: np.ndarray, known: np.ndarray, box: Box) -> Box | None:
    height, width = picture.shape
    high, wide = known.shape
    left, top = box.x * width, box.y * height
    x0, y0 = max(0, int(left - REACH * wide)), max(0, int(top - REACH * high))
    area = picture[y0 : int(top + high * (1 + REACH)) + 1, x0 : int(left + wide * (1 + REACH)) + 1]
    if area.shape[0] < high or area.shape[1] < wide or known.std() < PLAIN:
        return None
    scores = cv2.matchTemplate(area, known, cv2.TM_CCOEFF_NORMED)
    # Of places that look the same, the nearest.
    down, across = np.ogrid[: scores.shape[0], : scores.shape[1]]
    scores = scores - NEARER * np.hypot((across - (left - x0)) / wide, (down - (top - y0)) / high).astype(np.float32)
    _, best, _, (x, y) = cv2.minMaxLoc(scores)
    if best < SURE:
        return None
    return Box((x0 + x) / width, (y0 + y) / height, box.width, box.height)
