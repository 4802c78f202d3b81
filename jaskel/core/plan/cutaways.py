"""Cutaways in the programme: when they are seen, which part of their picture, and what is heard of them."""

from __future__ import annotations

from bisect import bisect_right
from collections.abc import Callable, Iterator, Sequence
from dataclasses import dataclass, replace

from jaskel.core.edition import Edition
from jaskel.core.marks.anchor import Place
from jaskel.core.marks.cutaway import Cutaway
from jaskel.core.picture.framing import Box
from jaskel.core.places import Places
from jaskel.core.plan.material import Footage, Material
from jaskel.core.plan.sound import Feed, TrackSpan
from jaskel.core.timebase import RATE, Ticks

SHORTEST: Ticks = RATE // 5
"""What is left of a cutaway after a cut is not shown for less: it would only flash."""

FADE: Ticks = RATE // 10
"""Its sound comes and goes in so long."""


@dataclass(frozen=True, slots=True)
class PlacedCutaway:
    """A cutaway from ``at`` to ``until`` in the programme, and what is known of its picture."""

    cutaway: Cutaway
    at: Ticks
    until: Ticks
    footage: Footage


def cutaways_in(edition: Edition, material: Material, programme_at: Callable[[Ticks], Ticks]) -> list[PlacedCutaway]:
    """The cutaways that are seen, in order; of two that overlap, the later one takes over where it begins."""
    marks = [each for each in edition.marks.all(Cutaway) if each.on and each.shown in material.footage]
    if not marks:
        return []
    places = Places(edition)

    def where(place: Place, *, ends: bool) -> Ticks | None:
        laid = places.of(replace(place, at=place.at - ends))
        return programme_at(laid[0][0]) + ends if laid else None

    found = []
    for mark in marks:
        at, until = where(mark.begins, ends=False), where(mark.ends, ends=True)
        if at is not None and until is not None and until - at >= SHORTEST:
            found.append(PlacedCutaway(mark, at, until, material.footage[mark.shown]))
    return [*_parted(sorted(found, key=lambda each: (each.at, each.cutaway.id)))]


def _parted(found: Sequence[PlacedCutaway]) -> Iterator[PlacedCutaway]:
    for number, each in enumerate(found):
        until = min([each.until, *(following.at for following in found[number + 1 : number + 2])])
        if until - each.at >= SHORTEST:
            yield replace(each, until=until)


def cutaway_at(placed: Sequence[PlacedCutaway], at: Ticks) -> PlacedCutaway | None:
    """What lies over a place of the programme."""
    number = bisect_right(placed, at, key=lambda each: each.at) - 1
    return placed[number] if number >= 0 and at < placed[number].until else None


def part_of(placed: PlacedCutaway, slot: Box, at: Ticks) -> Box:
    """The part of its picture that is seen at a place of the programme, where the slot shows ``slot`` of it."""
    cut, length = placed.cutaway, placed.until - placed.at
    share = min(1.0, max(0.0, (at - placed.at) / length))
    x, y, width, height = (a + (b - a) * share for a, b in zip(cut.first, cut.last, strict=True))
    return Box(slot.x + x * slot.width, slot.y + y * slot.height, width * slot.width, height * slot.height)


def sounds_of(placed: Sequence[PlacedCutaway]) -> Iterator[TrackSpan]:
    """What is heard of cutaways."""
    for each in placed:
        cut, footage = each.cutaway, each.footage
        length = min(each.until - each.at, footage.length - cut.place)
        if cut.decibels is None or not footage.sounds or length < SHORTEST:
            continue
        fade = min(FADE, length // 3)
        yield TrackSpan(
            Feed(cut.shown), cut.place, each.at, length, fade, fade, "equal power", "equal power", cut.decibels
        )  # fmt: skip
