"""The gathering table: the selects of a show, and editions that are made of them."""

from __future__ import annotations

from typing import Annotated, Literal

from pydantic import BaseModel, Field, StringConstraints

from jaskel.core.marks.select import Colour
from jaskel.web.schemas.common import Name, OneLine, TicksField
from jaskel.web.schemas.editions import LookedFor
from jaskel.web.schemas.notes import SelectOut


class GatherQuery(BaseModel):
    """Words that are said in them, a colour, an episode or a folder of episodes; all that is left out is any.

    With ``meaning``, what says something like the words comes as well, after what has them, the nearest first.
    """

    meaning: bool = False

    text: Annotated[str, StringConstraints(strip_whitespace=True, max_length=200), OneLine] = ""
    colour: Colour | None = None
    episode: str = ""
    folder: str = ""


class GatheredOut(BaseModel):
    """A select, what is said in it, and where it comes from."""

    select: SelectOut
    episode_id: str
    episode: str
    text: str
    voice: str | None
    before: str
    after: str


class GatheredListOut(BaseModel):
    gathered: list[GatheredOut]


class StretchField(BaseModel):
    """From-to in ticks of a recording or session."""

    recording: str
    start: TicksField
    end: TicksField


class StretchPath(BaseModel):
    """A recording or session."""

    name: str


class SoundQuery(BaseModel):
    """From-to in its ticks."""

    start: TicksField
    end: TicksField


class NewGathered(LookedFor):
    """Stretches in the order in which they are to be heard."""

    name: Name
    shape: Literal["as recorded", "wide", "square", "upright", "tall"] = "as recorded"
    stretches: Annotated[list[StretchField], Field(min_length=1, max_length=2000)]
