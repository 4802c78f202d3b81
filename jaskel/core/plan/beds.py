"""Beds in the programme: where they sound, how they loop, and how they go down under the words."""

from __future__ import annotations

from collections.abc import Callable, Iterator, Sequence
from dataclasses import dataclass, replace

from jaskel.core.edition import Edition
from jaskel.core.marks.anchor import Beginning, End, Place
from jaskel.core.marks.bed import Bed, Tie
from jaskel.core.places import Places
from jaskel.core.plan.material import Material
from jaskel.core.plan.sound import Feed, TrackSpan
from jaskel.core.sound.ride import Point, Ride, between
from jaskel.core.timebase import RATE, Ticks

AHEAD: Ticks = RATE * 6 // 100
"""A bed is down so long before the first word under which it is down."""

TOGETHER: Ticks = RATE * 12 // 10
"""In a rest up to so long a bed stays down, or it would be heard to pump."""

SHORTEST: Ticks = RATE // 20


@dataclass(frozen=True, slots=True)
class PlacedBed:
    """A bed from ``at`` to ``until`` in the programme, as it was before anything was moved for what begins earlier."""

    bed: Bed
    at: Ticks
    until: Ticks


def placed_beds(edition: Edition, material: Material, programme_at: Callable[[Ticks], Ticks], length: Ticks) -> list[PlacedBed]:
    """Where the beds of an edition sound; those whose word is not in it do nowhere.

    ``programme_at`` says where in the programme a laid time sounds, ``length`` how long that is without beds.
    """
    found = []
    places = Places(edition)

    def where(tie: Tie, *, ends: bool) -> Ticks | None:
        match tie:
            case Beginning(offset):
                return offset
            case End(offset):
                return length + offset
            case Place(recording, at, offset):
                # The end of a word is where its last sample sounds: after that may come what was taken out.
                laid = places.of(Place(recording, at - ends))
                return programme_at(laid[0][0]) + ends + offset if laid else None

    for bed in edition.marks.all(Bed):
        at, own = where(bed.begins, ends=False), material.lengths.get(bed.recording, 0) - bed.start
        if at is None or own < SHORTEST:
            continue
        until = where(bed.ends, ends=True) if bed.ends else at + own
        if until is None:
            continue
        until = until if bed.loop else min(until, at + own)
        if until - at >= SHORTEST:
            found.append(PlacedBed(bed, at, until))
    return sorted(found, key=lambda each: (each.at, each.bed.id))


def spans_of(placed: PlacedBed, material: Material, spoken: Sequence[tuple[Ticks, Ticks]]) -> Iterator[TrackSpan]:
    """What sounds of a bed, once or in a loop; ``spoken`` are stretches of the programme under whose words it goes down."""
    bed, at, until = placed.bed, placed.at, placed.until
    ride = ducked(spoken, bed) if bed.duck else ()
    own = material.lengths[bed.recording] - bed.start
    fade = min(bed.seam, own // 4)
    length = until - at
    fade_in, fade_out = _fitting(bed.fade_in, bed.fade_out, length)
    feed = Feed(bed.recording)
    begin = at
    while begin < until:
        first, last = begin == at, begin + own >= until
        end = until if last else begin + own
        yield TrackSpan(
            feed, bed.start, begin, end - begin, fade_in if first else fade, fade_out if last else fade,
            bed.shape if first else "equal power", bed.shape if last else "equal power", bed.decibels,
            ride=between(ride, begin, end, 0),
        )  # fmt: skip
        if last:
            return
        begin = end - fade


def _fitting(fade_in: Ticks, fade_out: Ticks, length: Ticks) -> tuple[Ticks, Ticks]:
    """Fades that a stretch has room for."""
    wanted = fade_in + fade_out
    return (fade_in, fade_out) if wanted <= length else (fade_in * length // wanted, fade_out * length // wanted)


def spoken(words: Sequence[tuple[Ticks, Ticks]]) -> list[tuple[Ticks, Ticks]]:
    """From-to of what is said without a rest in which a bed could come up.

    >>> spoken([(0, 100), (200, 300), (100_000, 100_100)])
    [(0, 300), (100000, 100100)]
    """
    found: list[tuple[Ticks, Ticks]] = []
    for start, end in sorted(words):
        if found and start - found[-1][1] <= TOGETHER:
            found[-1] = found[-1][0], max(found[-1][1], end)
        else:
            found.append((start, end))
    return found


def ducked(said: Sequence[tuple[Ticks, Ticks]], bed: Bed) -> Ride:
    """How a bed goes down and up again: down before the first word, up after the last, staying down in short rests.

    A rest has to leave it room to come up and go down again; where it would only begin to, it stays.
    """
    room = max(TOGETHER, bed.attack + bed.release + AHEAD)
    points: list[Point] = []
    down_until: Ticks | None = None
    for start, end in said:
        if down_until is not None and start - down_until <= room:
            points.pop()
            points.pop()
        else:
            points += [(start - AHEAD - bed.attack, 0.0), (start - AHEAD, -bed.duck)]
        points += [(end, -bed.duck), (end + bed.release, 0.0)]
        down_until = end
    return tuple(points)


def moved(placed: PlacedBed, by: Ticks) -> PlacedBed:
    """The same, later."""
    return replace(placed, at=placed.at + by, until=placed.until + by)
