"""What many requests and answers share."""

from __future__ import annotations

import unicodedata
from typing import Annotated, Any, Literal

from pydantic import BaseModel, BeforeValidator, Field, StringConstraints


def _line(text: Any) -> Any:
    """A text on one line: line ends and whatever else steers instead of being read becomes a space."""
    if not isinstance(text, str):
        return text
    return "".join(" " if unicodedata.category(c) in ("Cc", "Zl", "Zp", "Cs") else c for c in text)


def _lines(text: Any) -> Any:
    """A text of several lines, without what is not to be read."""
    if not isinstance(text, str):
        return text
    return "".join(c for c in text if c in "\n\t" or unicodedata.category(c) not in ("Cc", "Cs"))


OneLine, SeveralLines = BeforeValidator(_line), BeforeValidator(_lines)

Name = Annotated[str, StringConstraints(strip_whitespace=True, min_length=1, max_length=200), OneLine]

LATEST = 2**53
"""Six thousand years in ticks, and the last whole number that every program can hold."""

TicksField = Annotated[int, Field(ge=0, le=LATEST, description="Ticks, 48,000 to the second")]


class RangeField(BaseModel):
    """Laid time, from and to."""

    begin: TicksField
    end: TicksField


Ranges = Annotated[list[RangeField], Field(min_length=1, max_length=50_000)]
Shift = Annotated[int, Field(ge=-(2**31), le=2**31, description="Ticks, later where positive")]

BoxField = Annotated[list[float], Field(min_length=4, max_length=4)]
"""A rectangle in a picture: left, top, width and height, in shares of its sides."""

FramingField = Annotated[str, StringConstraints(min_length=1, max_length=200)]
"""The name of a framing: one that comes with Jaskel, or one of the show."""

Revision = Annotated[int, Field(ge=0, le=2**31)]


Mode = Literal["edited", "recorded"]


class ProblemOut(BaseModel):
    """Problem details, RFC 9457. ``detail`` is a sentence for people; ``code`` is stable, for programs."""

    type: str = "about:blank"
    title: str
    status: int
    detail: str
    code: str
    facts: dict[str, object] = Field(default_factory=dict)


class ShowPath(BaseModel):
    show_id: str


class EpisodePath(BaseModel):
    episode_id: str


class RecordingPath(BaseModel):
    recording_id: str


class EditionPath(BaseModel):
    edition_id: str
