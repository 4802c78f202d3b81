"""Publishing episodes: what goes into the feed of a show."""

from __future__ import annotations

from typing import Annotated, Literal

from pydantic import BaseModel, Field, StringConstraints

from jaskel.web.schemas.common import TicksField

LANGUAGE = r"^([A-Za-z]{2,3}(-[A-Za-z0-9]{2,8}){0,3})?$"
"""A code of BCP 47, or nothing."""


class PersonField(BaseModel):
    name: Annotated[str, StringConstraints(strip_whitespace=True, min_length=1, max_length=128)]
    role: Literal["host", "guest"] = "guest"


class NewPublication(BaseModel):
    """``export`` names the files by the job that made them; a season or number of 0 is none."""

    export: str
    title: Annotated[str, StringConstraints(strip_whitespace=True, min_length=1, max_length=200)]
    summary: Annotated[str, Field(max_length=4000)] = ""
    season: Annotated[int, Field(ge=0, le=9999)] = 0
    number: Annotated[int, Field(ge=0, le=99_999)] = 0
    persons: Annotated[list[PersonField], Field(max_length=40)] = []


class PublishedOut(BaseModel):
    """An episode as players find it."""

    id: str
    episode_id: str
    title: str
    summary: str
    season: int
    number: int
    length: TicksField
    created: str
    files: list[str] = Field(description="Addresses, the sound or film first")
    persons: list[PersonField]


class FeedFields(BaseModel):
    """What the feed of a show says of it; ``site`` is an address of its own, if it has one."""

    author: Annotated[str, StringConstraints(strip_whitespace=True, max_length=128)] = ""
    site: Annotated[str, StringConstraints(strip_whitespace=True, max_length=500, pattern=r"^(https?://\S+)?$")] = ""
    language: Annotated[
        str, StringConstraints(strip_whitespace=True, pattern=r"^([A-Za-z]{2,3}(-[A-Za-z0-9]{2,8}){0,3})?$")
    ] = ""


class FeedOut(BaseModel):
    """``address`` is where the feed is; empty where no host is set. ``next`` is the number that would come next."""

    address: str
    host: str
    fields: FeedFields
    next: int
    published: list[PublishedOut]
    persons: list[PersonField] = Field(description="Who speaks in the episode that was asked for")


class FeedQuery(BaseModel):
    episode: str = ""
