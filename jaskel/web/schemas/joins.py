"""Joins of pictures as they go over the wire."""

from __future__ import annotations

from typing import Annotated, Literal

from pydantic import BaseModel, Field

from jaskel.core.picture.joins import FURTHEST, LONGEST_JOIN, SHORTEST_JOIN, Join, JoinKind, Where
from jaskel.web.schemas.common import BoxField, TicksField
from jaskel.web.schemas.graphics import ColourField

USUAL = Join()


class JoinField(BaseModel):
    """How one picture goes over into another, in so many ticks; ``shift`` is how much later than the sound it does."""

    kind: JoinKind = USUAL.kind
    length: Annotated[int, Field(ge=SHORTEST_JOIN, le=LONGEST_JOIN)] = USUAL.length
    where: Where = USUAL.where
    colour: ColourField = USUAL.colour
    shift: Annotated[int, Field(ge=-FURTHEST, le=FURTHEST)] = USUAL.shift

    @property
    def join(self) -> Join:
        return Join(self.kind, self.length, self.where, self.colour, self.shift)


class JoinOut(JoinField):
    """A join before the word at a laid time; ``seen`` is false where there is no room for it now, or nothing to join."""

    at: TicksField
    seen: bool


class JudgeQuery(BaseModel):
    """A splice or change of shots, before the word at a laid time; with ``better``, other ways of bridging it are tried."""

    at: TicksField
    length: Annotated[int, Field(ge=SHORTEST_JOIN, le=LONGEST_JOIN)] = USUAL.length
    where: Where = USUAL.where
    shift: Annotated[int, Field(ge=-FURTHEST, le=FURTHEST)] = USUAL.shift
    better: bool = False


class JudgedOut(BaseModel):
    """What a bridge is worth: the levels (of 255) its sides differ by in the worst block, how alike they are, what smears.

    ``instead`` is what would do where it is poor; ``join`` is the bridge that was judged.
    """

    quality: Literal["good", "fair", "poor", "none"]
    worst: float
    alike: float
    smears: list[BoxField]
    instead: Literal["punch in", "cutaway", ""]
    join: JoinField


class StretchPath(BaseModel):
    edition_id: str
    key: str
