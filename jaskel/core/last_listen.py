"""The places of a programme that a listener is likeliest to notice, to be heard once more before it goes out.

Each kind of place is rated by what is known of it: how near a cut is to a word, by how much a voice's level and its room jump
there, whether pictures are bridged, and how sure the recogniser was of a word that is read. The ratings only put places in an
order; nobody is told them.
"""

from __future__ import annotations

from bisect import bisect_left, bisect_right
from collections.abc import Callable, Iterator, Sequence
from dataclasses import dataclass
from itertools import pairwise

from jaskel.core.captions.words import ProgrammeWord
from jaskel.core.page import UNSURE
from jaskel.core.plan import Plan
from jaskel.core.plan.span import Span
from jaskel.core.source import Recorded
from jaskel.core.timebase import RATE, Ticks

AROUND: Ticks = RATE
"""So much is heard before and after each place."""

LONGEST: Ticks = 180 * RATE
"""So long the whole of it takes at most."""

NEAR: Ticks = RATE * 60 // 1000
"""A cut this near to a word may take some of it."""

JUMP, ROOM = 3.0, 6.0
"""Decibels by which a voice, or what is heard between words, has to change at a cut to be worth hearing."""

BESIDE: Ticks = RATE * 3 // 2
"""Levels are those of so much on each side."""

Level = Callable[[str, Ticks, Ticks], tuple[float, float] | None]
"""How loud the words and the rests of a stretch of a recording or session are, in decibels; None where nobody knows."""


@dataclass(frozen=True, slots=True)
class Place:
    """``begin`` to ``until`` in the programme is what to hear, ``at`` what it is about; ``why`` in a few words."""

    at: Ticks
    begin: Ticks
    until: Ticks
    why: tuple[str, ...]
    weight: float


def places_to_hear(plan: Plan, level: Level, *, read: bool, longest: Ticks = LONGEST) -> list[Place]:
    """The likeliest places, in order of the programme; where two lie close together they are heard as one.

    ``read`` is whether words can be read, so that doubtful ones count.
    """
    rated = sorted([*_cuts(plan, level), *_bridges(plan), *(_doubts(plan) if read else ())], key=lambda each: -each[1])
    chosen: list[tuple[Ticks, float, str]] = []
    for each in rated:
        tried = _together(plan, [*chosen, each])
        if sum(place.until - place.begin for place in tried) > longest:
            break
        chosen.append(each)
    return _together(plan, chosen)


def _together(plan: Plan, rated: Sequence[tuple[Ticks, float, str]]) -> list[Place]:
    found: list[Place] = []
    for at, weight, why in sorted(rated):
        begin, until = max(0, at - AROUND), min(plan.length, at + AROUND)
        last = found[-1] if found else None
        if last and begin < last.until:
            reasons = last.why if why in last.why else (*last.why, why)
            lead = last.at if last.weight >= weight else at
            found[-1] = Place(lead, last.begin, until, reasons, max(last.weight, weight))
        else:
            found.append(Place(at, begin, until, (why,), weight))
    return found


def _cuts(plan: Plan, level: Level) -> Iterator[tuple[Ticks, float, str]]:
    words = plan.words
    starts, ends = [each.start for each in words], sorted(each.end for each in words)
    for before, after in pairwise(plan.spans):
        at = after.at + after.fade_in // 2
        if _goes_on(before, after):
            continue
        near = _nearest(at, starts, ends)
        if near < NEAR:
            yield at, 1 - near / NEAR / 2, "a word close to the cut"
        else:
            yield at, 0.1, "a cut"
        yield from _steps(plan, words, before, after, level)


def _goes_on(before: Span, after: Span) -> bool:
    """Whether nothing was taken out: the same sound goes on."""
    return before.source == after.source and abs(after.start - before.end) <= max(before.fade_out, after.fade_in)


def _nearest(at: Ticks, starts: Sequence[Ticks], ends: Sequence[Ticks]) -> Ticks:
    """How far it is from a cut to the last word that ends before it and the first that begins after it."""
    ended, begun = bisect_right(ends, at) - 1, bisect_left(starts, at)
    found = [at - ends[ended]] if ended >= 0 else []
    found += [starts[begun] - at] if begun < len(starts) else []
    return min(found, default=NEAR)


def _steps(
    plan: Plan, words: Sequence[ProgrammeWord], before: Span, after: Span, level: Level
) -> Iterator[tuple[Ticks, float, str]]:
    """Where a voice is louder or its room otherwise on the other side of a cut; between two voices neither is strange."""
    if not isinstance(before.source, Recorded) or before.source != after.source:
        return
    at = after.at + after.fade_in // 2
    number = bisect_left([each.start for each in words], at)
    if 0 < number < len(words) and words[number - 1].word.voice != words[number].word.voice:
        return
    name = before.source.recording
    one = level(name, max(before.start, before.end - BESIDE), before.end)
    other = level(name, after.start, min(after.end, after.start + BESIDE))
    if one is None or other is None:
        return
    loud, quiet = abs(one[0] - other[0]), abs(one[1] - other[1])
    if loud > JUMP:
        yield at, min(1.0, loud / 12), "the level jumps"
    if quiet > ROOM:
        yield at, min(0.9, quiet / 18), "the room changes"


def _bridges(plan: Plan) -> Iterator[tuple[Ticks, float, str]]:
    for placed in plan.joins:
        if placed.join.kind == "bridge":
            yield (placed.begin + placed.until) // 2, 0.5, "a bridged picture"


def _doubts(plan: Plan) -> Iterator[tuple[Ticks, float, str]]:
    for each in plan.words:
        if each.word.confidence < UNSURE:
            yield (each.start + each.end) // 2, 0.8 - each.word.confidence, "a word in doubt"
