"""Findings, and what a show wants tidied."""

from __future__ import annotations

from typing import Annotated, Literal

from pydantic import BaseModel, Field, StringConstraints, model_validator

from jaskel.core.tidy.finding import Kind
from jaskel.core.tidy.settings import RHYTHMS, Action
from jaskel.web.schemas.common import OneLine, TicksField


class AttemptOut(BaseModel):
    """An attempt at a sentence, in laid time."""

    begin: TicksField
    end: TicksField
    text: str
    why: list[str]


class FindingOut(BaseModel):
    """What could be tidied, from-to in laid time. ``goes`` is how much of the running time it takes.

    One that is ``large``, or was said ``twice`` and is complete both times, is accepted by itself, never with all others.
    """

    id: str
    kind: Kind
    begin: TicksField
    end: TicksField
    text: str
    voice: str | None
    why: str
    goes: TicksField
    state: Literal["open", "accepted", "refused"]
    takes: list[AttemptOut]
    pick: int
    large: bool
    twice: bool = False


class RestsQuery(BaseModel):
    """A limit for the rests of all voices; without one, those that the show has."""

    longer: Annotated[int, Field(ge=0, le=60 * 48_000)] = 0
    becomes: Annotated[int, Field(ge=0, le=60 * 48_000)] = 0


class RestsOut(BaseModel):
    """How long the rests are that wait to be judged, which of those are too long, and how much time shortening them saves."""

    lengths: list[int]
    long: list[int]
    saved: TicksField


class ReadingOut(BaseModel):
    """Something that was said, in laid time; ``gone`` where it is taken out."""

    begin: TicksField
    end: TicksField
    text: str
    gone: bool


class LineOut(BaseModel):
    """A sentence of the script with the take that reads it best; ``said`` is null where it was never said."""

    text: str
    said: ReadingOut | None
    takes: int


class ScriptOut(BaseModel):
    """The scripts of an edition beside what was said, and what was said ``off`` them."""

    lines: list[LineOut]
    off: list[ReadingOut]


class ThresholdOut(BaseModel):
    """Rests longer than this become so long, for a voice; null for any other."""

    voice: str | None
    median: TicksField
    longer: TicksField
    becomes: TicksField


class FindingsOut(BaseModel):
    """Everything found in an edition. ``unheard``: recordings where nobody has listened for voice without words yet."""

    revision: int
    findings: list[FindingOut]
    thresholds: list[ThresholdOut]
    unheard: list[str]


class RefusalsIn(BaseModel):
    """Say that findings are none, or open them again."""

    findings: Annotated[list[Annotated[str, StringConstraints(max_length=200)]], Field(min_length=1, max_length=50_000)]
    refused: bool = True


Phrase = Annotated[str, StringConstraints(strip_whitespace=True, min_length=1, max_length=80), OneLine]
Phrases = Annotated[list[Phrase], Field(max_length=500)]
Rest = Annotated[int, Field(ge=2400, le=60 * 48_000)]


class ThresholdIn(BaseModel):
    """Rests longer than this become so long, in ticks."""

    longer: Rest
    becomes: Rest

    @model_validator(mode="after")
    def _shorter(self) -> ThresholdIn:
        if self.becomes > self.longer:
            raise ValueError("Rests cannot become longer than those that are shortened.")
        return self


class TidySettingsOut(BaseModel):
    """What a show wants tidied, and how. ``rests`` leads instead of the rhythm, ``voices`` instead of both.

    ``on_import``: kinds that are tidied by themselves when the words of a new recording are there.
    """

    fillers: Phrases
    cues: Phrases
    remarks: Phrases
    rhythm: Annotated[int, Field(ge=0, lt=len(RHYTHMS))]
    rests: ThresholdIn | None
    voices: dict[str, ThresholdIn]
    keep_answers: bool
    keep_laughter: bool
    soften_breaths: bool
    actions: dict[Kind, Action]
    on_import: list[Kind]


class TidyChange(BaseModel):
    """What is to change; what is left out stays. ``own_rests`` false goes back to the rhythm for all voices."""

    fillers: Phrases | None = None
    cues: Phrases | None = None
    remarks: Phrases | None = None
    rhythm: Annotated[int | None, Field(ge=0, lt=len(RHYTHMS))] = None
    rests: ThresholdIn | None = None
    voices: dict[str, ThresholdIn] | None = None
    keep_answers: bool | None = None
    keep_laughter: bool | None = None
    soften_breaths: bool | None = None
    actions: dict[Kind, Action] | None = None
    on_import: list[Kind] | None = None
    own_rests: bool = True
