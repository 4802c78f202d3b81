"""Eyes turned to the camera: found by their irises, and moved a little within their lids."""

from __future__ import annotations

from collections.abc import Sequence
from fractions import Fraction
from functools import cache
from math import cos, hypot, sin
from pathlib import Path
from typing import NamedTuple

import av
import cv2
import numpy as np

from jaskel.core.picture.framing import Box
from jaskel.core.picture.gaze import Eye, Gaze, Look, Pair, Pixel, look_of, strength, yaw_of
from jaskel.core.timebase import RATE, Ticks, frame_start
from jaskel.media.faces import GROWN, faces_in, small_of
from jaskel.media.network import network
from jaskel.media.patch import copied, planes_of
from jaskel.media.picture import KEY_PICTURES, PictureSource, stamped, upright

FACE_SIDE, FACE_AROUND, EYE_SIDE, EYE_AROUND = 192, 1.5, 64, 2.3
"""The sides of what the networks see, in pixels, and how much larger than the face and the eye that is.

They are MediaPipe's 468 points of a face, and its points of an eye and its iris (both Apache-2.0).
"""

CORNERS = ((33, 133), (362, 263))
"""The points of the corners of both eyes, in the picture from left to right."""

SIDES = 234, 454
"""The points before both ears."""

LOWER, UPPER = range(9), range(9, 16)
"""The points of both lids, each from the outer to the inner corner."""

TILTED = 0.1
"""A face that is tilted by more, in radians, is looked at again upright."""

MEMORY: Ticks = RATE * 6 // 100
"""What is measured of eyes is evened out over so long: irises are found to within half a pixel, and would tremble."""

GLANCE = 0.15
"""Eyes that moved by more, in radii of the iris, did so: that is not evened out."""

RIM_SEARCH, RIM_FAR, RIM_NEAR = 3.0, 0.9, 0.35
"""The rim of an iris is looked for in so many of its radii around, its middle within so many, nearer ones being preferred."""

CORE, EDGE = 1.2, 2.4
"""As far from its middle, in its radii, an iris moves as a whole; from there less and less, up to there."""


def _answers(name: str, picture: np.ndarray) -> list[np.ndarray]:
    """What a network says of a picture (RGB), the shortest answer first."""
    return sorted((each.ravel() for each in network(name).answers(picture.astype(np.float32) / 255)), key=len)


def _part(picture: np.ndarray, middle: Pixel, side: float, tilt: float, pixels: int) -> tuple[np.ndarray, np.ndarray]:
    """A square part of a picture, turned, at a size; and the map from its pixels to those of the picture."""
    by, c, s = side / pixels, cos(tilt), sin(tilt)
    x, y = middle[0] - (c - s) * side / 2, middle[1] - (s + c) * side / 2
    back = np.array(((c * by, -s * by, x), (s * by, c * by, y)), np.float32)
    return cv2.warpAffine(picture, back, (pixels, pixels), flags=cv2.INTER_LINEAR | cv2.WARP_INVERSE_MAP), back


def _points_of_face(picture: np.ndarray, middle: Pixel, side: float, tilt: float) -> np.ndarray | None:
    """468 points of a face, as x, y and depth in pixels; None where there is none after all."""
    seen, back = _part(picture, middle, side, tilt, FACE_SIDE)
    score, points = _answers("face_points", seen)
    if score[0] < 0:
        return None
    points = points.reshape(-1, 3)
    return np.hstack((points[:, :2] @ back[:, :2].T + back[:, 2], points[:, 2:] * (side / FACE_SIDE)))


def _eye(picture: np.ndarray, corners: np.ndarray, tilt: float, *, mirrored: bool) -> Eye:
    """An eye between two corners; the network knows those on the left of a picture, others are shown to it in a mirror."""
    middle = corners[:, :2].mean(axis=0)
    wide = float(np.hypot(*(corners[1, :2] - corners[0, :2])))
    seen, back = _part(picture, (float(middle[0]), float(middle[1])), wide * EYE_AROUND, tilt, EYE_SIDE)
    iris, lids = (each.reshape(-1, 3)[:, :2].copy() for each in _answers("iris", seen[:, ::-1] if mirrored else seen))
    opened = (lids[LOWER, 1][3:6].mean() - lids[UPPER, 1][2:5].mean()) / (EYE_SIDE / EYE_AROUND)
    if mirrored:
        iris[:, 0], lids[:, 0] = EYE_SIDE - iris[:, 0], EYE_SIDE - lids[:, 0]
    iris, lids = (each @ back[:, :2].T + back[:, 2] for each in (iris, lids))
    radius = float(np.hypot(*(iris[1:] - iris[0]).T).mean())
    centre = _rim(picture, _pixel(iris[0]), radius, tilt)
    around = [*lids[LOWER], *lids[list(UPPER)[::-1]]]
    # The corners are those of the face: what this network takes for them goes along with the iris.
    left, right = _pixel(corners[0]), _pixel(corners[1])
    return Eye(centre, radius, (left, right), tuple(map(_pixel, around)), float(opened))


