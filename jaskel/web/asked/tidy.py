"""Accepting findings."""

from __future__ import annotations

from typing import Annotated, Any, Literal

from pydantic import BaseModel, Field, StringConstraints

from jaskel.core.operations import Operation
from jaskel.core.problem import Problem
from jaskel.core.tidy.review import accepting
from jaskel.store.tidying import material_of, settings_of
from jaskel.web.asked.asked import Asked, Floor, asked
from jaskel.web.asked.settling import settling
from jaskel.web.context import show_of


class JudgedField(BaseModel):
    """A finding to be accepted, with the take that is to stay; the proposed one where nothing is said."""

    id: Annotated[str, StringConstraints(max_length=200)]
    pick: Annotated[int | None, Field(ge=0, le=10_000)] = None


@asked
class TidyIn(Asked):
    """Accept findings, all as one step."""

    kind: Literal["tidy"]
    findings: Annotated[list[JudgedField], Field(min_length=1, max_length=50_000)]

    @property
    def settles(self) -> bool:
        return True

    def carried(self, _since: Any) -> TidyIn:
        return self

    def operation(self, floor: Floor) -> Operation:
        session, opened, context = floor.session, floor.opened, floor.context
        by_id = {each.id: each for each in context.findings(session, opened)}
        chosen = [(found, each.pick) for each in self.findings if (found := by_id.get(each.id)) and found.state != "accepted"]
        if not chosen:
            raise Problem("no-finding", "That is not found any more: its words were changed meanwhile. Look at it again.")
        picked = [(found, found.pick if pick is None else min(pick, len(found.finding.takes) - 1)) for found, pick in chosen]
        said = context.transcripts(session, opened)
        material = {name: material_of(session, name, each.words) for name, each in said.items()}
        return settling(floor, accepting(opened.edition, picked, material, settings_of(show_of(session, opened))))
