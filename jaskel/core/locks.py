"""Locked passages: whether an operation touches one that is somebody else's."""

from __future__ import annotations

from collections.abc import Iterable, Iterator

from jaskel.core.edition import Edition
from jaskel.core.history import Authors, are_one
from jaskel.core.marks.anchor import Place, Stretch
from jaskel.core.marks.lock import Lock
from jaskel.core.marks.mark import Mark
from jaskel.core.operations.base import Operation
from jaskel.core.operations.marks import SetMarks
from jaskel.core.places import Places
from jaskel.core.problem import Problem
from jaskel.core.rebase import Overlap, Since, Step
from jaskel.core.timebase import Ticks


def check_locks(before: Edition, operation: Operation, inverse: Operation, authors: Authors) -> None:
    """Refuse an operation that changes what somebody else has locked: its pieces, its words, or marks within it.

    Parameters
    ----------
    before
        The edition the operation was applied to.
    inverse
        What takes it back, which says just what it touched.
    authors
        What its author goes by.

    Raises
    ------
    Problem
        ``locked``, with who has locked it.
    """
    locks = [lock for lock in before.marks.all(Lock) if not are_one(frozenset({lock.by}), authors)]
    if not locks:
        return
    since, places = Since([Step(inverse)]), Places(before)
    spots = [*_places_of(_marks_touched(operation, inverse)), *_words_of(operation)]
    for lock in locks:
        if any(_holds(stretch, spots) or _moved(places, stretch, since) for stretch in lock.stretches):
            raise Problem(
                "locked", f"{lock.who} has locked this passage. Ask them to unlock it, or work elsewhere.", who=lock.who
            )


Spot = tuple[str, Ticks, Ticks]
"""A recording or session, and from when to when in it."""


def _marks_touched(operation: Operation, inverse: Operation) -> Iterator[Mark]:
    """Marks as they are set, and as they were; locks are no part of what they lock."""
    for part in (*operation.parts, *inverse.parts):
        if isinstance(part, SetMarks):
            yield from (each for each in part.marks if not isinstance(each, Lock))


def _places_of(marks: Iterable[Mark]) -> Iterator[Spot]:
    for anchor in (anchor for each in marks for anchor in each.anchors):
        match anchor:
            case Stretch(recording, start, end):
                yield recording, start, end
            case Place(recording, at):
                yield recording, at, at + 1


def _words_of(operation: Operation) -> Iterator[Spot]:
    for change in operation.corrections:
        for words in (change.old, change.new):
            if words:
                yield change.recording, words[0].start, words[-1].end


def _holds(stretch: Stretch, spots: Iterable[Spot]) -> bool:
    return any(
        recording == stretch.recording and begin < stretch.end and until > stretch.start for recording, begin, until in spots
    )


def _moved(places: Places, stretch: Stretch, since: Since) -> bool:
    """Whether anything within a stretch was taken out, put in or moved."""
    try:
        for laid in places.of(stretch):
            since.carry(laid)
    except Overlap:
        return True
    return False
