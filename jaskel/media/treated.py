"""What is done to a camera's picture before it is put into the frame: levels, and covers over what must not be seen."""

from __future__ import annotations

from collections.abc import Sequence

import av
import cv2
import numpy as np

from jaskel.core.picture.cover import CoverForm
from jaskel.core.picture.framing import Box
from jaskel.core.picture.grade import AS_FILMED, NEUTRAL, Grade, Statistics
from jaskel.media.patch import copied, planes_of

CELLS = 6
"""A covered part keeps so many cells across and down: nobody is known by that, however it is drawn."""

SOLID = (40, 128, 128)
"""The colour of a cover that lets nothing through, as Y, Cb and Cr."""


def treated(picture: av.VideoFrame, grade: Grade, covers: Sequence[tuple[CoverForm, Box]]) -> av.VideoFrame:
    """A picture (yuv420p) with levels, and with parts covered; the first is left as it is."""
    if covers or grade == AS_FILMED:
        picture = copied(picture)
        for form, box in covers:
            for number, plane in enumerate(planes_of(picture)):
                _cover(plane, box, form, SOLID[number])
    return picture if grade == AS_FILMED else _levelled(picture, grade)


def _cover(plane: np.ndarray, box: Box, form: CoverForm, solid: int) -> None:
    height, width = plane.shape
    left, right = (round(min(1.0, max(0.0, at)) * width) for at in (box.x, box.x + box.width))
    top, bottom = (round(min(1.0, max(0.0, at)) * height) for at in (box.y, box.y + box.height))
    part = plane[top:bottom, left:right]
    if not part.size:
        return
    if form == "solid":
        part[:] = solid
        return
    cells = cv2.resize(np.ascontiguousarray(part), (CELLS, CELLS), interpolation=cv2.INTER_AREA)
    how = cv2.INTER_NEAREST if form == "pixels" else cv2.INTER_CUBIC
    part[:] = cv2.resize(cells, (part.shape[1], part.shape[0]), interpolation=how)


def _levelled(picture: av.VideoFrame, grade: Grade) -> av.VideoFrame:
    bright, lift, colour, blue, red = grade.linear
    out = av.VideoFrame(picture.width, picture.height, "yuv420p")
    lines = (bright, lift), (colour, NEUTRAL * (1 - colour) + blue), (colour, NEUTRAL * (1 - colour) + red)
    for new, old, (by, plus) in zip(planes_of(out), planes_of(picture), lines, strict=True):
        cv2.addWeighted(old, by, old, 0, plus, dst=new)  # this one takes a line below 0 to 0, and no memory of its own
    return out


FACE = 3.0
"""A face counts so many times as much as what is around it, where pictures of two cameras are matched."""


def statistics_of(pictures: Sequence[tuple[av.VideoFrame, Sequence[Box]]]) -> Statistics:
    """The statistics of pictures (yuv420p) with the faces in them."""
    rows = []
    for picture, faces in pictures:
        y, u, v = (plane.astype(np.float64) for plane in planes_of(picture))
        weight = np.ones_like(u)
        for box in faces:
            height, width = weight.shape
            weight[
                round(max(0.0, box.y) * height) : round((box.y + box.height) * height),
                round(max(0.0, box.x) * width) : round((box.x + box.width) * width),
            ] = FACE
        light = y[: 2 * u.shape[0], : 2 * u.shape[1]].reshape(u.shape[0], 2, u.shape[1], 2).mean(axis=(1, 3))
        total = weight.sum()
        mean = [float((plane * weight).sum() / total) for plane in (light, u, v)]
        spread = [float(((plane - at) ** 2 * weight).sum() / total) for plane, at in zip((light, u, v), mean, strict=True)]
        rows.append((mean[0], spread[0], mean[1], mean[2], spread[1] + spread[2]))
    bright, spread, blue, red, colour = np.mean(rows, axis=0)
    return Statistics(float(bright), float(np.sqrt(spread)), float(blue), float(red), float(np.sqrt(colour)))
