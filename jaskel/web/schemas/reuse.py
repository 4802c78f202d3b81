"""What is proposed of an edition: chapters, highlights, clips, titles and a summary."""

from __future__ import annotations

from typing import Annotated, Literal

from pydantic import BaseModel, Field

from jaskel.web.schemas.common import EditionPath, Name, RangeField, TicksField
from jaskel.web.schemas.editions import LookedFor


class ChapterOut(BaseModel):
    """A chapter, ``at`` in ticks of a recording or session."""

    id: str
    recording: str
    at: TicksField
    title: str
    by_hand: bool


class NewChapter(LookedFor):
    """A chapter that begins at a laid time of an edition."""

    edition: str
    laid: TicksField
    title: Name


class ChapterChange(LookedFor):
    """Another title, or another place: a laid time of an edition."""

    title: Name | None = None
    edition: str | None = None
    laid: TicksField | None = None


class ProposeChapters(LookedFor):
    """How many chapters there may be in an hour; those made by hand stay."""

    an_hour: Annotated[float, Field(ge=1, le=120)] = 12


Kind = Literal["highlights", "clips", "length"]


class ReusePath(EditionPath):
    kind: Kind


class PlaceField(BaseModel):
    """A place of a recording or session."""

    recording: str
    at: TicksField


class WishField(BaseModel):
    """What is asked for: ``length`` of highlights, or of all that is left; ``count`` of clips; what has to be in it or not.

    Of what goes for a length, ``refused`` is what stays.
    """

    length: TicksField = 0
    count: Annotated[int, Field(ge=0, le=40)] = 0
    pinned: Annotated[list[PlaceField], Field(max_length=1000)] = []
    refused: Annotated[list[PlaceField], Field(max_length=5000)] = []


class HighlightOut(BaseModel):
    """Something proposed: from-to in laid time, and in the programme; ``place`` names it when it is pinned or refused."""

    place: PlaceField
    ranges: list[RangeField]
    begin: TicksField
    end: TicksField
    text: str
    voice: str | None
    why: str
    pinned: bool


class EasedRestsOut(BaseModel):
    """Rests that are eased to ``becomes``: what goes of them in laid time, and how much that is."""

    becomes: TicksField
    spared: TicksField
    ranges: list[RangeField]


class HighlightsOut(BaseModel):
    """What is proposed; for a length it is what goes, beside ``rests``."""

    wish: WishField
    rests: EasedRestsOut | None = None
    length: TicksField = Field(description="Of all of them together.")
    proposals: list[HighlightOut]


class ToldOut(BaseModel):
    """A sentence that was said, at a laid time."""

    text: str
    laid: TicksField
    voice: str | None


class TitleOut(BaseModel):
    tone: str
    title: str


class ReuseOut(BaseModel):
    """What is known of what is said; ``ready`` once proposals can be made, ``note`` says what they cannot do."""

    ready: bool
    note: str = ""
    sentences: int = 0
    summary: list[ToldOut] = []
    quotes: list[ToldOut] = []
    titles: list[TitleOut] = []
    keywords: list[str] = []
    names: list[str] = []
    links: list[str] = []
    about: Annotated[str, Field(description="How titles and the summary come about")] = ""


class SummaryQuery(BaseModel):
    """How many sentences the summary has, and how often another one, or other titles, were asked for."""

    count: Annotated[int, Field(ge=1, le=30)] = 3
    again: Annotated[int, Field(ge=0, le=200)] = 0
    other_titles: Annotated[int, Field(ge=0, le=200)] = 0


class ClipIn(BaseModel):
    """A stretch that becomes an edition of its own."""

    name: Name
    ranges: Annotated[list[RangeField], Field(min_length=1, max_length=1000)]


class MakeClips(LookedFor):
    """Clips of an edition, and the shape they get; with ``films`` each is exported at once, with captions burned in.

    ``dressed`` ones have their name as a title over their beginning, and the closing card.
    """

    shape: Literal["as recorded", "wide", "square", "upright", "tall"] = "upright"
    films: bool = False
    dressed: bool = False
    clips: Annotated[list[ClipIn], Field(min_length=1, max_length=40)]


class MadeOut(BaseModel):
    """The editions that were made."""

    editions: list[str]
