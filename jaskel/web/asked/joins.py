"""How pictures go over into one another."""

from __future__ import annotations

from typing import Annotated, Literal, Self

from pydantic import Field

from jaskel.core.edition import Edition
from jaskel.core.marks.anchor import Meeting, Place
from jaskel.core.marks.join import JoinTie, set_joins
from jaskel.core.operations import Operation, SetMarks
from jaskel.core.operations.trim import splice_at
from jaskel.core.problem import Problem
from jaskel.core.rebase import Since
from jaskel.core.timebase import Ticks
from jaskel.web.asked.asked import Asked, Floor, asked
from jaskel.web.asked.beds import tie_of
from jaskel.web.schemas.common import TicksField
from jaskel.web.schemas.joins import JoinField
from jaskel.web.schemas.sound import TieField

NAMES = {"bridge": "bridged", "dissolve": "dissolved", "dip": "dipped", "slide": "slid", "push": "pushed"}


@asked
class PictureJoinIn(Asked):
    """Let pictures go over into one another at splices or changes of shots; with a null ``join``, they are plain cuts."""

    kind: Literal["picture join"]
    ats: Annotated[list[TicksField], Field(min_length=1, max_length=5000)]
    join: JoinField | None

    def carried(self, since: Since) -> Self:
        return self.model_copy(update={"ats": [since.carry((at, at))[0] for at in self.ats]}) if since else self

    def operation(self, floor: Floor) -> Operation:
        edition = floor.opened.edition
        changes = set_joins(edition.marks, [join_tie(edition, at) for at in self.ats], self.join.join if self.join else None)
        if not changes:
            raise Problem("nothing-changed", "That changes nothing: the pictures meet so already.")
        count = len(changes)
        places = "a join" if count == 1 else f"{count} joins"
        return SetMarks.of(changes, f"{NAMES[self.join.kind]} {places}" if self.join else f"made {places} plain cuts")


def join_tie(edition: Edition, at: Ticks) -> JoinTie:
    """What a join before the word at a laid time is tied to: the splice there, else the word.

    Raises
    ------
    Problem
        ``no-word``.
    """
    try:
        before, after = splice_at(edition, at)
    except Problem:
        tie = tie_of(edition, TieField(to="word", at=at), ends=False)
        assert isinstance(tie, Place)
        return tie
    return Meeting(before.source, before.end, after.source, after.start)
