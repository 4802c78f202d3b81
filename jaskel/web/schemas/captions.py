"""Captions and their rules as they go over the wire."""

from __future__ import annotations

from dataclasses import asdict
from typing import Annotated, Literal

from pydantic import BaseModel, Field, model_validator

from jaskel.core.captions.rules import USUAL, Named, Names, Rules
from jaskel.core.timebase import RATE
from jaskel.web.schemas.common import TicksField


class CaptionRulesField(BaseModel):
    """What captions keep to (:class:`jaskel.core.captions.rules.Rules`). Times are ticks, ``rate`` is characters a second."""

    characters: Annotated[int, Field(ge=10, le=100)] = USUAL.characters
    lines: Annotated[int, Field(ge=1, le=3)] = USUAL.lines
    shortest: Annotated[int, Field(ge=RATE // 10, le=20 * RATE)] = USUAL.shortest
    longest: Annotated[int, Field(ge=RATE // 2, le=60 * RATE)] = USUAL.longest
    rate: Annotated[float, Field(ge=5, le=60)] = USUAL.rate
    gap: Annotated[int, Field(ge=0, le=2 * RATE)] = USUAL.gap
    hold: bool = USUAL.hold
    names: Names = USUAL.names
    named: Named = USUAL.named
    sounds: bool = USUAL.sounds

    @model_validator(mode="after")
    def _in_order(self) -> CaptionRulesField:
        if self.shortest > self.longest:
            raise ValueError("the shortest time is not longer than the longest")
        return self

    @property
    def rules(self) -> Rules:
        return Rules(**{name: getattr(self, name) for name in CaptionRulesField.model_fields})


def rules_field(rules: Rules) -> CaptionRulesField:
    """Rules as they go over the wire."""
    return CaptionRulesField(**asdict(rules))


class FaultOut(BaseModel):
    """What is wrong with a caption, in words."""

    fault: Literal["too fast", "too long", "too short", "too near", "overlapping", "too wide", "too many lines", "doubtful"]
    told: str


class CueOut(BaseModel):
    """A caption: from-to of the programme and in laid time, its lines, whose words they are, and what is wrong with it."""

    start: TicksField
    end: TicksField
    begin: TicksField
    until: TicksField
    lines: list[str]
    breaks: list[TicksField] = Field(description="Laid time of the first word of each line but the first")
    voice: str | None
    rate: float
    faults: list[FaultOut]


class CuesOut(BaseModel):
    """The captions of an edition."""

    cues: list[CueOut]
