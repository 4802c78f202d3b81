"""What many requests and answers share."""

from __future__ import annotations

from typing import Annotated, Literal

from pydantic import BaseModel, Field, StringConstraints

Name = Annotated[str, StringConstraints(strip_whitespace=True, min_length=1, max_length=200)]


TicksField = Annotated[int, Field(ge=0, description="Ticks, 48,000 to the second")]


Mode = Literal["edited", "recorded"]


Form = Literal["wav", "mp3", "mp4", "srt", "vtt", "txt", "md"]


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
