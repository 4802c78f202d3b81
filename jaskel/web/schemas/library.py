"""Shows, episodes and search."""

from __future__ import annotations

from typing import Annotated, Literal

from pydantic import BaseModel, Field, StringConstraints

from jaskel.core.marks.select import Colour
from jaskel.core.numbers import Style
from jaskel.core.roles import Right
from jaskel.web.schemas.common import Name, OneLine, SeveralLines, TicksField
from jaskel.web.schemas.editions import EditionBrief
from jaskel.web.schemas.notes import NoteOut, SelectOut
from jaskel.web.schemas.recordings import RecordingOut, TakeOut
from jaskel.web.schemas.reuse import ChapterOut
from jaskel.web.schemas.sessions import SessionOut, VoiceOut
from jaskel.web.schemas.texts import SpellingOut, TextOut
from jaskel.web.schemas.work import ExportOut, JobOut


class NewShow(BaseModel):
    name: Name
    about: Annotated[str, StringConstraints(strip_whitespace=True, max_length=2000), SeveralLines] = ""


class NewEpisode(BaseModel):
    title: Name


ColourName = Annotated[str, StringConstraints(strip_whitespace=True, max_length=40), OneLine]


class ShowChange(BaseModel):
    """What is to change of a show; what is left out stays."""

    name: Name | None = None
    about: Annotated[str, StringConstraints(strip_whitespace=True, max_length=2000), SeveralLines] | None = None
    deleted: bool | None = None
    numbers: Style | None = Field(default=None, description="How its transcripts write numbers.")
    colours: dict[Colour, ColourName] | None = Field(default=None, description="What the colours of selects stand for.")


class EpisodeChange(BaseModel):
    """What is to change of an episode; what is left out stays. What is deleted can be brought back."""

    title: Name | None = None
    folder: Annotated[str, StringConstraints(strip_whitespace=True, max_length=120), OneLine] | None = None
    archived: bool | None = None
    deleted: bool | None = None


class Duplicate(BaseModel):
    title: Name
    template: bool = False


class WaitingOut(BaseModel):
    """What is to be done in an episode, by how many recordings and texts it is about."""

    preparing: int = 0
    failed: int = 0
    to_transcribe: int = 0
    to_place: int = 0
    """Sessions of which nobody has said yet whether their recordings belong together."""


class EpisodeBrief(BaseModel):
    id: str
    title: str
    folder: str
    archived: bool
    deleted: bool
    recordings: int
    length: TicksField
    state: Literal["empty", "gathered", "transcribing", "transcribed", "exported"]
    waiting: WaitingOut
    changed: str
    who: str = Field(description="Who worked on it last, where a window has said so.")


class ShowOut(BaseModel):
    id: str
    name: str
    about: str
    deleted: bool
    may: list[Right] = Field(description="What whoever asks may do with it")
    episodes: list[EpisodeBrief]


class ShowsOut(BaseModel):
    shows: list[ShowOut]


class PersonOut(BaseModel):
    """Somebody with an account."""

    id: str
    name: str


class EpisodeOut(BaseModel):
    id: str
    title: str
    show_id: str
    show: str
    folder: str
    homes: dict[str, str] = Field(description="The episodes that recordings and sessions of others belong to")
    recordings: list[RecordingOut]
    sessions: list[SessionOut]
    voices: list[VoiceOut]
    texts: list[TextOut]
    spellings: list[SpellingOut]
    numbers: Style = Field(description="How the show's transcripts write numbers.")
    notes: list[NoteOut]
    selects: list[SelectOut]
    colours: dict[Colour, str] = Field(description="What the colours of selects stand for, where the show says so.")
    chapters: list[ChapterOut]
    takes: list[TakeOut]
    editions: list[EditionBrief]
    jobs: list[JobOut]
    exports: list[ExportOut]
    may: list[Right] = Field(description="What whoever asks may do with it")
    people: list[PersonOut] = Field(description="Whom notes can be given to")


class SearchQuery(BaseModel):
    words: Annotated[str, StringConstraints(strip_whitespace=True, min_length=1, max_length=200), OneLine]
    show: str = ""
    whole: bool = False
    voice: str = ""


class SaidOut(BaseModel):
    """A place where words were found, ``at`` to ``end`` in ticks of the recording."""

    show: str
    episode_id: str
    episode: str
    recording_id: str
    at: TicksField
    end: TicksField
    before: str
    words: str
    after: str


class SearchOut(BaseModel):
    hits: list[SaidOut]


class MeaningQuery(BaseModel):
    """What is looked for, in other words; in all shows or in one."""

    words: Annotated[str, StringConstraints(strip_whitespace=True, min_length=1, max_length=500), OneLine]
    show: str = ""


class MeantOut(BaseModel):
    """Places that mean something like it, the nearest first, and how many recordings are not indexed yet."""

    hits: list[SaidOut]
    waiting: int


class IndexOut(BaseModel):
    """How many recordings are not indexed yet."""

    waiting: int


class HitField(BaseModel):
    """A place that was found, as :class:`SaidOut` has it."""

    recording_id: str
    at: TicksField
    end: TicksField
    words: str


class RetypeHits(BaseModel):
    """Retype words at places that a search found."""

    hits: Annotated[list[HitField], Field(min_length=1, max_length=2_000)]
    text: Annotated[str, StringConstraints(strip_whitespace=True, min_length=1, max_length=2_000), OneLine]


class RetypedOut(BaseModel):
    """How many places were retyped, in how many episodes; ``missed`` had changed meanwhile."""

    places: int
    episodes: int
    missed: int
