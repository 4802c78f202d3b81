"""What is seen in the programme: layers of picture, one after the other."""

from __future__ import annotations

from bisect import bisect_left, bisect_right
from collections.abc import Iterator, Mapping, Sequence
from dataclasses import replace

from jaskel.core.marks.mark import NO_MARKS, Marks
from jaskel.core.picture.card import CardLook, WhichCard
from jaskel.core.picture.shots import Shot
from jaskel.core.plan.material import Material
from jaskel.core.plan.picture import CARD_FRAME, Carded, Frame, Layer, Shown, SoundPicture
from jaskel.core.plan.scenes import NOTHING_OVER, Cameras, Over
from jaskel.core.plan.span import Span
from jaskel.core.shape import PictureShape, size_in
from jaskel.core.source import CLOSING, OPENING, Card, Drawn, Recorded, RoomTone, Silence, home_of
from jaskel.core.timebase import Ticks


def layers_of(
    spans: Sequence[Span],
    material: Material,
    length: Ticks,
    frame: Frame = CARD_FRAME,
    shots: Sequence[Shot] = (),
    marks: Marks = NO_MARKS,
    over: Over = NOTHING_OVER,
) -> tuple[Layer, ...]:
    """The layers of a programme of ``spans``.

    The picture goes over at the splice, or by so much later as the sound leads; none goes over before the one it follows. Rests
    that were put in have no picture: the one before them stands still. ``shots`` say who is seen, from the first tick to the
    last; without them it is the first camera. None goes on over an edge of what was set ``over`` them.
    """
    out: list[Layer] = []
    cameras = Cameras(material, frame, marks, over)
    shots = shots or (Shot(0, length),)
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
            out += _seen(last, begin, until, rests, cameras, shots)
            begin = until
        last, rests = span, None
    if last is not None:
        out += _seen(last, begin, length, rests, cameras, shots)
    elif length:
        out.append(Layer(0, length, OPENING))
    return tuple(_with_cards(out, spans[0].at, spans[-1].until, length)) if spans else tuple(out)


def _with_cards(layers: Sequence[Layer], begins: Ticks, ends: Ticks, length: Ticks) -> Iterator[Layer]:
    """The same with cards where only beds sound, before the first span and after the last: there is no picture of that."""
    if begins and not isinstance(layers[0].shown, Card | Drawn):
        yield Layer(0, begins, OPENING)
        layers = [cut for each in layers if (cut := _clipped(each, begins, length))]
    if ends < length and not isinstance(layers[-1].shown, Card | Drawn):
        yield from (cut for each in layers if (cut := _clipped(each, 0, ends)))
        yield Layer(ends, length, CLOSING)
    else:
        yield from layers


def with_looks(layers: Sequence[Layer], looks: Mapping[WhichCard, CardLook]) -> Iterator[Layer]:
    """The layers with cards as an edition has them."""
    for layer in layers:
        shown = layer.shown
        if isinstance(shown, SoundPicture) and "opening" in looks:
            yield replace(layer, shown=replace(shown, look=looks["opening"]))
        elif isinstance(shown, Card | Drawn) and (look := looks.get(_which(shown))):
            yield replace(layer, shown=Carded(shown, look))
        else:
            yield layer


def _which(card: Card | Drawn) -> WhichCard:
    if isinstance(card, Drawn):
        return "between"
    return "closing" if card.closing else "opening"


def _clipped(layer: Layer, begin: Ticks, until: Ticks) -> Layer | None:
    if layer.until <= begin or layer.begin >= until:
        return None
    part = layer.part(begin, until)
    return Layer(part.begin + begin, part.until + begin, part.shown)


def _seen(
    span: Span, begin: Ticks, until: Ticks, rests: Ticks | None, cameras: Cameras, shots: Sequence[Shot]
) -> Iterator[Layer]:
    """What is seen of a span from ``begin`` to ``until``, shot by shot; from ``rests`` on it stands still."""
    still = until if rests is None else min(max(rests, begin), until)
    for shot in shots if len(shots) == 1 else _between(shots, begin, until):
        a, b = max(begin, shot.begin), min(until, shot.until)
        if a < min(b, still):
            yield Layer(a, min(b, still), _shown(span, a, min(b, still), cameras, shot))
        if max(a, still) < b:
            yield Layer(max(a, still), b, _shown(span, max(a, still), b, cameras, shot, stands=min(still, span.clear_to)))


def _between(shots: Sequence[Shot], begin: Ticks, until: Ticks) -> Sequence[Shot]:
    first = max(0, bisect_right(shots, begin, key=_begin) - 1)
    return shots[first : bisect_left(shots, until, key=_begin)]


def _begin(shot: Shot) -> Ticks:
    return shot.begin


def _shown(span: Span, at: Ticks, until: Ticks, cameras: Cameras, shot: Shot, stands: Ticks | None = None) -> Shown:
    """What is seen of a span from a place of the programme on, perhaps as it ``stands`` at another."""
    card = span.source if isinstance(span.source, Card | Drawn) else OPENING
    return cameras.scene(span, at, until, shot, stands) or card


def frame_of(spans: Sequence[Span], shape: PictureShape, material: Material) -> Frame:
    """The frame of a film: that of the first camera of what is heard, cropped to the edition's shape."""
    sources = (span.source for span in spans if isinstance(span.source, Recorded))
    cameras = (material.camera(home_of(source) or "") for source in sources)
    first = next((camera.picture for camera in cameras if camera and camera.picture), None)
    own = Frame(first.width, first.height, first.rate) if first else CARD_FRAME
    return own if shape == "as recorded" else Frame(*size_in(shape, own.width, own.height), own.rate, fill=True)
