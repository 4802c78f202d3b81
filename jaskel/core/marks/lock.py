"""Locks: passages that only one person changes for a while."""

from __future__ import annotations

from dataclasses import dataclass
from typing import ClassVar

from jaskel.core.marks.anchor import Stretch
from jaskel.core.marks.mark import Mark, mark


@mark
@dataclass(frozen=True)
class Lock(Mark):
    """Stretches of one edition that only ``by`` changes; ``who`` is what the others are told."""

    kind: ClassVar[str] = "lock"
    by: str
    who: str

    @property
    def stretches(self) -> tuple[Stretch, ...]:
        return tuple(anchor for anchor in self.anchors if isinstance(anchor, Stretch))
