"""Levels: how loud stretches of a track are, and whole tracks, in decibels to what was recorded."""

from __future__ import annotations

from bisect import bisect_left
from collections.abc import Iterator, Sequence
from dataclasses import dataclass, replace
from operator import attrgetter
from typing import ClassVar, Self

from jaskel.core.marks.anchor import Carry, Stretch, Whole
from jaskel.core.marks.mark import Mark, Marks, StretchMark, StripMark, mark, strip_parts
from jaskel.core.timebase import RATE, Ticks

MUTED = -120.0
"""From here down nothing is heard at all."""

LOUDEST = 24.0

LEVEL_FADE: Ticks = RATE // 50
"""A stretch of another level is faded into and out of over 20 ms, outside of it."""


@mark
@dataclass(frozen=True)
class Level(StretchMark):
    """``track`` of a recording or session (a recording alone is its own track) in a stretch of it, at ``decibels``."""

    kind: ClassVar[str] = "level"
    track: str
    decibels: float

    def carried(self, carry: Carry) -> Self | None:
        moved = super().carried(carry)
        return replace(moved, track=carry.track) if moved and self.track == carry.recording else moved


@mark
@dataclass(frozen=True)
class Fader(StripMark):
    """The level of a strip, in decibels; that of a voice within a track comes on top of the track's."""

    kind: ClassVar[str] = "fader"
    decibels: float


@dataclass(frozen=True, slots=True)
class Setting:
    """A level that is wanted: ``track`` of ``recording`` from ``start`` to ``end``; 0 dB is as recorded."""

    recording: str
    track: str
    start: Ticks
    end: Ticks
    decibels: float


def gain(decibels: float) -> float:
    """The factor of a level; 0 where it is muted.

    >>> gain(-6.0)
    0.5011872336272722
    """
    return 0.0 if decibels <= MUTED else float(10 ** (decibels / 20))


def set_levels(marks: Marks, wanted: Sequence[Setting]) -> dict[str, Mark | None]:
    """The changes that give stretches these levels, one after the other; what they cover of others gives way."""
    rows: dict[tuple[str, str], list[Level]] = {(each.recording, each.track): [] for each in wanted}
    for recording in {each.recording for each in wanted}:
        mine = [each for each in wanted if each.recording == recording]
        for level in marks.within(Level, recording, min(each.start for each in mine), max(each.end for each in mine)):
            if (row := rows.get((recording, level.track))) is not None:
                row.append(level)
    before = {level.id: level for row in rows.values() for level in row}
    taken: set[str] = set()
    for each in wanted:
        row = rows[each.recording, each.track]
        first = bisect_left(row, each.start, key=attrgetter("start"))
        if first and row[first - 1].end > each.start:
            first -= 1
        last = bisect_left(row, each.end, first, key=attrgetter("start"))
        parts = [part for known in row[first:last] for part in _beside(known, each, marks, taken)]
        if each.decibels:
            parts.append(_level(marks, taken, each))
        row[first:last] = sorted(parts, key=attrgetter("start"))
    after = {level.id: level for row in rows.values() for level in row}
    changes: dict[str, Mark | None] = {id: None for id in before if id not in after}
    return changes | {id: level for id, level in after.items() if before.get(id) != level}


def _level(marks: Marks, taken: set[str], wanted: Setting) -> Level:
    """A level with an id that is free; the id only tells where the level was first set."""
    id = base = marks.free_id(f"level.{wanted.recording}.{wanted.track}.{wanted.start}")
    number = 1
    while id in taken:
        number += 1
        id = marks.free_id(f"{base}+{number}")
    taken.add(id)
    return Level(id, (Stretch(wanted.recording, wanted.start, wanted.end),), wanted.track, wanted.decibels)


def _beside(known: Level, wanted: Setting, marks: Marks, taken: set[str]) -> Iterator[Level]:
    """What is left of a stretch beside another one of the same track: the first part goes on under its id."""
    before, after = known.start < wanted.start, known.end > wanted.end
    if before:
        yield replace(known, anchors=(Stretch(known.recording, known.start, wanted.start),))
    if after and before:
        yield _level(marks, taken, Setting(known.recording, known.track, wanted.end, known.end, known.decibels))
    elif after:
        yield replace(known, anchors=(Stretch(known.recording, wanted.end, known.end),))


def set_fader(marks: Marks, strip: str, decibels: float) -> dict[str, Mark | None]:
    """The changes that give a strip a level; at 0 dB it is as recorded."""
    known = next((each for each in marks.all(Fader) if each.strip == strip), None)
    if known:
        return {known.id: replace(known, decibels=decibels) if decibels else None}
    track, voice = strip_parts(strip)
    new = Fader(marks.free_id(f"fader.{strip}"), (Whole(track),), decibels, voice=voice)
    return {new.id: new} if decibels else {}


def faders(marks: Marks) -> dict[str, float]:
    """The levels of strips that are not as recorded, in decibels."""
    return marks.derived(Fader, _by_strip)


@mark
@dataclass(frozen=True)
class Pan(StripMark):
    """Where a strip is heard, from -1 (left) to 1 (right)."""

    kind: ClassVar[str] = "pan"
    place: float

    def __post_init__(self) -> None:
        if not -1 <= self.place <= 1:
            raise ValueError(f"a place is -1 (left) to 1 (right), not {self.place:g}")


def set_pan(marks: Marks, strip: str, place: float) -> dict[str, Mark | None]:
    """The changes that place a strip left or right; at 0 it is in the middle."""
    known = next((each for each in marks.all(Pan) if each.strip == strip), None)
    if known:
        return {known.id: replace(known, place=place) if place else None}
    track, voice = strip_parts(strip)
    new = Pan(marks.free_id(f"pan.{strip}"), (Whole(track),), place, voice=voice)
    return {new.id: new} if place else {}


def pans(marks: Marks) -> dict[str, float]:
    """Where the strips are heard that are not in the middle."""
    return marks.derived(Pan, _placed)


def _placed(marks: Sequence[Pan]) -> dict[str, float]:
    return {each.strip: each.place for each in marks}


def _by_strip(marks: Sequence[Fader]) -> dict[str, float]:
    return {each.strip: each.decibels for each in marks}


def told_levels(wanted: Sequence[Setting]) -> str:
    """What setting levels does, in words."""
    decibels = wanted[0].decibels
    places = {(each.recording, each.start) for each in wanted}
    if len(places) > 1:
        return f"{len(places)} stretches at {decibels:+.1f} dB"
    told = "muted" if decibels <= MUTED else "as recorded" if not decibels else f"{decibels:+.1f} dB"
    return f"a stretch of one track: {told}"
