"""What is seen: frames, cameras, scenes and cards, in layers one after the other."""

from __future__ import annotations

import hashlib
from bisect import bisect_right
from dataclasses import dataclass, replace
from fractions import Fraction
from functools import cached_property
from typing import NamedTuple

from jaskel.core.picture.card import AS_IN_STYLE, CardLook
from jaskel.core.picture.cover import Cover
from jaskel.core.picture.framing import DARK, WHOLE, Box
from jaskel.core.picture.gaze import AS_IT_LOOKS, Gaze
from jaskel.core.picture.grade import AS_FILMED, Grade
from jaskel.core.picture.joins import Join
from jaskel.core.picture.style import PulseForm
from jaskel.core.shape import RATIOS, PictureShape
from jaskel.core.source import Card, Drawn
from jaskel.core.timebase import Ticks


@dataclass(frozen=True, slots=True)
class Frame:
    """Size in pixels and rate of the pictures of a film; whether pictures of another shape fill it (cropped) or fit into it."""

    width: int
    height: int
    rate: Fraction
    fill: bool = False


@dataclass(frozen=True, slots=True)
class Outlet:
    """What a destination asks of pictures: pixels of the shorter side, and pictures a second; 0 for as they are."""

    short: int = 0
    rate: Fraction = Fraction(0)

    def of(self, frame: Frame, shape: PictureShape) -> Frame:
        """The frame that pictures of a ``frame`` have there, in the ``shape`` that it has; its sides stay even.

        >>> Outlet(1080, Fraction(25)).of(Frame(1280, 720, Fraction(30)), "as recorded").width
        1920
        """
        if not self.short:
            return replace(frame, rate=self.rate or frame.rate)
        ratio = RATIOS.get(shape, Fraction(frame.width, frame.height))
        long = max(2, round(self.short * max(ratio, 1 / ratio) / 2) * 2)
        width, height = (long, self.short) if ratio >= 1 else (self.short, long)
        return replace(frame, width=width, height=height, rate=self.rate or frame.rate)


AS_IT_COMES = Outlet()

CARD_FRAME = Frame(1280, 720, Fraction(25))
"""The frame of a programme without any picture but the card's."""


@dataclass(frozen=True, slots=True)
class Camera:
    """The pictures of a recording, from tick ``place`` of it on, on its own clock.

    ``speed`` is how many of its ticks pass with one of the programme: nearly 1, for its clock drifts; 0 where it stands still.
    A ``still`` is a single picture.
    """

    recording: str
    place: Ticks
    speed: float = 1.0
    still: bool = False

    def after(self, ticks: Ticks) -> Ticks:
        """The place that is seen so many ticks later; before a camera began, its first picture is."""
        return max(0, self.place + round(ticks * self.speed))


WHOLE_CROP: tuple[tuple[Ticks, Box], ...] = ((0, WHOLE),)


class Edge(NamedTuple):
    """How round the corners of a slot are, and how wide a line around it, in per cent of its shorter side."""

    corner: float = 0.0
    border: float = 0.0
    colour: str = ""


PLAIN = Edge()


@dataclass(frozen=True, slots=True)
class View:
    """A camera's picture in a place of the frame.

    Attributes
    ----------
    box
        Where it lies in the frame.
    crops
        Which part of the camera's picture fills it, as places of time, counted from where the layer begins, with what is seen
        there; between two of them it moves evenly.
    grade
        The levels of the camera's picture.
    covers
        What of it must not be seen.
    edge
        The corners and the line of the slot it lies in.
    blurred
        Whether it is only the ground for others, out of focus.
    gaze
        How the eyes in it are turned to the camera.
    """

    camera: Camera
    box: Box = WHOLE
    crops: tuple[tuple[Ticks, Box], ...] = WHOLE_CROP
    grade: Grade = AS_FILMED
    covers: tuple[Cover, ...] = ()
    edge: Edge = PLAIN
    blurred: bool = False
    gaze: Gaze = AS_IT_LOOKS

    def crop(self, after: Ticks) -> Box:
        """The part that is seen so many ticks after the layer begins."""
        number = bisect_right(self.crops, after, key=lambda each: each[0])
        if number in (0, len(self.crops)):
            return self.crops[min(number, len(self.crops) - 1)][1]
        (begin, before), (end, following) = self.crops[number - 1 : number + 1]
        share = (after - begin) / (end - begin)
        return Box(*(a + (b - a) * share for a, b in zip(before, following, strict=True)))

    def later(self, ticks: Ticks) -> View:
        """The same from so many ticks later on."""
        camera = replace(self.camera, place=self.camera.place + round(ticks * self.camera.speed))
        crops = self.crops if len(self.crops) == 1 else tuple((at - ticks, box) for at, box in self.crops)
        covers = tuple(cover.later(ticks) for cover in self.covers) if self.covers else ()
        return replace(self, camera=camera, crops=crops, covers=covers)


