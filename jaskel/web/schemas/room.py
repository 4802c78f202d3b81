"""Room on the disk, in bytes."""

from __future__ import annotations

from pydantic import BaseModel, Field


class EpisodeRoomOut(BaseModel):
    episode: str
    title: str
    show: str
    deleted: bool
    cleared: bool = Field(description="Something of it was cleared; it is made again when the episode is opened.")
    originals: int
    made: int = Field(description="What was made from the originals: decoded sound, light copies, and the like")
    clearable: int = Field(
        description="How much of that can be cleared now; the rest is small, or not made from a whole original"
    )
    exports: int


class RoomOut(BaseModel):
    free: int
    episodes: list[EpisodeRoomOut]


class ClearedOut(BaseModel):
    bytes: int
