"""What is written of an edition: its article, a summary, notes."""

from __future__ import annotations

from typing import Annotated, Literal

from pydantic import BaseModel, Field, StringConstraints

from jaskel.web.schemas.common import EditionPath, SeveralLines

LONGEST = 1_000_000

Writing = Literal["article", "summary", "notes"]


class WrittenPath(EditionPath):
    kind: Writing


class MannerQuery(BaseModel):
    """How an article names who speaks."""

    manner: Literal["names", "running"] = "names"


class WrittenOut(BaseModel):
    """A text in Markdown, the same as HTML, and whether somebody edited it."""

    text: str
    html: str
    edited: bool


class WrittenIn(BaseModel):
    """A text to be kept; an empty one brings back what is proposed."""

    text: Annotated[str, StringConstraints(max_length=LONGEST), SeveralLines] = Field(description="Markdown")
