"""Bridges: pictures between two that are nearly alike, so that a jump from one to the other is not seen.

Where each part of the picture goes is found by dense optical flow, both ways: Kroeger and others, "Fast optical flow using
dense inverse search", 2016, as OpenCV has it. A picture in between takes each of its points from both sides, along the flows
combined for its moment (Jiang and others, "Super SloMo", 2018, equation 4).
"""

from __future__ import annotations

from dataclasses import dataclass
from functools import cached_property, lru_cache
from typing import Literal

import cv2
import numpy as np

Quality = Literal["good", "fair", "poor"]

BLOCK = 32
"""The side of a block in pixels, in a picture of :data:`JUDGED` pixels across."""

JUDGED = 640
"""Bridges are judged at this width: the errors of larger pictures are seen no better."""

GOOD, FAIR = 22.0, 40.0
"""Levels of 255 by which the two sides may differ in the worst block, halfway, where a bridge is called good, and fair.

Halfway each side has been moved by half of the way. Where both agree, either is right; where they differ, what is shown lies
between them, so it is off by no more than they differ: the bound of what is called good. On pictures in known motion it is off
by a fifth to a half of it (``./run bench picture``).
"""


class Bridge:
    """The way from one picture to another of the same size.

    Parameters
    ----------
    first, last
        RGB of eight bits, (height, width, 3).
    """

    def __init__(self, first: np.ndarray, last: np.ndarray) -> None:
        self._first, self._last = first, last
        flow = cv2.DISOpticalFlow.create(cv2.DISOPTICAL_FLOW_PRESET_MEDIUM)
        # Large moves are found in smaller pictures as well, in a fraction of the time.
        self._scale = min(1.0, JUDGED / first.shape[1])
        grey = [cv2.cvtColor(self._small(each), cv2.COLOR_RGB2GRAY) for each in (first, last)]
        self._there: np.ndarray = flow.calc(grey[0], grey[1], None)  # type: ignore[call-overload]
        self._back: np.ndarray = flow.calc(grey[1], grey[0], None)  # type: ignore[call-overload]

    def _small(self, picture: np.ndarray) -> np.ndarray:
        if self._scale == 1:
            return picture
        size = round(picture.shape[1] * self._scale), round(picture.shape[0] * self._scale)
        found: np.ndarray = cv2.resize(picture, size, interpolation=cv2.INTER_AREA)
        return found

    def at(self, share: float) -> np.ndarray:
        """The picture so far on the way, from 0 to 1."""
        if share <= 0:
            return self._first
        if share >= 1:
            return self._last
        sides = self._sides(share, self._first, self._last)
        # The nearer side has the say: of two that agree, one alone is sharper than their mean.
        near = np.float32(_step(share))
        first, last = self._trusted(share)
        found: np.ndarray = cv2.blendLinear(*sides, (1 - near) * first + EITHER, near * last + EITHER)
        return found

    def _sides(self, share: float, first: np.ndarray, last: np.ndarray) -> tuple[np.ndarray, np.ndarray]:
        flows = _between(self._there, self._back, share)
        return _moved(first, flows[0]), _moved(last, flows[1])

    def _trusted(self, share: float) -> tuple[np.ndarray, np.ndarray]:
        """How far each side is to be trusted, by how well the way there and back leads to where it began."""
        height, width = self._first.shape[:2]
        there, back = self._rough
        out = []
        for flow, way, return_way in zip(_between(there, back, share), (there, back), (back, there), strict=True):
            # What a point sees over there should see it again from here.
            gone = _moved(way, flow)
            off = np.hypot(*np.moveaxis(gone + _moved(return_way, flow + gone), 2, 0))
            sure = np.exp(-((off * (self._there.shape[1] / there.shape[1]) / 3) ** 2)) + 0.02
            out.append(cv2.resize(sure.astype(np.float32), (width, height)))
        return out[0], out[1]

    @cached_property
    def _rough(self) -> tuple[np.ndarray, np.ndarray]:
        """Both flows at half their size: trust need not be finer."""
        height, width = self._there.shape[:2]
        size = max(2, width // 2), max(2, height // 2)
        there, back = (
            cv2.resize(flow, size, interpolation=cv2.INTER_AREA) * np.float32(0.5) for flow in (self._there, self._back)
        )
        return there, back

    @cached_property
    def errors(self) -> np.ndarray:
        """By how many levels the two sides differ halfway, block by block (root of the mean square)."""
        first, last = self._small(self._first), self._small(self._last)
        one, other = self._sides(0.5, first, last)
        square = ((one.astype(np.float32) - other.astype(np.float32)) ** 2).mean(axis=2)
        # What only one side knows (it comes in at an edge, or from behind something) is taken from that one.
        trusted = [cv2.resize(each, square.shape[::-1]) for each in self._trusted(0.5)]
        square = square * (np.minimum(*trusted) / np.maximum(*trusted))
        rows, columns = (max(1, side // BLOCK) for side in square.shape)
        whole = cv2.resize(square, (columns * BLOCK, rows * BLOCK), interpolation=cv2.INTER_AREA)
        blocks: np.ndarray = np.sqrt(whole.reshape(rows, BLOCK, columns, BLOCK).mean(axis=(1, 3)))
        return blocks

    @property
    def judged(self) -> Judged:
        """What it is worth, before anybody looks."""
        rows, columns = self.errors.shape
        worst = float(self.errors.max())
        where = np.argwhere(self.errors > GOOD)
        smears = tuple((float(column / columns), float(row / rows), 1 / columns, 1 / rows) for row, column in where)
        quality: Quality = "good" if worst <= GOOD else "fair" if worst <= FAIR else "poor"
        alike = 1 - min(1.0, float(self.errors.mean()) / FAIR)
        return Judged(quality, worst, alike, smears)


@dataclass(frozen=True)
class Judged:
    """What a bridge is worth: the levels in its worst block, how alike the two sides are (0 to 1), and the blocks it smears.

    Blocks are left, top, width and height in shares of the picture.
    """

    quality: Quality
    worst: float
    alike: float
    smears: tuple[tuple[float, float, float, float], ...]


def _between(there: np.ndarray, back: np.ndarray, share: float) -> tuple[np.ndarray, np.ndarray]:
    """From each point of the picture in between to where it comes from on either side."""
    p = np.float32(share)
    return -(1 - p) * p * there + p * p * back, (1 - p) * (1 - p) * there - p * (1 - p) * back


EITHER = np.float32(1e-4)
"""What each side weighs at least, so that there is always something to be seen."""


@lru_cache(8)
def _grid(height: int, width: int) -> np.ndarray:
    """The places of all points of a picture: columns and rows."""
    columns, rows = np.meshgrid(np.arange(width, dtype=np.float32), np.arange(height, dtype=np.float32))
    return np.dstack((columns, rows))


def _moved(picture: np.ndarray, flow: np.ndarray) -> np.ndarray:
    """Each point of a picture from where a flow leads; the flow may be smaller than the picture."""
    height, width = picture.shape[:2]
    if flow.shape[:2] != (height, width):
        flow = cv2.resize(flow * np.float32(width / flow.shape[1]), (width, height))
    found: np.ndarray = cv2.remap(
        picture, _grid(height, width) + flow, np.empty(0), cv2.INTER_LINEAR, borderMode=cv2.BORDER_REPLICATE
    )
    return found


def _step(share: float) -> float:
    """From one side to the other, most of it around the middle."""
    p = min(1.0, max(0.0, (share - 0.2) / 0.6))
    return p * p * (3 - 2 * p)
