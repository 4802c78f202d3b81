"""Notes in the margin."""

from __future__ import annotations

from typing import Annotated

from pydantic import BaseModel, StringConstraints

from jaskel.web.schemas.common import OneLine, SeveralLines, TicksField

NoteText = Annotated[str, StringConstraints(strip_whitespace=True, min_length=1, max_length=4000), SeveralLines]


class NotePath(BaseModel):
    note_id: str


class NewNote(BaseModel):
    """A note at a laid time of an edition; it stays with the sound that stands there."""

    edition: str
    laid: TicksField
    text: NoteText
    who: Annotated[str, StringConstraints(strip_whitespace=True, max_length=80), OneLine] = ""


class NoteChange(BaseModel):
    text: NoteText


class NoteOut(BaseModel):
    """A note, ``at`` in ticks of a recording or session."""

    id: str
    recording: str
    at: TicksField
    text: str
    who: str
