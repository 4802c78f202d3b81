"""What several cameras show at a moment, composed in one picture."""

from __future__ import annotations

from collections import defaultdict
from collections.abc import Callable
from dataclasses import replace
from fractions import Fraction
from pathlib import Path

import av
import cv2
import numpy as np
from av.video.reformatter import VideoReformatter
from PIL import Image, ImageDraw

from jaskel.core.picture.crop import crop_of
from jaskel.core.picture.framing import DARK, PICTURE, WHOLE, Box
from jaskel.core.picture.gaze import AS_IT_LOOKS
from jaskel.core.picture.grade import AS_FILMED
from jaskel.core.plan import Blend, Frame, Scene, View
from jaskel.core.plan.picture import PLAIN, Carded, Edge, Shown, SoundPicture
from jaskel.core.source import OPENING, Card, Drawn
from jaskel.core.timebase import RATE, Ticks
from jaskel.media.gaze import Gazes
from jaskel.media.graphics import Artist
from jaskel.media.patch import TO_YUV, Patch, copied, planes_of, premultiplied
from jaskel.media.picture import PictureSource, StillSource, fitted, upright
from jaskel.media.transitions import Transition
from jaskel.media.treated import treated

BARS = (16, 128, 128)
"""Beside a picture of another shape than the frame: black."""


NEARLY = 2
"""Pixels."""

NOBODY = Artist("", "")


