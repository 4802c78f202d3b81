"""Joins of pictures in the programme: what lies between two layers where one goes over into the other."""

from __future__ import annotations

from bisect import bisect_left
from collections.abc import Callable, Iterator, Sequence
from dataclasses import dataclass, replace

from jaskel.core.edition import Edition
from jaskel.core.marks.anchor import Meeting
from jaskel.core.marks.join import JoinMark
from jaskel.core.picture.joins import Join
from jaskel.core.places import Places
from jaskel.core.plan.picture import Blend, Carded, Frame, Layer, Scene, SoundPicture, later
from jaskel.core.source import Card, Drawn
from jaskel.core.timebase import RATE, Ticks

NEAR: Ticks = RATE * 7 // 10
"""The picture goes over so much earlier or later than the words at most: where shots lead, and where sound does."""

LEAST_FRAMES = 2


@dataclass(frozen=True, slots=True)
class PlacedJoin:
    """A join between the layer before ``number`` and that one, from ``begin`` to ``until`` in the programme."""

    id: str
    join: Join
    number: int
    begin: Ticks
    until: Ticks


def joins_in(
    edition: Edition, layers: Sequence[Layer], programme_at: Callable[[Ticks], Ticks], frame: Frame
) -> tuple[PlacedJoin, ...]:
    """Where the joins of an edition lie, in order; of two at one place, or of those without room, none but the first."""
    marks = edition.marks.all(JoinMark)
    if not marks or len(layers) < 2:
        return ()
    places = Places(edition)
    edges = [layer.begin for layer in layers]
    wanted = []
    for mark in marks:
        if laid := places.of(mark.tie):
            at = programme_at(laid[0][0])
            number = _nearest(edges, at, later=isinstance(mark.tie, Meeting))
            if number:
                wanted.append((number, mark))
    out: list[PlacedJoin] = []
    for number, mark in sorted(wanted, key=lambda each: (each[0], each[1].id)):
        placed = _within(mark, number, layers, out[-1].until if out else 0, frame)
        if placed and (not out or out[-1].number < number):
            out.append(placed)
    return tuple(out)


def _nearest(edges: Sequence[Ticks], at: Ticks, *, later: bool) -> int | None:
    """The number of the layer that begins nearest to a place; a splice's is the first one after it, if there are several."""
    around = bisect_left(edges, at)
    near = [number for number in (around - 1, around, around + 1) if 0 < number < len(edges)]
    near = [number for number in near if abs(edges[number] - at) <= NEAR]
    return min(near, key=lambda number: (abs(edges[number] - at), number if later else -number)) if near else None


def _within(mark: JoinMark, number: int, layers: Sequence[Layer], free: Ticks, frame: Frame) -> PlacedJoin | None:
    """A join with as much of its length as the layers beside it have room for."""
    at = layers[number].begin
    begin, until = mark.join.around(at)
    begin, until = max(begin, layers[number - 1].begin, free), min(until, layers[number].until)
    if (until - begin) * frame.rate < LEAST_FRAMES * RATE or not (mark.join.shift or begin <= at <= until):
        return None
    return PlacedJoin(mark.id, mark.join, number, begin, until)


def with_joins(layers: Sequence[Layer], joins: Sequence[PlacedJoin]) -> Iterator[Layer]:
    """The layers with blends between those that are joined."""
    by_number = {each.number: each for each in joins}
    for number, layer in enumerate(layers):
        before, after = by_number.get(number), by_number.get(number + 1)
        if before:
            begin, length = before.begin, before.until - before.begin
            first = later(layers[number - 1].shown, begin - layers[number - 1].begin)
            second = later(layer.shown, begin - layer.begin)
            assert not isinstance(first, Blend) and not isinstance(second, Blend)
            yield Layer(begin, before.until, Blend(_covered(first), _covered(second), before.join, length))
        # Where pictures go over earlier or later than the sound, one goes on beyond its layer, or begins before it.
        begin, until = before.until if before else layer.begin, after.begin if after else layer.until
        if begin < until:
            shown = later(layer.shown, begin - layer.begin)
            beyond = begin < layer.begin or until > layer.until
            yield Layer(begin, until, _covered(shown) if beyond and not isinstance(shown, Blend) else shown)


Single = Scene | Card | Drawn | Carded | SoundPicture
"""All that is seen but one picture going over into another."""


def _covered(shown: Single) -> Single:
    """The same with what must not be seen covered throughout: a join shows more of a picture than its shot does."""
    if not isinstance(shown, Scene):
        return shown
    views = (replace(view, covers=tuple(cover.held() for cover in view.covers)) for view in shown.views)
    return replace(shown, views=tuple(views))