def _rim(picture: np.ndarray, near: Pixel, radius: float, tilt: float) -> Pixel:
    """The middle of an iris, near a place: where its sides are darker than the white beside them, by most.

    The network draws irises towards the middle of the eye; the rim itself tells where they are (after Daugman, 1993, along the
    sides alone: lids cover the rest).
    """
    side, r = 2 * RIM_SEARCH * radius, EYE_SIDE / (2 * RIM_SEARCH)
    seen, back = _part(picture, near, side, tilt, EYE_SIDE)
    light = cv2.GaussianBlur(cv2.cvtColor(seen, cv2.COLOR_RGB2GRAY).astype(np.float32), (0, 0), 1.0)
    contrast = cv2.filter2D(light, -1, _sides(round(r)), borderType=cv2.BORDER_REPLICATE)
    middle = EYE_SIDE / 2
    rows, columns = np.mgrid[0:EYE_SIDE, 0:EYE_SIDE].astype(np.float32)
    far = np.hypot(columns - middle, rows - middle) / r
    contrast = np.where(far < RIM_FAR, contrast / max(1e-6, float(contrast[far < RIM_FAR].max())) - RIM_NEAR * far**2, -np.inf)
    row, column = np.unravel_index(int(contrast.argmax()), contrast.shape)
    found = np.array((column + _top(contrast[row, column - 1 : column + 2]), row + _top(contrast[row - 1 : row + 2, column])))
    return _pixel(found @ back[:, :2].T + back[:, 2])


@cache
def _sides(radius: int) -> np.ndarray:
    """How much lighter it is beside a disc of a radius than within its rim, to the left and right, as a filter."""
    reach = round(1.5 * radius)
    rows, columns = np.mgrid[-reach : reach + 1, -reach : reach + 1]
    far = np.hypot(rows, columns) / radius
    across = np.abs(columns) > np.abs(rows)
    out = np.zeros(far.shape, np.float32)
    for lies, sign in (((far > 1.05) & (far < 1.4) & across, 1), ((far > 0.6) & (far < 0.95) & across, -1)):
        out[lies] = sign / lies.sum()
    return out


def _top(three: np.ndarray) -> float:
    """Where a parabola through three values is highest, counted from the middle one."""
    if len(three) < 3 or not np.isfinite(three).all():
        return 0.0
    bend = three[0] - 2 * three[1] + three[2]
    return float(np.clip((three[0] - three[2]) / (2 * bend), -0.5, 0.5)) if bend < 0 else 0.0


def _pixel(point: np.ndarray) -> Pixel:
    return float(point[0]), float(point[1])


def eyes_in(picture: np.ndarray, face: Box) -> Pair | None:
    """The eyes of a face (see :func:`jaskel.media.faces.faces_in`) in a picture (RGB); None where it is none after all."""
    height, width = picture.shape[:2]
    middle = (face.x + face.width / 2) * width, (face.y + face.height / 2) * height
    side = max(face.width * width, face.height * height) / GROWN * FACE_AROUND
    points = _points_of_face(picture, middle, side, 0.0)
    if points is None:
        return None
    if abs(tilt := _tilt(points)) > TILTED:
        points = _points_of_face(picture, middle, side, tilt)
        if points is None:
            return None
        tilt = _tilt(points)
    left, right = (_eye(picture, points[list(corners)], tilt, mirrored=bool(number)) for number, corners in enumerate(CORNERS))
    one, other = (tuple(map(float, points[each])) for each in SIDES)
    return Pair(left, right, yaw_of(one, other))  # type: ignore[arg-type]


def _tilt(points: np.ndarray) -> float:
    across = points[CORNERS[1][1]] - points[CORNERS[0][0]]
    return float(np.arctan2(across[1], across[0]))


class Seen(NamedTuple):
    """A face that was looked at: when, where its eyes were, and how they looked."""

    at: Ticks
    middle: Pixel
    look: Look


