"""Setting marks: the one operation that adds, changes and removes them, any number at once."""

from __future__ import annotations

from collections import Counter
from collections.abc import Callable, Mapping, Sequence
from dataclasses import dataclass, replace
from typing import ClassVar, Protocol, TypeVar

from jaskel.core.edition import Edition
from jaskel.core.marks.anchor import Carry
from jaskel.core.marks.level import Setting, set_levels, told_levels
from jaskel.core.marks.mark import Mark, Marks
from jaskel.core.operations.base import Meanwhile, Operation, Range, Telling, operation
from jaskel.core.problem import Problem
from jaskel.core.source import Recorded


class Marked(Protocol):
    """A document that has marks: an edition, or an episode's material."""

    @property
    def marks(self) -> Marks: ...


D = TypeVar("D", bound=Marked)


@operation
@dataclass(frozen=True)
class SetMarks(Operation):
    """Add or replace ``marks`` by their ids, and take those ``off`` that are named there; ``told`` says it in words."""

    kind: ClassVar[str] = "set marks"
    marks: tuple[Mark, ...] = ()
    off: tuple[str, ...] = ()
    told: str = ""

    @classmethod
    def of(cls, changes: Mapping[str, Mark | None], told: str = "") -> SetMarks:
        """From new marks by their ids, None where one is taken off."""
        off = tuple(id for id, mark in changes.items() if mark is None)
        return cls(tuple(mark for mark in changes.values() if mark is not None), off, told)

    @property
    def changes(self) -> dict[str, Mark | None]:
        return {**dict.fromkeys(self.off), **{mark.id: mark for mark in self.marks}}

    def apply(self, edition: Edition) -> tuple[Edition, SetMarks]:
        return self.apply_to(edition)

    def apply_to(self, document: D) -> tuple[D, SetMarks]:
        """The same for anything that has marks. The inverse names only the ids that were touched."""
        changes = self.changes
        old = SetMarks.of({id: document.marks.get(id) for id in changes}, self.told)
        return replace(document, marks=document.marks.changed(changes)), old  # type: ignore[type-var]

    def carried(self, since: Meanwhile) -> SetMarks:
        since.check_marks([mark.id for mark in self.marks], self.off)
        return self

    def summary(self, _telling: Telling) -> str:
        if self.told:
            return self.told
        kinds = Counter(mark.kind for mark in self.marks)
        told = [f"{count} {kind}{'s' if count > 1 else ''}" for kind, count in kinds.items()]
        return f"set {' and '.join(told)}" if told else f"took off {len(self.off)} mark{'s' if len(self.off) > 1 else ''}"


def carried_along(marks: Marks, carries: Sequence[Carry]) -> dict[str, Mark | None]:
    """The changes that let marks follow when recordings take the place of others."""
    changes: dict[str, Mark | None] = {}
    for each in marks:
        now: Mark | None = each
        for carry in carries:
            now = now.carried(carry) if now is not None else None
        if now is not each:
            changes[each.id] = now
    return changes


def levelled(edition: Edition, laid: Range, decibels: float, tracks: Callable[[str], Sequence[str]]) -> SetMarks:
    """Set the level of a laid range: of the ``tracks`` of each recording or session that has a stretch in it.

    Raises
    ------
    Problem
        ``no-track`` where there is none.
    """
    wanted = [
        Setting(run.source.recording, track, run.start + begin - run.laid, run.start + end - run.laid, decibels)
        for run in edition.runs
        if isinstance(run.source, Recorded)
        for begin, end in [(max(laid[0], run.laid), min(laid[1], run.laid + run.end - run.start))]
        if begin < end
        for track in tracks(run.source.recording)
    ]
    if not wanted:
        raise Problem("no-track", "Nothing of that track is heard in the range. Select again and repeat it.")
    return SetMarks.of(set_levels(edition.marks, wanted), told_levels(wanted))
