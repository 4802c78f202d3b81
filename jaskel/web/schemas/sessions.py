"""Sessions, their tracks, and voices."""

from __future__ import annotations

from typing import Annotated, Literal

from pydantic import BaseModel, Field, StringConstraints

from jaskel.web.schemas.common import OneLine, TicksField


class SessionPath(BaseModel):
    session_id: str


class TrackPath(BaseModel):
    session_id: str
    recording_id: str


class VoicePath(BaseModel):
    voice_id: str


class VoiceOut(BaseModel):
    """A voice of the show; ``shown`` is its name, or its number where it has none. ``like`` is the named one it sounds like."""

    id: str
    name: str
    shown: str
    number: int
    role: str = Field("", description="What stands below the name in a lower third")
    like: str | None = None


class TrackOut(BaseModel):
    """A recording in a session. ``sure`` is 0 where its sound told nothing and -1 where a person set its place."""

    recording: str
    name: str
    offset: int
    drift: float
    sure: float
    sounds: bool
    voice: str | None
    length: TicksField


class SessionOut(BaseModel):
    id: str
    name: str
    state: Literal["syncing", "proposed", "joined"]
    length: TicksField
    revision: int
    tracks: list[TrackOut]


class NewSession(BaseModel):
    recordings: Annotated[list[str], Field(min_length=1, max_length=32)]


class TrackChange(BaseModel):
    """What is to change of a track; what is left out stays."""

    offset: Annotated[int | None, Field(ge=-(2**40), le=2**40)] = None
    sounds: bool | None = None
    voice: Annotated[str, StringConstraints(strip_whitespace=True, max_length=80), OneLine] | None = None


class HearQuery(BaseModel):
    """A stretch of a session, at most twenty seconds."""

    at: TicksField
    length: Annotated[int, Field(gt=0, le=20 * 48_000)]


class VoiceChange(BaseModel):
    """What is to change of a voice; what is left out stays."""

    name: Annotated[str, StringConstraints(strip_whitespace=True, max_length=80), OneLine] | None = None
    role: Annotated[str, StringConstraints(strip_whitespace=True, max_length=80), OneLine] | None = None


class MergeVoices(BaseModel):
    into: str
