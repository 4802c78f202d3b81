"""Lines said again, and the consent of those who are spoken for, as they go over the wire."""

from __future__ import annotations

from typing import Annotated, Literal

from pydantic import BaseModel, Field, StringConstraints, model_validator

from jaskel.web.schemas.common import Name, OneLine, TicksField
from jaskel.web.schemas.pieces import Id

LineText = Annotated[str, StringConstraints(strip_whitespace=True, min_length=1, max_length=300), OneLine]


class SpotQuery(BaseModel):
    """A range of laid time, and what should have been said there; without a text, what is said there now."""

    begin: TicksField
    end: TicksField
    text: Annotated[str, StringConstraints(strip_whitespace=True, max_length=300), OneLine] = ""


class TriedPickupQuery(BaseModel):
    """The range that a line is heard in the place of."""

    begin: TicksField
    end: TicksField


class PickupPath(BaseModel):
    edition_id: str
    recording_id: str


class ConsentOut(BaseModel):
    """Who agreed to be spoken for by a machine, when, and how; ``words`` are those it was spoken in."""

    name: str
    date: str
    how: Literal["ticked", "spoken"]
    words: str
    recording: str
    start: TicksField


class ConsentIn(BaseModel):
    """The consent of a person: ticked, by name; or spoken, in a range of an edition."""

    name: Name
    edition_id: Id | None = None
    begin: TicksField = 0
    end: TicksField = 0

    @model_validator(mode="after")
    def _complete(self) -> ConsentIn:
        if self.edition_id and self.begin >= self.end:
            raise ValueError("select the words in which it was spoken")
        return self


class MachineOut(BaseModel):
    """The voice that speaks lines; ``speaks`` is whether it knows the language of these words."""

    name: str
    about: str
    speaks: bool


class CandidateOut(BaseModel):
    """The same words said elsewhere by the same voice: where, how well they fit (0 to 1), and why not better."""

    recording: str
    start: TicksField
    end: TicksField
    episode: str
    before: str
    words: str
    after: str
    fit: Annotated[float, Field(ge=0, le=1)]
    why: list[str]


class PickupOut(BaseModel):
    """A line that was made for these words; ``on_page`` where it stands in the edition."""

    recording: str
    how: Literal["borrowed", "recorded", "spoken"]
    text: str
    was: str
    length: TicksField
    machine: str
    source_of: str
    source_at: TicksField
    on_page: bool


class SpotOut(BaseModel):
    """Words that can be said again: what is said, by whom; who could speak for that person; where it is said; what was made."""

    was: str
    voice: str | None
    consent: ConsentOut | None
    machine: MachineOut
    candidates: list[CandidateOut]
    made: list[PickupOut]


class NewPickup(BaseModel):
    """A line to be made for a range: ``borrowed`` from a stretch of a recording, or ``spoken`` by a machine."""

    begin: TicksField
    end: TicksField
    text: LineText
    how: Literal["borrowed", "spoken"]
    recording: Id | None = None
    source_start: TicksField = 0
    source_end: TicksField = 0

    @model_validator(mode="after")
    def _complete(self) -> NewPickup:
        if (self.how == "borrowed") != (self.recording is not None and self.source_start < self.source_end):
            raise ValueError("what is borrowed has a recording and a stretch of it, what is spoken has none")
        return self


class RecordedQuery(BaseModel):
    """The range, and what was said into the microphone."""

    begin: TicksField
    end: TicksField
    text: LineText
