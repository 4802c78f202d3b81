"""Breaks for advertising: put in between two words, with what fades around them, and where they are in a programme."""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from dataclasses import dataclass
from itertools import pairwise

from jaskel.core.edition import Edition, Piece
from jaskel.core.marks.ad_break import AdBreak
from jaskel.core.marks.anchor import Meeting, Place
from jaskel.core.marks.bed import Bed
from jaskel.core.marks.mark import Mark
from jaskel.core.marks.splice import Splice, set_splices
from jaskel.core.operations import Insert, SetMarks, Strike, Together
from jaskel.core.places import Places
from jaskel.core.plan import Plan
from jaskel.core.problem import Problem
from jaskel.core.source import SILENCE, Recorded, Silence
from jaskel.core.timebase import RATE, Ticks

SHORTEST, LONGEST = RATE // 2, 30 * RATE
LONGEST_FADE: Ticks = 2 * RATE


@dataclass(frozen=True)
class LaidWord:
    """From-to of a word in laid time."""

    begin: Ticks
    end: Ticks


def put_in(edition: Edition, words: Sequence[LaidWord], at: Ticks, length: Ticks, fade: Ticks, sting: str = "") -> Together:
    """Put a break into the rest before the word at a laid time, or the next one; ``sting`` is a recording that sounds there.

    What is heard fades over ``fade``, or as much of it as the rest has: no word is faded.

    Raises
    ------
    Problem
        ``no-word`` where no word follows.
    """
    number = next((number for number, word in enumerate(words) if word.end > at), None)
    if not number:
        raise Problem("no-word", "A break stands between two words. Choose a word that has one before it.")
    before, after = words[number - 1], words[number]
    middle = (before.end + after.begin) // 2
    rest = max(0, after.begin - before.end)
    insert = Insert(middle, (Piece(SILENCE, 0, length),), "put in a break")
    laid, _ = insert.apply(edition)
    index = laid.index_at(middle)
    sides = [laid.pieces[index + step] for step in (-1, 0, 1)]
    faded = Splice(min(fade, rest, length, LONGEST_FADE)) if rest else Splice(0)
    meetings = [Meeting(a.source, a.end, b.source, b.start) for a, b in pairwise(sides)]
    word = laid.pieces[laid.index_at(after.begin + length)]
    if not isinstance(word.source, Recorded):
        raise Problem("no-word", "A break stands between two words. Choose a word that has one before it.")
    place = Place(word.source.recording, word.start + after.begin + length - laid.starts[laid.index_at(after.begin + length)])
    marks: dict[str, Mark | None] = dict(set_splices(laid.marks, [(meeting, faded) for meeting in meetings]))
    bed = ""
    if sting:
        bed = laid.marks.free_id(f"bed.{sting}")
        begins = Place(place.recording, place.at, middle - after.begin - length)
        marks[bed] = Bed(bed, (begins,), sting, decibels=-6.0, duck=0.0, fade_in=0, fade_out=RATE // 4)
    id = laid.marks.free_id("ad break")
    marks[id] = AdBreak(id, (place,), length, bed)
    return Together((insert, SetMarks.of(marks)))


def take_out(edition: Edition, mark: AdBreak) -> Together:
    """Take a break out again: its silence, and what sounds there."""
    off: dict[str, Mark | None] = {mark.id: None, **({mark.sting: None} if edition.marks.get(mark.sting) else {})}
    operations = [SetMarks.of(off, "took a break out")]
    silence = _silence(edition, mark)
    if silence:
        return Together((*operations, Strike((silence,))))
    return Together((*operations,))


def breaks_in(plan: Plan) -> Iterator[tuple[AdBreak, Ticks, Ticks]]:
    """The breaks that are in a programme, each from-to; one whose silence was struck is where it was, without any length."""
    places = Places(plan.edition)
    for mark in plan.edition.marks.all(AdBreak):
        for laid, _ in places.of(mark.place)[:1]:
            silence = _silence(plan.edition, mark)
            at = plan.programme_at(silence[0] if silence else laid)
            yield mark, at, plan.programme_at(silence[1]) if silence else at


def _silence(edition: Edition, mark: AdBreak) -> tuple[Ticks, Ticks] | None:
    """From-to of the silence before the word of a break, in laid time, if it is kept."""
    for laid, _ in Places(edition).of(mark.place)[:1]:
        index = edition.index_at(laid)
        for number in range(index, max(-1, index - 4), -1):
            piece = edition.pieces[number]
            if isinstance(piece.source, Silence) and piece.kept:
                return edition.starts[number], edition.starts[number + 1]
    return None
