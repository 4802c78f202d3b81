"""Texts brought to recordings, and house spellings."""

from __future__ import annotations

from typing import Annotated, Literal

from pydantic import BaseModel, Field, StringConstraints

from jaskel.web.schemas.common import Name, OneLine, TicksField


class BesidesOut(BaseModel):
    text: str
    at: TicksField


class TextOut(BaseModel):
    """A text brought to a recording, as it was understood, and how it compared with the sound."""

    id: str
    recording: str
    name: str
    form: str
    words: int
    voices: list[str]
    timed: bool
    excerpt: str
    state: Literal["seen", "fitting", "taken", "guided", "failed"]
    trouble: str
    share: float | None
    changed: int | None
    unspoken: list[str]
    besides: list[BesidesOut]


Misheard = Annotated[str, StringConstraints(strip_whitespace=True, max_length=80), OneLine]


class NewSpelling(BaseModel):
    """A term as the show writes it, and what it is misheard as."""

    term: Annotated[str, StringConstraints(strip_whitespace=True, min_length=1, max_length=80), OneLine]
    heard: Annotated[
        list[Annotated[str, StringConstraints(strip_whitespace=True, max_length=80), OneLine]], Field(max_length=20)
    ] = []


class SpellingOut(BaseModel):
    id: str
    term: str
    heard: list[str]


class SpellingPath(BaseModel):
    spelling_id: str


class ProposalsOut(BaseModel):
    """House spellings that doubtful words might be meant for."""

    terms: list[str]


class TextPath(BaseModel):
    text_id: str


class TextQuery(BaseModel):
    name: Name


class TakeText(BaseModel):
    """``own_times``: keep the times of captions instead of fitting the words to the sound. ``guides``: let the text put right
    what is recognised instead of becoming the transcript itself.
    """

    own_times: bool = False
    guides: bool = False
