"""What is seen in the programme: layers of picture, one after the other."""

from __future__ import annotations

import hashlib
from collections.abc import Iterator, Sequence
from dataclasses import dataclass, replace
from fractions import Fraction
from functools import cached_property

from jaskel.core.plan.material import Material
from jaskel.core.plan.span import Span
from jaskel.core.session import Track
from jaskel.core.shape import PictureShape, size_in
from jaskel.core.source import CLOSING, OPENING, Card, Drawn, Recorded, RoomTone, SaidAgain, Silence, Source, home_of
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
    out: list[Layer] = []
    cameras: dict[Source, Track | None] = {}
    begin: Ticks = 0
    last: Span | None = None  # whose picture is seen from `begin` on
    rests: Ticks | None = None  # where it stands still, for rests follow it
    for span in spans:
        if isinstance(span.source, RoomTone | Silence):
            if last is not None and rests is None:
                rests = last.clear_to
            continue
        if last is not None:
            until = min(max(span.handover + span.lead, begin), length)
            out += _seen(last, begin, until, rests, material, cameras)
            begin = until
        last, rests = span, None
    if last is not None:
        out += _seen(last, begin, length, rests, material, cameras)
    elif length:
        out.append(Layer(0, length, OPENING))
    return tuple(_framed(out, spans[0].at, spans[-1].until, length)) if spans else tuple(out)


def _framed(layers: Sequence[Layer], begins: Ticks, ends: Ticks, length: Ticks) -> Iterator[Layer]:
    """The same with cards where only beds sound, before the first span and after the last: there is no picture of that."""
    if begins and not isinstance(layers[0].shown, Card | Drawn):
        yield Layer(0, begins, OPENING)
        layers = [cut for each in layers if (cut := _clipped(each, begins, length))]
    if ends < length and not isinstance(layers[-1].shown, Card | Drawn):
        yield from (cut for each in layers if (cut := _clipped(each, 0, ends)))
        yield Layer(ends, length, CLOSING)
    else:
        yield from layers


def _clipped(layer: Layer, begin: Ticks, until: Ticks) -> Layer | None:
    if layer.until <= begin or layer.begin >= until:
        return None
    part = layer.part(begin, until)
    return Layer(part.begin + begin, part.until + begin, part.shown)


def _seen(
    span: Span, begin: Ticks, until: Ticks, rests: Ticks | None, material: Material, cameras: dict[Source, Track | None]
) -> Iterator[Layer]:
    """What is seen of a span from ``begin`` to ``until``; from ``rests`` on it stands still."""
    still = until if rests is None else min(max(rests, begin), until)
    if begin < still:
        yield Layer(begin, still, _shown(span, begin, material, cameras))
    if still < until:
        stands = _shown(span, min(still, span.clear_to), material, cameras)
        yield Layer(still, until, replace(stands, speed=0.0) if isinstance(stands, Camera) else stands)


def _shown(span: Span, at: Ticks, material: Material, cameras: dict[Source, Track | None]) -> Shown:
    """What is seen of a span from a place of the programme on."""
    source = span.source
    if isinstance(source, Card | Drawn):
        return source
    if source not in cameras:
        cameras[source] = material.camera(home_of(source) or "") if isinstance(source, Recorded) else None
    camera = cameras[source]
    if camera is None:
        return OPENING
    place, speed = span.start + at - span.at, 1.0
    if isinstance(source, SaidAgain):
        # What is seen is what was seen before, as quickly as it takes to say it again.
        (line,) = material.tracks(source.recording)
        speed = (source.end - source.start) / line.length if line.length else 1.0
        place = source.start + round(place * speed)
    return Camera(camera.recording, camera.to_recording(place), speed / (1 + camera.drift))


def frame_of(layers: Sequence[Layer], shape: PictureShape, material: Material) -> Frame:
    """The frame of a film: that of the first camera that is seen, cropped to the edition's shape."""
    pictures = {track.recording: track.picture for name in material.sessions for track in material.tracks(name)}
    shown = (pictures.get(layer.shown.recording) for layer in layers if isinstance(layer.shown, Camera))
    first = next((picture for picture in shown if picture), None)
    own = Frame(first.width, first.height, first.rate) if first else CARD_FRAME
    return own if shape == "as recorded" else Frame(*size_in(shape, own.width, own.height), own.rate, fill=True)
