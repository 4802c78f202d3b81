"""What is drawn over the picture of a programme, and when."""

from __future__ import annotations

from bisect import bisect_left, bisect_right
from collections.abc import Iterator, Sequence
from dataclasses import replace
from fractions import Fraction

from jaskel.core.edition import Edition
from jaskel.core.marks.graphic import LowerThird, TitleHere, dressing_of
from jaskel.core.picture.framing import FramingName, fixtures_of, own_framing
from jaskel.core.picture.graphic import Bar, Graphic, Logo, Overlay, Placed, Strap, Tag, Title
from jaskel.core.picture.shots import Shot
from jaskel.core.places import Places
from jaskel.core.plan.cutaways import PlacedCutaway
from jaskel.core.plan.material import Material
from jaskel.core.plan.picture import Blend, Frame, Layer, Scene
from jaskel.core.plan.shots import Heard, heard_of
from jaskel.core.timebase import RATE, Ticks

SHORTEST: Ticks = RATE // 2
"""What is left of a lower third or title after a cut is not shown for less."""


def overlays_of(
    edition: Edition,
    material: Material,
    heard: Heard,
    layers: Sequence[Layer],
    frame: Frame,
    shots: Sequence[Shot],
    cutaways: Sequence[PlacedCutaway],
    length: Ticks,
) -> tuple[Overlay, ...]:
    """What is drawn over a programme, from what lies lowest to what lies on top."""
    style, own = material.style, dressing_of(edition.marks)
    out: list[Overlay] = []
    if style.logo and (style.watermark if own.logo is None else own.logo):
        out += [Overlay(begin, until, Logo()) for begin, until in _filmed(layers)]
    if length and (style.bar != "none" if own.bar is None else own.bar):
        out.append(Overlay(0, length, Bar()))
    out += _framed(shots, cutaways, layers, material, Fraction(frame.width, frame.height))
    return (*out, *sorted(_at_words(edition, material, heard), key=lambda each: each.begin))


def _framed(
    shots: Sequence[Shot], cutaways: Sequence[PlacedCutaway], layers: Sequence[Layer], material: Material, ratio: Fraction
) -> Iterator[Overlay]:
    """What framings show beside people: card and logo, names below who is seen, a line. A cutaway has a framing of its own."""
    over = [(each.at, each.until) for each in cutaways]
    parts: list[tuple[Ticks, Ticks, FramingName, tuple[str, ...]]] = [
        (each.at, each.until, each.cutaway.framing, ()) for each in cutaways
    ]
    for shot in shots:
        if _holds(shot.framing, material, ratio):
            parts += [(begin, until, shot.framing, shot.voices) for begin, until in _without(shot.begin, shot.until, over)]
    last: dict[Graphic, Overlay] = {}
    for begin, until, framing, voices in sorted(parts, key=lambda each: each[0]):
        for graphic in _graphics_of(framing, voices, material, ratio):
            before = last.get(graphic)
            if before and before.until >= begin:
                last[graphic] = replace(before, until=max(until, before.until))
                continue
            if before:
                yield from _where_filmed(before, layers)
            last[graphic] = Overlay(begin, until, graphic)
    for overlay in last.values():
        yield from _where_filmed(overlay, layers)


def _without(begin: Ticks, until: Ticks, stops: Sequence[tuple[Ticks, Ticks]]) -> Iterator[tuple[Ticks, Ticks]]:
    """What is left of a stretch where others, in order, are taken out."""
    for first, last in stops:
        if first < until and last > begin:
            if begin < first:
                yield begin, first
            begin = max(begin, last)
    if begin < until:
        yield begin, until


def _where_filmed(overlay: Overlay, layers: Sequence[Layer]) -> Iterator[Overlay]:
    """An overlay where cameras are seen: cards have no framing."""
    number = max(0, bisect_right(layers, overlay.begin, key=lambda layer: layer.begin) - 1)
    upto = bisect_left(layers, overlay.until, key=lambda layer: layer.begin)
    for begin, until in _filmed(layers[number:upto]):
        yield replace(overlay, begin=max(begin, overlay.begin), until=min(until, overlay.until))


def _holds(framing: FramingName, material: Material, ratio: Fraction) -> bool:
    """Whether a framing shows anything beside people."""
    made = own_framing(framing, material.style.framings, ratio)
    return bool((made and (made.names or made.line)) or fixtures_of(framing, ratio, material.style.framings))


def _graphics_of(framing: FramingName, voices: Sequence[str], material: Material, ratio: Fraction) -> Iterator[Graphic]:
    own = material.style.framings
    for fixture in fixtures_of(framing, ratio, own):
        if fixture.kind != "voice":
            yield Placed(fixture.kind, fixture.box)
    made = own_framing(framing, own, ratio)
    if made and made.names:
        for voice, slot in zip(voices, made.slots, strict=False):
            if name := material.people.get(voice, ("", ""))[0]:
                yield Tag(name, slot)
    if made and made.line:
        yield Tag(made.line)


def _at_words(edition: Edition, material: Material, heard: Heard) -> Iterator[Overlay]:
    found = (*edition.marks.all(LowerThird), *edition.marks.all(TitleHere))
    places = Places(edition) if found else None
    for mark in found:
        graphic: Graphic
        if isinstance(mark, LowerThird):
            name, role = material.people.get(mark.voice, ("", ""))
            graphic = Strap(mark.name or name, mark.role or role)
        else:
            assert isinstance(mark, TitleHere)
            graphic = Title(mark.text, mark.down)
        stretches = heard_of(places, mark, heard) if places else []
        if stretches and stretches[-1][1] - stretches[0][0] >= SHORTEST:
            # What was taken out between two of its words leaves it one.
            for begin, until in _joined(stretches):
                yield Overlay(begin, until, graphic, material.style.enter, mark.id)


def _joined(stretches: Sequence[tuple[Ticks, Ticks]]) -> Iterator[tuple[Ticks, Ticks]]:
    begin, until = stretches[0]
    for first, last in stretches[1:]:
        if first - until > SHORTEST:
            yield begin, until
            begin = first
        until = last
    yield begin, until


def _filmed(layers: Sequence[Layer]) -> Iterator[tuple[Ticks, Ticks]]:
    """Where cameras are seen and no card."""
    begin: Ticks | None = None
    for layer in layers:
        if isinstance(layer.shown, Scene | Blend):
            begin = layer.begin if begin is None else begin
        elif begin is not None:
            yield begin, layer.begin
            begin = None
    if begin is not None:
        yield begin, layers[-1].until