class Studio:
    """The cameras of a programme, and the frame their pictures are put into. Close it after use.

    ``artist`` draws its cards; the paper of its house style lies behind still pictures that are not opaque.
    """

    def __init__(self, frame: Frame, originals: Callable[[str], Path], artist: Artist = NOBODY) -> None:
        self._frame, self._originals, self._artist = frame, originals, artist
        self._cameras: dict[str, PictureSource | StillSource] = {}
        self._gazes: defaultdict[str, Gazes] = defaultdict(Gazes)
        self._cards: dict[Card | Drawn | Carded, av.VideoFrame] = {}
        self._grounds: dict[str, av.VideoFrame] = {}
        self._edges: dict[tuple[Edge, int, int], _Masks] = {}
        self._transition: tuple[Blend, Transition, dict[str, np.ndarray]] | None = None
        # One for each size: a scaler takes longer to set up than to scale a picture.
        self._scalers: defaultdict[tuple[int, ...], VideoReformatter] = defaultdict(VideoReformatter)

    def close(self) -> None:
        for camera in self._cameras.values():
            camera.close()

    def picture(self, shown: Shown, after: Ticks) -> av.VideoFrame:
        """What is seen so many ticks after something begins to be, as yuv420p; the card where no camera has a picture."""
        match shown:
            case Scene():
                return self._scene(shown, after) or self._card(OPENING)
            case Blend():
                return self._blend(shown, after)
            case SoundPicture():
                drawn = self._artist.pulse(shown, after, self._frame.width, self._frame.height)
                return av.VideoFrame.from_ndarray(np.asarray(drawn), "rgb24").reformat(format="yuv420p")
        return self._card(shown)

    def _card(self, card: Card | Drawn | Carded) -> av.VideoFrame:
        if card not in self._cards:
            drawn = np.asarray(self._artist.card(card, self._frame.width, self._frame.height))
            self._cards[card] = fitted(av.VideoFrame.from_ndarray(drawn, "rgb24"), self._frame.width, self._frame.height)
        return self._cards[card]

    def _blend(self, blend: Blend, after: Ticks) -> av.VideoFrame:
        """The picture of a join, which is asked for in order; a bridge is made of its first and last ones alone."""
        whole = replace(blend, since=0)
        if self._transition is None or self._transition[0] != whole:
            self._transition = whole, Transition(blend.join), {}
        _, transition, kept = self._transition
        at = min(blend.since + after, blend.length)
        if transition.holds and not kept:
            kept["before"] = self.picture(blend.before, 0).to_ndarray(format="rgb24")
            kept["after"] = self.picture(blend.after, blend.length).to_ndarray(format="rgb24")
        before, following = (
            kept[name] if kept else self.picture(shown, at).to_ndarray(format="rgb24")
            for name, shown in (("before", blend.before), ("after", blend.after))
        )
        # Its first picture is on the way already: the one before it was the last that was not.
        step = round(RATE / self._frame.rate)
        made = transition.at((at + step / 2) / (blend.length + step), before, following)
        return av.VideoFrame.from_ndarray(made, "rgb24").reformat(format="yuv420p")

    def _scene(self, scene: Scene, after: Ticks) -> av.VideoFrame | None:
        """What cameras show together; None where none has a picture."""
        seen = [(view, picture) for view in scene.views if (picture := self._seen(view, after)) is not None]
        if not seen:
            return None
        width, height = self._frame.width, self._frame.height
        first, picture = seen[0]
        if len(seen) == 1 and first.box == WHOLE and first.edge == PLAIN:
            whole = self._cut(picture, first.crop(after), width, height)
            return self._with_voice(copied(whole), scene, after) if scene.voice else whole
        canvas = self._ground(scene)
        for view, picture in seen:
            left, top, wide, high = _pixels(view.box, width, height)
            if view.blurred:
                crop = crop_of(Fraction(picture.width, picture.height), Fraction(wide, high))
                _put(canvas, _out_of_focus(self._cut(picture, crop, wide, high)), left, top)
                continue
            part = self._cut(picture, view.crop(after), wide, high)
            if view.edge == PLAIN:
                _put(canvas, part, left, top)
            else:
                self._framed(canvas, part, view.edge, left, top)
        return self._with_voice(canvas, scene, after)

    def _ground(self, scene: Scene) -> av.VideoFrame:
        """What lies behind the views of a scene."""
        width, height = self._frame.width, self._frame.height
        if scene.ground.startswith(PICTURE):
            if scene.ground not in self._grounds:
                drawn = np.asarray(self._artist.backdrop(scene.ground.removeprefix(PICTURE), width, height))
                self._grounds[scene.ground] = av.VideoFrame.from_ndarray(drawn, "rgb24").reformat(format="yuv420p")
            return copied(self._grounds[scene.ground])
        return _canvas(width, height, BARS if len(scene.views) == 1 and scene.ground == DARK else _colour(scene.ground))

    def _with_voice(self, canvas: av.VideoFrame, scene: Scene, after: Ticks) -> av.VideoFrame:
        """The same with the drawing of the voice over it, where the scene has one."""
        if scene.voice:
            box, shown = scene.voice
            left, top, wide, high = _pixels(box, self._frame.width, self._frame.height)
            drawn = self._artist.voice(shown, after, wide, high)
            Patch(left, top, premultiplied(np.asarray(drawn))).lay(planes_of(canvas))
        return canvas

    def _framed(self, canvas: av.VideoFrame, picture: av.VideoFrame, edge: Edge, left: int, top: int) -> None:
        """Put a picture into its place with round corners and a line around it, which takes its outermost part."""
        key = edge, picture.width, picture.height
        if key not in self._edges:
            self._edges[key] = _masks(*key)
        inner, outer, line = self._edges[key]
        for number, (into, out) in enumerate(zip(planes_of(canvas), planes_of(picture), strict=True)):
            half = 2 if number else 1
            high, wide = out.shape
            part = into[top // half : top // half + high, left // half : left // half + wide]
            mask, around = inner[number], outer[number]
            part[:] = out * mask + line[number] * (around - mask) + part * (1 - around) + 0.5

    def _seen(self, view: View, after: Ticks) -> av.VideoFrame | None:
        name = view.camera.recording
        if name not in self._cameras:
            path = self._originals(name)
            self._cameras[name] = StillSource(path, self._artist.style.paper) if view.camera.still else PictureSource(path)
        place = view.camera.after(after)
        picture = self._cameras[name].at(Fraction(place, RATE))
        if picture is None:
            return None
        picture = upright(picture)
        if view.gaze != AS_IT_LOOKS:
            picture = self._gazes[name].turned(self._plain(picture), place, view.gaze)
        boxes = [(cover.form, box) for cover in view.covers if (box := cover.at(after))]
        return picture if view.grade == AS_FILMED and not boxes else treated(self._plain(picture), view.grade, boxes)

    def _plain(self, picture: av.VideoFrame) -> av.VideoFrame:
        return self._scaled(picture, picture.width, picture.height)

    def _cut(self, picture: av.VideoFrame, crop: Box, width: int, height: int) -> av.VideoFrame:
        """A part of a picture at a size, as yuv420p."""
        left, top, wide, high = _pixels(crop, picture.width, picture.height)
        if abs(wide - width) <= NEARLY and abs(high - height) <= NEARLY and picture.width >= width and picture.height >= height:
            # Two pixels more or less are seen by nobody, and need no scaling.
            left, top = min(left, picture.width - width) // 2 * 2, min(top, picture.height - height) // 2 * 2
            wide, high = width, height
        if (wide, high) != (picture.width, picture.height):
            if picture.format.name != "yuv420p":
                picture = self._scaled(picture, picture.width, picture.height)
            part = av.VideoFrame(wide, high, "yuv420p")
            for plane, (into, out) in enumerate(zip(planes_of(part), planes_of(picture), strict=True)):
                half = 2 if plane else 1
                into[:] = out[top // half : (top + high) // half, left // half : (left + wide) // half]
            picture = part
        return self._scaled(picture, width, height)

    def _scaled(self, picture: av.VideoFrame, width: int, height: int) -> av.VideoFrame:
        if (picture.width, picture.height, picture.format.name) == (width, height, "yuv420p"):
            return picture
        scaler = self._scalers[picture.width, picture.height, width, height]
        return scaler.reformat(picture, width, height, "yuv420p")


def _pixels(box: Box, width: int, height: int) -> tuple[int, int, int, int]:
    """Left, top, width and height of a part of a picture, all even: colours have half as many pixels as light."""
    left, top = (round(at * side / 2) * 2 for at, side in ((box.x, width), (box.y, height)))
    right, bottom = round((box.x + box.width) * width / 2) * 2, round((box.y + box.height) * height / 2) * 2
    return left, top, max(2, min(right, width // 2 * 2) - left), max(2, min(bottom, height // 2 * 2) - top)


_Masks = tuple[list[np.ndarray], list[np.ndarray], tuple[int, int, int]]


def _masks(edge: Edge, width: int, height: int) -> _Masks:
    """How much of each pixel is picture, and picture or line, for light and colours; and the line's colour."""
    short = min(width, height)
    line, corner = edge.border / 100 * short, edge.corner / 100 * short
    out = []
    for inset in (line, 0.0):
        drawn = Image.new("L", (4 * width, 4 * height))
        box = (4 * inset, 4 * inset, 4 * (width - inset) - 1, 4 * (height - inset) - 1)
        ImageDraw.Draw(drawn).rounded_rectangle(box, 4 * max(0.0, corner - inset), fill=255)
        whole = np.asarray(drawn.resize((width, height), Image.Resampling.BOX), np.float32) / np.float32(255)
        small = whole.reshape(height // 2, 2, width // 2, 2).mean(axis=(1, 3))
        out.append([whole, small, small])
    return out[0], out[1], _colour(edge.colour or "#000000")


def _colour(colour: str) -> tuple[int, int, int]:
    """A colour as Y, Cb and Cr."""
    rgb = np.array([int(colour[at : at + 2], 16) / 255 for at in (1, 3, 5)])
    y, u, v = TO_YUV @ rgb + (16, 128, 128)
    return round(float(y)), round(float(u)), round(float(v))


DIM = 0.6
"""A picture that is only the ground is so much darker, so that it does not compete."""


def _out_of_focus(picture: av.VideoFrame) -> av.VideoFrame:
    out = copied(picture)
    for number, plane in enumerate(planes_of(out)):
        small = cv2.resize(np.ascontiguousarray(plane), (32, 18), interpolation=cv2.INTER_AREA)
        wide = cv2.resize(cv2.GaussianBlur(small, (0, 0), 1.2), plane.shape[::-1], interpolation=cv2.INTER_CUBIC)
        black = 128.0 if number else 16.0
        plane[:] = (wide - black) * DIM + black
    return out


def _canvas(width: int, height: int, colour: tuple[int, int, int]) -> av.VideoFrame:
    canvas = av.VideoFrame(width, height, "yuv420p")
    for plane, value in zip(planes_of(canvas), colour, strict=True):
        plane[:] = value
    return canvas


def _put(canvas: av.VideoFrame, picture: av.VideoFrame, left: int, top: int) -> None:
    for plane, (into, out) in enumerate(zip(planes_of(canvas), planes_of(picture), strict=True)):
        half = 2 if plane else 1
        high, wide = out.shape
        into[top // half : top // half + high, left // half : left // half + wide] = out