class Gazes:
    """Turns the eyes in the pictures of one camera, which are given in order.

    What it found in one picture (``lately``) evens out what it finds in the next; after a jump it begins anew.
    """

    def __init__(self) -> None:
        self.lately: list[Seen] = []

    def turned(self, picture: av.VideoFrame, at: Ticks, gaze: Gaze) -> av.VideoFrame:
        """A picture (yuv420p) with the eyes of all faces turned; the same one where none are."""
        whole = picture.to_ndarray(format="rgb24")
        seen: list[Seen] = []
        out: av.VideoFrame | None = None
        for face in faces_in(small_of(picture)):
            pair = eyes_in(whole, face.box)
            if pair is None:
                continue
            look = self._evened(look_of(pair), pair, at)
            seen.append(Seen(at, pair.left.iris, look))
            if by := strength(look, gaze):
                out = out or copied(picture)
                for eye in (pair.left, pair.right):
                    _turn(planes_of(out), eye, look, by)
        self.lately = seen
        return out or picture

    def _evened(self, look: Look, pair: Pair, at: Ticks) -> Look:
        x, y = pair.left.iris
        before = min(self.lately, key=lambda each: hypot(each.middle[0] - x, each.middle[1] - y), default=None)
        if (
            before is None
            or not 0 < at - before.at < RATE // 5
            or hypot(before.middle[0] - x, before.middle[1] - y) > look.width
        ):
            return look
        if hypot(look.right - before.look.right, look.down - before.look.down) > GLANCE:
            return look
        keep = float(np.exp(-(at - before.at) / MEMORY))
        right, down, yaw = (new + (old - new) * keep for old, new in zip(before.look[:3], look[:3], strict=True))
        return look._replace(right=right, down=down, yaw=yaw)


PIECE: Ticks = 2 * RATE
"""The monitor shows turned eyes in pieces of this length."""

WARMING: Ticks = RATE // 5
"""So much before a piece is looked at, too, so that nothing jumps where it begins."""


def write_turned(out: Path, copy: Path, begin: Ticks, end: Ticks, gaze: Gaze) -> None:
    """Write a part of a light copy with its eyes turned, as a silent MP4 in which every picture can be jumped to."""
    source, gazes = PictureSource(copy), Gazes()
    rate = source.rate
    try:
        with av.open(str(out), "w", format="mp4", options={"movflags": "+faststart"}) as file:
            video = file.add_stream("libx264", rate=rate, options=KEY_PICTURES)
            first, last, before = (round(ticks * rate / RATE) for ticks in (begin, end, WARMING))
            for number in range(max(0, first - before), max(last, first + 1)):
                at = frame_start(number, rate)
                picture = source.at(Fraction(at, RATE))
                if picture is None:
                    break
                turned = gazes.turned(upright(picture).reformat(format="yuv420p"), at, gaze)
                if number >= first:
                    if number == first:
                        video.width, video.height, video.pix_fmt = turned.width, turned.height, "yuv420p"
                    file.mux(video.encode(stamped(turned, number - first, rate)))
            file.mux(video.encode())
    finally:
        source.close()


def _turn(planes: Sequence[np.ndarray], eye: Eye, look: Look, by: float) -> None:
    """Move an iris within its lids, in all planes of a picture (yuv420p)."""
    (a, b), (c, d) = eye.corners
    along, across = ((c - a) / eye.width, (d - b) / eye.width), (-(d - b) / eye.width, (c - a) / eye.width)
    shift = [-by * eye.radius * (look.right * one + look.down * other) for one, other in zip(along, across, strict=True)]
    for number, plane in enumerate(planes):
        half = 2 if number else 1
        _moved(plane, eye, (shift[0] / half, shift[1] / half), half)


def _moved(plane: np.ndarray, eye: Eye, shift: Pixel, half: int) -> None:
    """Move what is round an iris in one plane, whose pixels are ``half`` as fine."""
    # The middles of pixels of colour lie between those of two of light, as in MPEG-2 and later across.
    lids = np.array(eye.lids, np.float32) / half
    x, y = eye.iris[0] / half, eye.iris[1] / half
    radius, room = eye.radius / half, eye.width * 0.75 / half
    left, right = max(0, int(x - room)), min(plane.shape[1], int(x + room) + 2)
    top, bottom = max(0, int(y - room)), min(plane.shape[0], int(y + room) + 2)
    if right - left < 4 or bottom - top < 4:
        return
    rows, columns = np.mgrid[top:bottom, left:right].astype(np.float32)
    far = np.hypot(columns - x - shift[0], rows - y - shift[1]) / radius
    share = np.clip((EDGE - far) / (EDGE - CORE), 0, 1)
    weight = share * share * (3 - 2 * share) * _within_lids(lids - (left, top), (bottom - top, right - left), eye.width / half)
    part = np.ascontiguousarray(plane[top:bottom, left:right])
    across, down = columns - left - shift[0] * weight, rows - top - shift[1] * weight
    plane[top:bottom, left:right] = cv2.remap(part, across, down, cv2.INTER_CUBIC, borderMode=cv2.BORDER_REPLICATE)


def _within_lids(lids: np.ndarray, size: tuple[int, int], width: float) -> np.ndarray:
    """1 within the lids, 0 outside, softly: skin does not move with the eye."""
    mask = np.zeros(size, np.float32)
    cv2.fillPoly(mask, [np.round(lids * 16).astype(np.int32)], 1.0, lineType=cv2.LINE_AA, shift=4)
    return cv2.GaussianBlur(mask, (0, 0), max(0.5, width * 0.05))
