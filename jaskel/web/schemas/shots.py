"""Shots as they go over the wire."""

from __future__ import annotations

from typing import Annotated

from pydantic import BaseModel, Field

from jaskel.core.picture.rules import ShotRules
from jaskel.core.timebase import RATE
from jaskel.web.schemas.common import FramingField, TicksField

USUAL = ShotRules()


class ShotRulesField(BaseModel):
    """How shots follow who speaks; times in ticks."""

    follow: bool = USUAL.follow
    shortest: Annotated[int, Field(ge=RATE // 2, le=30 * RATE)] = USUAL.shortest
    lead: Annotated[int, Field(ge=0, le=RATE)] = USUAL.lead
    reactions: bool = USUAL.reactions
    together: bool = USUAL.together
    framing: FramingField = USUAL.framing

    @property
    def rules(self) -> ShotRules:
        return ShotRules(**{name: getattr(self, name) for name in ShotRulesField.model_fields})


def shot_rules_field(rules: ShotRules) -> ShotRulesField:
    return ShotRulesField(**{name: getattr(rules, name) for name in ShotRulesField.model_fields})


class ShotsQuery(BaseModel):
    """``shortest`` asks how it would be with shots of another shortest length, in ticks."""

    shortest: Annotated[int, Field(ge=RATE // 2, le=30 * RATE)] | None = None


class ShotOut(BaseModel):
    """From-to in laid time and in the programme, and who is seen how; without ``voices`` it is the first camera."""

    begin: TicksField
    end: TicksField
    at: TicksField
    until: TicksField
    framing: FramingField
    voices: list[str]
    by_hand: bool


class CloserOut(BaseModel):
    """From-to in laid time of where the picture is closer by so many per cent; ``slowly`` where it grows to that."""

    begin: TicksField
    end: TicksField
    percent: int
    slowly: bool
    beyond: int = Field(description="By so many per cent it is enlarged beyond the recording's own pixels")


class ShotsOut(BaseModel):
    """The shots of an edition in order, whose faces its cameras show, and how many turns they follow."""

    shots: list[ShotOut]
    closer: list[CloserOut]
    seen: list[str] = Field(description="The voices that have a camera of their own")
    turns: int = Field(description="Of speech; 0 where shots follow nobody")
    unlooked: int = Field(description="So many cameras are there in whose pictures faces have not been looked for")
