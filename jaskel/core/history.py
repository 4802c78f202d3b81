"""Undo and redo over an append-only log.

Nothing is ever removed from the log: undoing writes one more entry. What can be undone or redone follows from reading the
entries in order, so it is the same after a restart and in every window.
"""

from __future__ import annotations

from collections.abc import Iterable
from dataclasses import dataclass
from typing import Literal

Step = Literal["do", "undo", "redo"]


@dataclass(frozen=True, slots=True)
class Entry:
    """``number`` is the place in the log; ``target`` the entry that an undo or redo is about, else its own number."""

    number: int
    step: Step
    target: int


@dataclass(frozen=True, slots=True)
class History:
    """Numbers of the entries that can be undone and redone, the next one last."""

    undoable: tuple[int, ...] = ()
    redoable: tuple[int, ...] = ()

    @classmethod
    def read(cls, entries: Iterable[Entry]) -> History:
        undoable: list[int] = []
        redoable: list[int] = []
        for entry in entries:
            match entry.step:
                case "do":
                    undoable.append(entry.target)
                    redoable.clear()
                case "undo":
                    redoable.append(undoable.pop())
                case "redo":
                    undoable.append(redoable.pop())
        return cls(tuple(undoable), tuple(redoable))

    def after(self, entry: Entry) -> History:
        match entry.step:
            case "do":
                return History((*self.undoable, entry.target), ())
            case "undo":
                return History(self.undoable[:-1], (*self.redoable, entry.target))
            case "redo":
                return History((*self.undoable, entry.target), self.redoable[:-1])
