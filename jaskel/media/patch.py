"""Drawings laid over the pictures of a film."""

from __future__ import annotations

from collections.abc import Sequence

import av
import numpy as np

TO_YUV = np.array(((65.481, 128.553, 24.966), (-37.797, -74.203, 112.0), (112.0, -93.786, -18.214)), np.float32)
"""From red, green and blue of 0 to 1 to brightness and colours of eight bits: ITU-R BT.601, as pictures of a film have them."""


class Patch:
    """A drawing as it is laid over the planes of a picture: its parts, premultiplied, and how far the picture shows through.

    Parameters
    ----------
    left, top
        Where its corner stands, even.
    planes
        Red, green, blue and how opaque, premultiplied, each 0 to 1, as float32 of (4, height, width); both sides are even.
    """

    def __init__(self, left: int, top: int, planes: np.ndarray) -> None:
        red, green, blue, alpha = planes
        self._x, self._y, self._width, self._height = left, top, planes.shape[2], planes.shape[1]
        (kr, kg, kb), (ur, ug, ub), (vr, vg, vb) = TO_YUV
        half = np.float32(0.5)
        self._bright, self._through = kr * red + kg * green + kb * blue + 16 * alpha + half, 1 - alpha
        red, green, blue, alpha = (_halved(part) for part in (red, green, blue, alpha))
        self._colours = [a * red + b * green + c * blue + 128 * alpha + half for a, b, c in ((ur, ug, ub), (vr, vg, vb))]
        self._colours_through = 1 - alpha

    def lay(self, planes: Sequence[np.ndarray], opaque: float = 1.0, share: float = 1.0) -> None:
        """Lay so much of it, from its left, over the planes of a picture (yuv420p), as opaque as that."""
        wide = round(self._width * share / 2) * 2
        self._over(planes[0], self._x, self._y, wide, self._bright, self._through, opaque)
        for plane, colour in zip(planes[1:], self._colours, strict=True):
            self._over(plane, self._x // 2, self._y // 2, wide // 2, colour, self._colours_through, opaque)

    @staticmethod
    def _over(plane: np.ndarray, x: int, y: int, wide: int, light: np.ndarray, through: np.ndarray, opaque: float) -> None:
        part = plane[y : y + light.shape[0], x : x + wide]
        light, through = light[:, : part.shape[1]], through[:, : part.shape[1]]
        if opaque == 1:
            part[:] = part * through + light
        else:
            by, half = np.float32(opaque), np.float32(0.5)
            part[:] = part * (1 - (1 - through) * by) + (light - half) * by + half


def copied(frame: av.VideoFrame) -> av.VideoFrame:
    """Another picture (yuv420p) with the same on it: the first may still serve its decoder."""
    new = av.VideoFrame(frame.width, frame.height, "yuv420p")
    for plane, old in zip(planes_of(new), planes_of(frame), strict=True):
        plane[:] = old
    return new


def planes_of(frame: av.VideoFrame) -> list[np.ndarray]:
    """The brightness and the two colours of a picture (yuv420p), as they lie in its memory."""
    return [
        np.frombuffer(memoryview(plane), np.uint8).reshape(plane.height, plane.line_size)[:, : plane.width]
        for plane in frame.planes
    ]


def premultiplied(pixels: np.ndarray) -> np.ndarray:
    """Pixels with straight alpha (height, width, 4; eight bits) as :class:`Patch` takes them."""
    parts = np.moveaxis(pixels, 2, 0).astype(np.float32) / np.float32(255)
    parts[:3] *= parts[3]
    return parts


def _halved(plane: np.ndarray) -> np.ndarray:
    """A plane at half its size each way."""
    return (plane[::2, ::2] + plane[1::2, ::2] + plane[::2, 1::2] + plane[1::2, 1::2]) / np.float32(4)
