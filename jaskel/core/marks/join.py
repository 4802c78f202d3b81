"""How the pictures of a splice, or of two shots, go over into one another."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from typing import ClassVar

from jaskel.core.marks.anchor import Meeting, Place
from jaskel.core.marks.mark import Mark, Marks, mark
from jaskel.core.picture.joins import Join

JoinTie = Meeting | Place
"""A splice, or the word before which another shot begins."""


@mark
@dataclass(frozen=True)
class JoinMark(Mark):
    """The join of pictures at a splice or a change of shots."""

    kind: ClassVar[str] = "picture join"
    join: Join

    @property
    def tie(self) -> JoinTie:
        (anchor,) = self.anchors
        assert isinstance(anchor, Meeting | Place)
        return anchor


def set_joins(marks: Marks, ties: Sequence[JoinTie], join: Join | None) -> dict[str, Mark | None]:
    """The changes that make joins so; with None, they are plain cuts again."""
    known = {each.tie: each for each in marks.all(JoinMark)}
    changes: dict[str, Mark | None] = {}
    for tie in dict.fromkeys(ties):
        if tie in known:
            if join is None or known[tie].join != join:
                changes[known[tie].id] = JoinMark(known[tie].id, (tie,), join) if join else None
        elif join:
            id = marks.changed(changes).free_id("picture join")
            changes[id] = JoinMark(id, (tie,), join)
    return changes
