"""Moving the edges of a splice: sound that was taken out comes forth, or sound that was kept goes."""

from __future__ import annotations

from bisect import bisect_left
from collections.abc import Sequence
from dataclasses import dataclass, replace
from typing import ClassVar

from jaskel.core.edition import Edition, Piece, Run, merged
from jaskel.core.marks.anchor import Meeting
from jaskel.core.operations.base import Edited, Meanwhile, Telling, operation
from jaskel.core.operations.rewrite import Rewriting
from jaskel.core.problem import Problem
from jaskel.core.timebase import RATE, Ticks, clock

SHORTEST: Ticks = RATE // 100
"""What is heard between two splices keeps at least 10 ms."""


@operation
@dataclass(frozen=True)
class Trim(Rewriting):
    """Shift the edges of the splice at laid ``at``: where what comes before it ends, where what comes after it begins."""

    kind: ClassVar[str] = "trim"
    asked: ClassVar[bool] = True
    at: Ticks
    before: Ticks = 0
    after: Ticks = 0

    def edits(self, edition: Edition) -> Sequence[Edited]:
        return [trimmed(edition, self.at, self.before, self.after)]

    def carried(self, since: Meanwhile) -> Trim:
        return replace(self, at=since.carry((self.at, self.at))[0])

    def summary(self, telling: Telling) -> str:
        return f"moved the edges of the splice at {clock(telling.at(self.at), 2)}"


@operation
@dataclass(frozen=True)
class Slip(Rewriting):
    """Shift what is heard between two splices within its recording; ``at`` is where it begins in laid time."""

    kind: ClassVar[str] = "slip"
    asked: ClassVar[bool] = True
    at: Ticks
    by: Ticks

    def edits(self, edition: Edition) -> Sequence[Edited]:
        return slipped(edition, self.at, self.by)

    def carried(self, since: Meanwhile) -> Slip:
        return replace(self, at=since.carry((self.at, self.at))[0])

    def summary(self, telling: Telling) -> str:
        return f"slipped what is heard at {clock(telling.at(self.at))} by {self.by / RATE:+.2f} s"


def splice_at(edition: Edition, at: Ticks) -> tuple[Run, Run]:
    """What meets at the splice whose later side begins at a laid time.

    Raises
    ------
    Problem
        ``no-splice``.
    """
    runs = edition.kept_runs
    index = bisect_left(runs, at, key=lambda run: run.laid)
    if not 0 < index < len(runs) or runs[index].laid != at:
        raise Problem("no-splice", "There is no splice here any more. Look at the page and choose it again.")
    return runs[index - 1], runs[index]


def parted_at(edition: Edition, at: Ticks) -> Meeting:
    """The meeting of a recording with itself by which it is parted at a laid time, taking nothing out.

    Raises
    ------
    Problem
        ``nothing-to-part``.
    """
    for run in edition.kept_runs:
        place = run.start + at - run.laid
        if run.start < place < run.end:
            return Meeting(run.source, place, run.source, place)
    raise Problem("nothing-to-part", "Nothing is heard on both sides of this place. Choose one within what is kept.")


def trimmed(edition: Edition, at: Ticks, before: Ticks, after: Ticks) -> Edited:
    """Shift both edges of the splice whose later side begins at laid ``at``, later in their recordings where positive.

    Raises
    ------
    Problem
        ``no-splice``, ``too-short``, or ``no-more-sound`` where nothing is left to come forth.
    """
    first, second = splice_at(edition, at)
    end = first.laid + first.end - first.start
    _long_enough(first.end - first.start + before)
    _long_enough(second.end - second.start - after)
    hidden = list(edition.cut_out(end, at))
    front = _forth(hidden, first, second, before) if before > 0 else []
    back = _forth_backwards(hidden, first, first.end + max(0, before), second, -after) if after < 0 else []
    begin, until = min(end, end + before), max(at, at + after)
    gone = [_out(piece) for piece in edition.cut_out(begin, end)]
    gone_after = [_out(piece) for piece in edition.cut_out(at, until)]
    return begin, until, tuple(merged([*gone, *front, *hidden, *back, *gone_after]))


def slipped(edition: Edition, at: Ticks, by: Ticks) -> tuple[Edited, ...]:
    """Shift what is heard from laid ``at`` to the next splice within its recording, as long as it is and where it is."""
    runs = edition.kept_runs
    index = next((i for i, run in enumerate(runs) if run.laid == at), None)
    if index is None or not 0 < index < len(runs) - 1:
        raise Problem("no-splice", "Only what stands between two splices can be slipped.")
    left = trimmed(edition, at, 0, by)
    right = trimmed(edition, runs[index + 1].laid, by, 0)
    if left[1] > right[0]:
        raise Problem("too-far", "That is further than what is heard is long. Slip it by less.")
    return left, right


def _long_enough(length: Ticks) -> None:
    if length < SHORTEST:
        raise Problem("too-short", "Nothing would be left of what is heard there. Strike it instead.")


def _out(piece: Piece) -> Piece:
    return replace(piece, kept=False, why="trimmed") if piece.kept else piece


def _forth(hidden: list[Piece], first: Run, second: Run, wanted: Ticks) -> list[Piece]:
    """Sound that follows what is before a splice; taken off the front of what is ``hidden`` where it stands there."""
    at, found = first.end, []
    while wanted and hidden and hidden[0].source == first.source and hidden[0].start == at:
        piece = hidden.pop(0)
        length = min(wanted, piece.length)
        found.append(Piece(piece.source, at, at + length))
        if length < piece.length:
            hidden.insert(0, piece.part(length, piece.length))
        at, wanted = at + length, wanted - length
    if wanted:
        _apart(first.source == second.source and at == second.start)
        found.append(Piece(first.source, at, at + wanted))
    return found


def _forth_backwards(hidden: list[Piece], first: Run, reached: Ticks, second: Run, wanted: Ticks) -> list[Piece]:
    """Sound that leads up to what is after a splice; what is before it has come forth up to ``reached`` meanwhile."""
    at = second.start
    found: list[Piece] = []
    while wanted and hidden and hidden[-1].source == second.source and hidden[-1].end == at:
        piece = hidden.pop()
        length = min(wanted, piece.length)
        found.insert(0, Piece(piece.source, at - length, at))
        if length < piece.length:
            hidden.append(piece.part(0, piece.length - length))
        at, wanted = at - length, wanted - length
    if wanted:
        _apart(at - wanted < 0 or (first.source == second.source and at == reached))
        found.insert(0, Piece(second.source, at - wanted, at))
    return found


def _apart(touching: bool) -> None:
    if touching:
        raise Problem("no-more-sound", "There is no more sound to come forth here. Pull less far.")
