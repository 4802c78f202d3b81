"""Riding a track by its words: levels that move with who speaks and how loudly, compiled like everything else.

It costs no processing: cutting moves the ride with the words, and another amount is heard at once.
"""

from __future__ import annotations

from bisect import bisect_left, bisect_right
from collections.abc import Callable, Sequence
from dataclasses import dataclass
from itertools import pairwise
from math import log10
from typing import Any

from jaskel.core.session import Track
from jaskel.core.sound.processor import Bleed, Gate, Leveller, Processor
from jaskel.core.timebase import RATE, Ticks
from jaskel.core.transcript import Transcript, Word

Point = tuple[Ticks, float]
Ride = tuple[Point, ...]
"""Places and decibels; in between the level moves in a straight line, outside it stays."""

STEP: Ticks = RATE // 20
"""Loudness is measured every 50 ms."""

BEFORE: Ticks = RATE * 12 // 100
AFTER: Ticks = RATE * 25 // 100
"""A voice is let in so long before its words and stays so long after them: breath before, the tail of the room after."""

RAMP: Ticks = RATE * 6 // 100
"""How long it takes to go from one level to another."""

PHRASE: Ticks = RATE * 3 // 10
"""Words with less between them are one phrase."""

REACH: Ticks = RATE * 8 // 10
"""The leveller goes by the words so near to each: it follows a voice that fades, not the stress of single words."""

QUIETEST = -60.0
"""What is softer, in LUFS, is not the voice."""


@dataclass(frozen=True)
class Said:
    """What a track is ridden by: stretches of its own words and of others' on its clock, and the loudness of its own words."""

    own: Sequence[tuple[Ticks, Ticks]]
    others: Sequence[tuple[Ticks, Ticks]]
    words: Sequence[tuple[Ticks, Ticks, float]]


def between(ride: Ride, start: Ticks, end: Ticks, shift: Ticks) -> Ride:
    """What of a ride decides the levels from ``start`` to ``end``, moved by ``shift``.

    >>> between(((0, 0.0), (10, -6.0), (20, -6.0), (30, 0.0)), 12, 18, -12)
    ((-2, -6.0), (8, -6.0))
    """
    if not ride:
        return ()
    first = max(0, bisect_right(ride, start, key=_place) - 1)
    last = bisect_left(ride, end, key=_place)
    found = ride[first : last + 1]
    if all(level == 0 for _, level in found):
        return ()
    return tuple((at + shift, level) for at, level in found)


def _place(point: Point) -> Ticks:
    return point[0]


def level_at(ride: Ride, at: Ticks) -> float:
    """The decibels of a ride at a place."""
    index = bisect_right(ride, at, key=_place)
    if index == 0:
        return ride[0][1]
    if index == len(ride):
        return ride[-1][1]
    (before, low), (after, high) = ride[index - 1], ride[index]
    return low + (high - low) * (at - before) / (after - before)


def together(rides: Sequence[Ride]) -> Ride:
    """Several rides at once."""
    rides = [each for each in rides if each]
    if len(rides) < 2:
        return rides[0] if rides else ()
    places = sorted({at for ride in rides for at, _ in ride})
    return tuple((at, sum(level_at(ride, at) for ride in rides)) for at in places)


def ride_of(
    riders: Sequence[Processor], own: Sequence[Word], others: Sequence[Word], track: Track, loudness: Sequence[float] | None
) -> Ride:
    """How a track is ridden by what is said in it, on the clock of its words.

    ``loudness`` is the mean square of its weighted sound every :data:`STEP` of its recording, None where it was not measured.
    """
    words = [
        (word.start, word.end, _loudness(loudness, track.to_recording(word.start), track.to_recording(word.end)))
        for word in own
        if not word.is_sound
    ]
    said = Said(stretches(own), stretches(others), words)
    return together([_RIDERS[type(each)](each, said) for each in riders])


def shared(said: Transcript | None, track: Track) -> tuple[list[Word], list[Word]]:
    """The words of a track's own voice, and those of others; of a track of several voices all are its own."""
    own: list[Word] = []
    others: list[Word] = []
    for word in said.words if said else ():
        (own if track.voice is None or word.voice == track.voice else others).append(word)
    return own, others


