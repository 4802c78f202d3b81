"""Cutaways as they go over the wire."""

from __future__ import annotations

from typing import Annotated, Literal

from pydantic import BaseModel, Field

from jaskel.core.picture.framing import WHOLE
from jaskel.web.schemas.common import BoxField, FramingField, TicksField

WHOLE_BOX = [*WHOLE]


class CutawayFields(BaseModel):
    """How a cutaway is seen and heard.

    ``first`` and ``last`` are the parts of its picture that are seen at its beginning and its end, of what there is room for.
    """

    place: TicksField = Field(0, description="Where in its recording it begins")
    framing: FramingField = "single"
    first: BoxField = WHOLE_BOX
    last: BoxField = WHOLE_BOX
    decibels: Annotated[float | None, Field(ge=-60, le=24, description="Null where it is not heard")] = None
    on: bool = True


class CutawayOut(CutawayFields):
    """A cutaway over the words from ``begin`` to ``end`` of laid time; both are null where they are not in the edition."""

    id: str
    recording: str
    name: str
    kind: Literal["still", "film"]
    begin: TicksField | None
    end: TicksField | None
