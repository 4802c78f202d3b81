"""Films of written texts."""

from __future__ import annotations

from typing import Annotated, Literal

from pydantic import BaseModel, Field, StringConstraints

from jaskel.web.schemas.common import Name, OneLine, SeveralLines, TicksField
from jaskel.web.schemas.editions import LookedFor

TextField = Annotated[str, StringConstraints(max_length=500_000), SeveralLines, Field(description="Markdown or plain text")]
SentenceField = Annotated[str, StringConstraints(strip_whitespace=True, min_length=1, max_length=2000), OneLine]

LONGEST_FILM = 3600 * 48_000


class ArticleQuery(BaseModel):
    """The name of the file that is sent."""

    name: Annotated[str, StringConstraints(max_length=300), OneLine] = "article"


class ArticleOut(BaseModel):
    """What a file says, as Markdown."""

    text: str


class TellIn(BaseModel):
    """A text to be told in ``length`` ticks; sentences that have to be in it, and that must not, by their numbers."""

    text: TextField
    length: Annotated[int, Field(ge=48_000, le=LONGEST_FILM)]
    pinned: Annotated[list[int], Field(max_length=5000)] = []
    refused: Annotated[list[int], Field(max_length=5000)] = []


class WrittenSentenceOut(BaseModel):
    """A sentence, how long it takes to read, the number of its paragraph, and whether it is proposed."""

    text: str
    length: TicksField
    paragraph: int
    chosen: bool


class TellOut(BaseModel):
    """All sentences of a text, and how long those that are proposed take."""

    sentences: list[WrittenSentenceOut]
    length: TicksField


class FilmIn(LookedFor):
    """Sentences of which a film is made; see :class:`jaskel.jobs.told.Told`."""

    name: Name
    sentences: Annotated[list[SentenceField], Field(min_length=1, max_length=500)]
    reader: Annotated[str, StringConstraints(max_length=40)] = "machine"
    shape: Literal["wide", "square", "upright", "tall"] = "wide"
    titles: bool = False
    pictures: bool = True
    music: Annotated[str, StringConstraints(max_length=40)] = ""
    length: Annotated[int, Field(ge=0, le=LONGEST_FILM)] = 0