def _loudness(measured: Sequence[float] | None, start: Ticks, end: Ticks) -> float:
    """The loudness of a stretch in LUFS (BS.1770-4)."""
    part = measured[max(0, start) // STEP : max(0, end) // STEP + 1] if measured is not None else ()
    mean = sum(part) / len(part) if len(part) else 0.0
    return -0.691 + 10 * log10(mean) if mean > 0 else -120.0


def stretches(words: Sequence[Word]) -> list[tuple[Ticks, Ticks]]:
    """From-to of phrases."""
    found: list[tuple[Ticks, Ticks]] = []
    for word in sorted(words, key=lambda word: word.start):
        if found and word.start - found[-1][1] < PHRASE:
            found[-1] = (found[-1][0], max(found[-1][1], word.end))
        else:
            found.append((word.start, word.end))
    return found


def _gate(settings: Gate, said: Said) -> Ride:
    return _lowered(_outside(_widened(said.own)), settings.depth * settings.amount / 100)


def _bleed(settings: Bleed, said: Said) -> Ride:
    return _lowered(_without(said.others, _widened(said.own)), settings.depth * settings.amount / 100)


def _level(settings: Leveller, said: Said) -> Ride:
    """Every word at the voice's own mean; what is between words is never raised."""
    heard = [each for each in said.words if each[2] > QUIETEST]
    if not heard:
        return ()
    weight = sum(end - start for start, end, _ in heard)
    mean = 10 * log10(sum((end - start) * 10 ** (loud / 10) for start, end, loud in heard) / weight)
    share = settings.strength * settings.amount / 100
    gains = []
    first = last = 0
    for start, end, _ in heard:
        while heard[first][1] < start - REACH:
            first += 1
        while last < len(heard) and heard[last][0] < end + REACH:
            last += 1
        near = heard[first:last]
        loud = 10 * log10(sum((b - a) * 10 ** (each / 10) for a, b, each in near) / sum(b - a for a, b, _ in near))
        gains.append(share * min(settings.most, max(-settings.most, mean - loud)))
    points: list[Point] = []
    for index, ((start, end, _), level) in enumerate(zip(heard, gains, strict=True)):
        if index == 0:
            points.append((start - RAMP, min(0.0, level)))
        points += [(start, level), (end, level)]
        if index + 1 == len(heard):
            points.append((end + RAMP, min(0.0, level)))
        elif heard[index + 1][0] - end > 2 * RAMP:
            low = min(0.0, level, gains[index + 1])
            points += [(end + RAMP, low), (heard[index + 1][0] - RAMP, low)]
    return _in_order(points)


def _in_order(points: Sequence[Point]) -> Ride:
    """Points whose places grow; of two at the same the later is taken."""
    out: list[Point] = []
    for at, level in points:
        if out and at <= out[-1][0]:
            if at == out[-1][0]:
                out[-1] = (at, level)
            continue
        out.append((at, round(level, 3)))
    return tuple(out)


def _widened(found: Sequence[tuple[Ticks, Ticks]]) -> list[tuple[Ticks, Ticks]]:
    out: list[tuple[Ticks, Ticks]] = []
    for start, end in found:
        begin, until = start - BEFORE, end + AFTER
        if out and begin - out[-1][1] < 2 * RAMP:
            out[-1] = (out[-1][0], until)
        else:
            out.append((begin, until))
    return out


NEVER: Ticks = 1 << 50


def _outside(found: Sequence[tuple[Ticks, Ticks]]) -> list[tuple[Ticks, Ticks]]:
    edges = [-NEVER, *(place for each in found for place in each), NEVER]
    return [(a, b) for a, b in zip(edges[::2], edges[1::2], strict=True) if a < b]


def _without(found: Sequence[tuple[Ticks, Ticks]], taken: Sequence[tuple[Ticks, Ticks]]) -> list[tuple[Ticks, Ticks]]:
    """Stretches less those that are ``taken``; both in order."""
    out: list[tuple[Ticks, Ticks]] = []
    for begin, end in found:
        index = bisect_right(taken, begin, key=lambda each: each[1])
        while index < len(taken) and taken[index][0] < end:
            if begin < taken[index][0]:
                out.append((begin, taken[index][0]))
            begin = taken[index][1]
            index += 1
        if begin < end:
            out.append((begin, end))
    return out


def _lowered(found: Sequence[tuple[Ticks, Ticks]], depth: float) -> Ride:
    """Lower by so many decibels in each stretch that has room for it, ramps within."""
    long = [(a, b) for a, b in found if b - a > 3 * RAMP]
    points = [point for a, b in long for point in ((a, 0.0), (a + RAMP, -depth), (b - RAMP, -depth), (b, 0.0))]
    return _in_order(points)


_RIDERS: dict[type[Processor], Callable[[Any, Said], Ride]] = {Gate: _gate, Bleed: _bleed, Leveller: _level}


def changes_of_direction(ride: Ride, start: Ticks, end: Ticks) -> int:
    """How often a ride turns from falling to rising, or the other way, within a stretch."""
    inside = [point for point in ride if start <= point[0] <= end]
    slopes = [b[1] - a[1] for a, b in pairwise(inside) if a[1] != b[1]]
    return sum((one < 0) != (other < 0) for one, other in pairwise(slopes))
