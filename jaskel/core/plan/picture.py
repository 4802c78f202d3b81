"""What is seen in the programme: layers of picture, one after the other."""

from __future__ import annotations

import hashlib
from collections.abc import Sequence
from dataclasses import dataclass, replace
from fractions import Fraction
from functools import cached_property

from jaskel.core.plan.material import Material
from jaskel.core.plan.span import Span
from jaskel.core.shape import PictureShape, size_in
from jaskel.core.source import OPENING, Card, Drawn, Recorded, is_seen
from jaskel.core.timebase import Ticks


@dataclass(frozen=True, slots=True)
class Frame:
    """Size in pixels and rate of the pictures of a film; whether pictures of another shape fill it (cropped) or fit into it."""

    width: int
    height: int
    rate: Fraction
    fill: bool = False


CARD_FRAME = Frame(1280, 720, Fraction(25))
"""The frame of a programme without any picture but the card's."""


@dataclass(frozen=True, slots=True)
class Camera:
    """The pictures of a recording, from tick ``place`` of it on, on its own clock.

    ``speed`` is how many of its ticks pass with one of the programme: nearly 1, for its clock drifts; 0 where it stands still.
    """

    recording: str
    place: Ticks
    speed: float = 1.0

    def after(self, ticks: Ticks) -> Ticks:
        """The place that is seen so many ticks later; before a camera began, its first picture is."""
        return max(0, self.place + round(ticks * self.speed))


Shown = Camera | Card | Drawn


@dataclass(frozen=True, slots=True)
class Layer:
    """``shown`` is seen from ``begin`` to ``until``."""

    begin: Ticks
    until: Ticks
    shown: Shown

    def part(self, begin: Ticks, until: Ticks) -> Layer:
        """What of it lies between two places, counted from the first of them."""
        first, last = max(begin, self.begin), min(until, self.until)
        shown = self.shown
        if isinstance(shown, Camera) and first > self.begin:
            shown = replace(shown, place=shown.place + round((first - self.begin) * shown.speed))
        return Layer(first - begin, last - begin, shown)


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


def layers_of(spans: Sequence[Span], material: Material, length: Ticks) -> tuple[Layer, ...]:
    """The layers of a programme of ``spans``.

    The picture goes over at the splice, or by so much later as the sound leads; none goes over before the one it follows. Rests
    that were put in have no picture: the one before them stands still.
    """
    seen = [(index, span) for index, span in enumerate(spans) if is_seen(span.source)]
    if not seen:
        return (Layer(0, length, OPENING),) if length else ()
    starts: list[Ticks] = []
    for _, span in seen:
        starts.append(min(max(span.handover + span.lead, starts[-1]), length) if starts else 0)
    out: list[Layer] = []
    for (index, span), begin, until in zip(seen, starts, [*starts[1:], length], strict=True):
        rests = index + 1 < len(spans) and not is_seen(spans[index + 1].source)
        still = min(max(span.clear_to, begin), until) if rests else until
        shown = _shown(span, begin, material)
        if begin < still:
            out.append(Layer(begin, still, shown))
        if still < until:
            if isinstance(shown, Camera):
                stands = _shown(span, min(still, span.clear_to), material)
                shown = replace(stands, speed=0.0) if isinstance(stands, Camera) else stands
            out.append(Layer(still, until, shown))
    return tuple(out)


def _shown(span: Span, at: Ticks, material: Material) -> Shown:
    """What is seen of a span from a place of the programme on."""
    match span.source:
        case Card() | Drawn() as card:
            return card
        case Recorded(name):
            if camera := material.camera(name):
                place = span.start + at - span.at
                return Camera(camera.recording, camera.to_recording(place), 1 / (1 + camera.drift))
    return OPENING


def frame_of(layers: Sequence[Layer], shape: PictureShape, material: Material) -> Frame:
    """The frame of a film: that of the first camera that is seen, cropped to the edition's shape."""
    pictures = {track.recording: track.picture for name in material.sessions for track in material.tracks(name)}
    shown = (pictures.get(layer.shown.recording) for layer in layers if isinstance(layer.shown, Camera))
    first = next((picture for picture in shown if picture), None)
    own = Frame(first.width, first.height, first.rate) if first else CARD_FRAME
    return own if shape == "as recorded" else Frame(*size_in(shape, own.width, own.height), own.rate, fill=True)
