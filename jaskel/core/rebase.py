"""Carrying operations over what happened meanwhile: people work on different passages, and undo what is their own."""

from __future__ import annotations

from collections.abc import Iterable
from dataclasses import dataclass

from jaskel.core.operations.base import Operation, Range
from jaskel.core.operations.become import Become
from jaskel.core.operations.marks import SetMarks
from jaskel.core.operations.retype import Retype
from jaskel.core.operations.rewrite import Rewrite
from jaskel.core.retype import Change
from jaskel.core.timebase import Ticks


@dataclass(frozen=True)
class Step:
    """A step of the log as it was carried out: by its inverse, which says just what it touched.

    Attributes
    ----------
    inverse
        Takes it back.
    number, target
        Its own number, and that of the step it does, undoes or redoes.
    summary, who
        What it is called, and who did it, where that is known.
    followed
        Whether it was done by nobody: marks went along with material that took the place of other material.
    """

    inverse: Operation
    number: int = 0
    target: int = 0
    summary: str = ""
    who: str = ""
    followed: bool = False


class Overlap(Exception):
    """Something was changed within what is to be carried over: by ``step``."""

    def __init__(self, step: Step) -> None:
        super().__init__(step.summary)
        self.step = step


@dataclass(frozen=True, slots=True)
class _Changed:
    """In laid time of the edition before: ``begin`` to ``end`` was replaced by what is ``longer`` by so much."""

    begin: Ticks
    end: Ticks
    longer: Ticks


_Changes = tuple[_Changed, ...]
"""The places that one operation changed, in order."""

ANYWHERE: _Changes = (_Changed(0, 2**62, 0),)
"""What changed everything is in the way of everything."""


@dataclass(frozen=True)
class _Done:
    """A step with what each of its parts changed, in the order they were carried out."""

    step: Step
    parts: tuple[_Changes, ...]

    def carry(self, laid: Range) -> Range:
        for changes in self.parts:
            laid = _carry(laid, changes, self.step)
        return laid


def _carry(laid: Range, changes: _Changes, step: Step, *, yields: bool = False) -> Range:
    """Where a range lies after changes. A place at which something was put in stays before it, unless it ``yields``."""
    begin, end = laid
    shift = 0
    for changed in changes:
        # Of an insertion, begin and end are the same, too: it is within the range where it stands inside of it.
        if (changed.begin < end and changed.end > begin) or (begin == end and changed.begin < begin < changed.end):
            raise Overlap(step)
        # Of two that put something in at the same place, the later one comes first: new material stays at the end.
        if changed.end <= begin and (yields or not changed.begin == begin == end):
            shift += changed.longer
    return begin + shift, end + shift


def _carry_all(changes: _Changes, over: _Changes, step: Step, *, yields: bool = False) -> _Changes:
    return tuple(_Changed(*_carry((each.begin, each.end), over, step, yields=yields), each.longer) for each in changes)


class Since:
    """What happened since a revision, oldest first. What was done and undone since did not happen."""

    _done: tuple[_Done, ...]

    def __init__(self, steps: Iterable[Step]) -> None:
        self._done = ()
        for step in steps:
            at = self._about(step.target)
            if at is not None and (left := self._without(at)) is not None:
                self._done = left
            else:
                # An inverse takes back what was done last first.
                parts = (_changes_of(part) for part in reversed(step.inverse.parts))
                self._done = (*self._done, _Done(step, tuple(each for each in parts if each is not None)))

    def _about(self, target: int) -> int | None:
        """Which of the steps is about the same one, if one is."""
        return next((i for i, done in enumerate(self._done) if target and done.step.target == target), None)

    def _without(self, at: int) -> tuple[_Done, ...] | None:
        """What is left when a step was taken back: later ones as seen without it. None where that cannot be told."""
        later = Since([])
        later._done = self._done[at + 1 :]
        try:
            return (*self._done[:at], *later.after(self._done[at].step.inverse)._done)
        except Overlap:
            return None

    def __bool__(self) -> bool:
        """Whether anything happened."""
        return bool(self._done)

    def carry(self, laid: Range) -> Range:
        """Where a range lies now; of a place, begin and end are the same.

        Raises
        ------
        Overlap
            When something within it was changed.
        """
        for each in self._done:
            laid = each.carry(laid)
        return laid

    def after(self, operation: Operation) -> Since:
        """The same as seen from the edition that ``operation`` leads to, which is made of rewrites.

        Raises
        ------
        Overlap
            Where both are about the same place.
        """
        done = list(self._done)
        for rewrite in operation.parts:
            if not isinstance(rewrite, Rewrite):
                continue
            ours = tuple(
                _Changed(edit.begin, edit.end, sum(piece.length for piece in edit.pieces) - (edit.end - edit.begin))
                for edit in rewrite.changes
            )
            for index, theirs in enumerate(done):
                moved: list[_Changes] = []
                for changes in theirs.parts:
                    moved.append(_carry_all(changes, ours, theirs.step, yields=True))
                    ours = _carry_all(ours, changes, theirs.step)
                done[index] = _Done(theirs.step, tuple(moved))
        seen = Since([])
        seen._done = tuple(done)
        return seen

    def check_marks(self, changed: Iterable[str], off: Iterable[str]) -> None:
        """Refuse to change marks that were touched since, or to take any off but for those that only followed something.

        Raises
        ------
        Overlap
            When one was.
        """
        mine = set(changed)
        all_of_mine = mine.union(off)
        for step, part in self._parts:
            guarded = mine if step.followed else all_of_mine
            if isinstance(part, Become) or (isinstance(part, SetMarks) and not guarded.isdisjoint(part.changes)):
                raise Overlap(step)

    def check_words(self, changes: Iterable[Change]) -> None:
        """Refuse corrections of words that were corrected since.

        Raises
        ------
        Overlap
            When they were.
        """
        mine = list(_words_of(changes))
        for step, part in self._parts:
            for recording, begin, end in _words_of(part.corrections):
                if any(recording == name and begin < until and end > start for name, start, until in mine):
                    raise Overlap(step)

    def check_kind(self, kind: type[Operation]) -> None:
        """Refuse what there is only one of, where it was set since.

        Raises
        ------
        Overlap
            When it was.
        """
        for step, part in self._parts:
            if isinstance(part, kind | Become):
                raise Overlap(step)

    def check_nothing(self) -> None:
        """Refuse, where anything happened at all, what is about everything.

        Raises
        ------
        Overlap
            When something did.
        """
        if self._done:
            raise Overlap(self._done[0].step)

    @property
    def _parts(self) -> Iterable[tuple[Step, Operation]]:
        return ((each.step, part) for each in self._done for part in each.step.inverse.parts)


def _words_of(changes: Iterable[Change]) -> Iterable[tuple[str, Ticks, Ticks]]:
    for change in changes:
        for words in (change.old, change.new):
            if words:
                yield change.recording, words[0].start, words[-1].end


def _changes_of(part: Operation) -> _Changes | None:
    """The places an inverse tells of, in laid time of the edition before; None where it is not about places."""
    if isinstance(part, SetMarks | Retype):
        return None
    if not isinstance(part, Rewrite):
        return ANYWHERE if isinstance(part, Become) else None
    changed = []
    shift = 0
    for edit in part.changes:
        old = sum(piece.length for piece in edit.pieces)
        new = edit.end - edit.begin
        changed.append(_Changed(edit.begin - shift, edit.begin - shift + old, new - old))
        shift += new - old
    return tuple(changed)
