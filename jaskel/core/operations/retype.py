"""Mending words. The edition stays as it is; its history is where the correction can be taken back."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from typing import ClassVar

from jaskel.core.edition import Edition
from jaskel.core.operations.base import Meanwhile, Operation, Telling, operation
from jaskel.core.retype import Change
from jaskel.core.transcript import shortened
from jaskel.core.written import written


@operation
@dataclass(frozen=True)
class Retype(Operation):
    """Mend words of recordings."""

    kind: ClassVar[str] = "retype"
    changes: tuple[Change, ...]

    def apply(self, edition: Edition) -> tuple[Edition, Retype]:
        return edition, Retype(tuple(change.turned for change in reversed(self.changes)))

    @property
    def corrections(self) -> Sequence[Change]:
        return self.changes

    def carried(self, since: Meanwhile) -> Retype:
        since.check_words(self.changes)
        return self

    def summary(self, _telling: Telling) -> str:
        if len(self.changes) != 1:
            return f"retyped {len(self.changes)} places"
        (change,) = self.changes
        old, new = (written(word.text for word in words) for words in (change.old, change.new))
        if old == new:
            if {word.voice for word in change.old} != {word.voice for word in change.new}:
                return f"gave “{shortened(old)}” to another voice"
            return f"changed where a passage begins at “{shortened(old)}”"
        if not new:
            return f"took the text of “{shortened(old)}” off"
        return f"retyped “{shortened(old)}” as “{shortened(new)}”" if old else f"put in “{shortened(new)}”"


def taken_back(operations: Sequence[Operation]) -> list[Change]:
    """The changes that take back all corrections in ``operations`` (oldest first), in the order they are to be made."""
    return [change.turned for each in reversed(operations) for change in reversed(each.corrections)]
