"""Marks of the material: notes and selects."""

from __future__ import annotations

from typing import Annotated

from pydantic import BaseModel, Field, StringConstraints

from jaskel.core.marks.select import Colour
from jaskel.web.schemas.common import RangeField, Ranges, SeveralLines, TicksField
from jaskel.web.schemas.editions import LookedFor

NoteText = Annotated[str, StringConstraints(strip_whitespace=True, min_length=1, max_length=4000), SeveralLines]


class MarkPath(BaseModel):
    episode_id: str
    mark_id: str


class NewNote(LookedFor):
    """A note at a laid time of an edition; it stays with the sound that stands there.

    With ``cuts`` it suggests to cut these ranges, and stands where they begin. ``to`` is the account it is given to.
    """

    edition: str
    laid: TicksField = 0
    text: NoteText
    cuts: Annotated[list[RangeField], Field(max_length=200)] = Field(default_factory=list)
    to: Annotated[str, StringConstraints(max_length=40)] = ""


class NoteChange(LookedFor):
    """What it says, the account it is given to (empty for nobody), whether it is done."""

    text: NoteText | None = None
    to: Annotated[str, StringConstraints(max_length=40)] | None = None
    done: bool | None = None


class NewAnswer(LookedFor):
    text: NoteText


class AnswerOut(BaseModel):
    """What somebody said to a note, and when (ISO 8601)."""

    text: str
    who: str
    at: str


class CutOut(BaseModel):
    """A stretch that is suggested to be cut, in ticks of a recording or session."""

    recording: str
    start: TicksField
    end: TicksField


class NoteOut(BaseModel):
    """A note, ``at`` in ticks of a recording or session. ``by`` and ``to`` are accounts, ``to_name`` the latter's name."""

    id: str
    recording: str
    at: TicksField
    text: str
    who: str
    by: str
    to: str
    to_name: str
    done: bool
    answers: list[AnswerOut]
    cuts: list[CutOut]


class NewSelect(LookedFor):
    """Stretches of laid time of an edition, marked as good in a colour; where one covers several recordings, one for each."""

    edition: str
    ranges: Ranges
    colour: Colour


class SelectChange(LookedFor):
    """Another colour, note or rating, or other ends: from-to in ticks of its recording or session."""

    colour: Colour | None = None
    note: Annotated[str, StringConstraints(strip_whitespace=True, max_length=1000), SeveralLines] | None = None
    rating: Annotated[int | None, Field(ge=0, le=3)] = None
    ends: tuple[TicksField, TicksField] | None = None


class SelectOut(BaseModel):
    """A select, from-to in ticks of a recording or session."""

    id: str
    recording: str
    start: TicksField
    end: TicksField
    colour: Colour
    who: str
    note: str
    rating: int


class SelectsOut(BaseModel):
    selects: list[SelectOut]
