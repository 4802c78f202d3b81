"""Undo and redo over an append-only log.

Nothing is ever removed from the log: undoing writes one more entry. What can be undone or redone follows from reading the
entries in order, so it is the same after a restart. Everybody undoes what is their own: a step belongs to its author, and
what others do leaves it where it is.
"""

from __future__ import annotations

from collections.abc import Iterable
from dataclasses import dataclass, replace
from typing import Literal

StepKind = Literal["do", "undo", "redo"]
Turn = Literal["undo", "redo"]

Authors = frozenset[str]
"""What one person goes by."""

ANYBODY: Authors = frozenset()


def are_one(one: Authors, other: Authors) -> bool:
    """Whether two may be the same person: whose something is is not always known, and then it is everybody's."""
    return not one or not other or not one.isdisjoint(other)


@dataclass(frozen=True, slots=True)
class Entry:
    """``number`` is the place in the log; ``target`` the entry that an undo or redo is about, else its own number.

    ``authors`` are what its author goes by: a name, a window; nothing where that is not known.
    """

    number: int
    step: StepKind
    target: int
    authors: Authors = frozenset()


@dataclass(frozen=True, slots=True)
class Turnable:
    """A step that can be undone or redone: its number, the number of the entry that did or undid it last, whose it is."""

    target: int
    last: int
    authors: Authors


@dataclass(frozen=True, slots=True)
class History:
    """The steps that can be undone, in the order they were done, and redone, in the order they were undone."""

    undoable: tuple[Turnable, ...] = ()
    redoable: tuple[Turnable, ...] = ()

    @classmethod
    def read(cls, entries: Iterable[Entry]) -> History:
        undoable: dict[int, Turnable] = {}
        redoable: dict[int, Turnable] = {}
        for entry in entries:
            if entry.step == "do":
                redoable = {id: each for id, each in redoable.items() if not are_one(each.authors, entry.authors)}
                undoable[entry.target] = Turnable(entry.target, entry.number, entry.authors)
                continue
            one, other = (undoable, redoable) if entry.step == "undo" else (redoable, undoable)
            if known := one.pop(entry.target, None):
                other[entry.target] = replace(known, last=entry.number)
        return cls(_in_order(undoable), tuple(redoable.values()))

    def after(self, entry: Entry) -> History:
        """The history with one more entry."""
        if entry.step == "do":
            redoable = tuple(each for each in self.redoable if not are_one(each.authors, entry.authors))
            return History((*self.undoable, Turnable(entry.target, entry.number, entry.authors)), redoable)
        one, other = (self.undoable, self.redoable) if entry.step == "undo" else (self.redoable, self.undoable)
        turned = [replace(each, last=entry.number) for each in one if each.target == entry.target]
        one, other = tuple(each for each in one if each.target != entry.target), (*other, *turned)
        if entry.step == "undo":
            return History(one, other)
        return History(tuple(sorted(other, key=lambda each: each.target)), one)

    def next(self, turn: Turn, authors: Authors = ANYBODY) -> Turnable | None:
        """What undo or redo is about, asked by one of ``authors``; None where nothing of theirs is left."""
        steps = self.undoable if turn == "undo" else self.redoable
        return next((each for each in reversed(steps) if are_one(each.authors, authors)), None)


def _in_order(steps: dict[int, Turnable]) -> tuple[Turnable, ...]:
    return tuple(sorted(steps.values(), key=lambda each: each.target))