@dataclass(frozen=True, slots=True)
class Scene:
    """Cameras that are seen together, later ones over earlier ones, on a ``ground``: a colour, or a picture of the house style.

    ``voice`` is the moving drawing of the voice that lies over them, in a place of the frame.
    """

    views: tuple[View, ...]
    ground: str = DARK
    voice: tuple[Box, SoundPicture] | None = None

    def later(self, ticks: Ticks) -> Scene:
        """The same from so many ticks later on, or earlier where they are negative."""
        voice = (self.voice[0], self.voice[1].later(ticks)) if self.voice else None
        return Scene(tuple(view.later(ticks) for view in self.views), self.ground, voice)


@dataclass(frozen=True, slots=True)
class Blend:
    """One picture goes over into another; ``since`` is how long it has done so where the layer begins.

    Both are what is seen from where the blend begins on, and go on through all of its ``length``.
    """

    before: Scene | Card | Drawn | Carded | SoundPicture
    after: Scene | Card | Drawn | Carded | SoundPicture
    join: Join
    length: Ticks
    since: Ticks = 0

    def later(self, ticks: Ticks) -> Blend:
        """The same from so many ticks later on."""
        return replace(self, since=self.since + ticks)


@dataclass(frozen=True, slots=True)
class Carded:
    """A card that looks otherwise than the house style has it."""

    card: Card | Drawn
    look: CardLook


class Said(NamedTuple):
    """From a place on a voice speaks: by the number of its colour, and its name."""

    at: Ticks
    number: int
    name: str


@dataclass(frozen=True, slots=True)
class SoundPicture:
    """The card with a moving drawing of the voice; ``since`` is how long it has been seen where the layer begins.

    ``levels`` are how loud it is, 25 times a second; ``said`` tells who speaks, from ticks after it began; ``look`` is the
    card's.
    """

    form: PulseForm
    levels: bytes
    said: tuple[Said, ...]
    since: Ticks = 0
    look: CardLook = AS_IN_STYLE

    def speaks(self, after: Ticks) -> Said | None:
        """Who speaks so many ticks after the layer begins."""
        return next((each for each in reversed(self.said) if each.at <= self.since + after), None)

    def later(self, ticks: Ticks) -> SoundPicture:
        """The same from so many ticks later on."""
        return replace(self, since=self.since + ticks)


Shown = Scene | Card | Drawn | Carded | Blend | SoundPicture


def later(shown: Shown, ticks: Ticks) -> Shown:
    """What is seen from so many ticks later on; cards stand still."""
    return shown.later(ticks) if ticks and isinstance(shown, Scene | Blend | SoundPicture) else shown


@dataclass(frozen=True, slots=True)
class Layer:
    """``shown`` is seen from ``begin`` to ``until``."""

    begin: Ticks
    until: Ticks
    shown: Shown

    @property
    def camera(self) -> Camera | None:
        """The first camera that is seen, if one is."""
        return self.shown.views[0].camera if isinstance(self.shown, Scene) else None

    @property
    def as_filmed(self) -> Camera | None:
        """The camera whose pictures are seen alone, whole, and as they were filmed; None where anything else is seen."""
        if not isinstance(self.shown, Scene) or len(self.shown.views) != 1 or self.shown.voice:
            return None
        camera = self.shown.views[0].camera
        return None if camera.still or self.shown.views != (View(camera),) else camera

    def part(self, begin: Ticks, until: Ticks) -> Layer:
        """What of it lies between two places, counted from the first of them."""
        first, last = max(begin, self.begin), min(until, self.until)
        return Layer(first - begin, last - begin, later(self.shown, first - self.begin))


@dataclass(frozen=True)
class PictureSlice:
    """All that is seen in so many ticks; times are relative to its beginning."""

    length: Ticks
    frame: Frame
    layers: tuple[Layer, ...]

    @cached_property
    def digest(self) -> str:
        """A name that only its picture decides."""
        return hashlib.sha256(repr((self.length, self.frame, self.layers)).encode()).hexdigest()[:24]
