"""Recordings, takes and what a recording host offers."""

from __future__ import annotations

from typing import Annotated, Literal

from pydantic import BaseModel, Field, StringConstraints, model_validator

from jaskel.web.schemas.common import Name, OneLine, TicksField


class PictureOut(BaseModel):
    codec: str
    width: int
    height: int
    rate: float


Kind = Literal["speech", "music", "still", "video"]
"""What a person can say a recording is."""

AnyKind = Literal["speech", "music", "still", "video", "pickup"]


class SpokenFrom(BaseModel):
    at: TicksField
    language: str


class RecordingOut(BaseModel):
    """``borrowed`` is another episode's; ``gone``: its file is not in the vault any more, or was changed there."""

    id: str
    name: str
    kind: AnyKind
    state: Literal["preparing", "cut off", "ready", "cleared", "failed"]
    trouble: str
    size: int
    length: TicksField
    container: str
    sound_codec: str
    channels: int
    sample_rate: int
    picture: PictureOut | None
    working_copy: bool
    key_pictures: bool = Field(description="A few pictures can be seen, until the working copy is made.")
    placed: bool
    session: str | None
    borrowed: bool = False
    gone: bool = False
    language: str
    languages: list[SpokenFrom] = Field(description="Where which language is spoken, where there is more than one.")
    parted: bool = Field(description="Each of these stretches is heard in its own language.")
    care: Literal["quick", "careful"]
    transcript: Literal["none", "waiting", "running", "done", "stopped", "failed"]
    transcript_trouble: str
    transcript_revision: int


class UploadQuery(BaseModel):
    """``placed`` is false for files that come together: what becomes of them is decided when all are there."""

    name: Name
    transcribe: bool = True
    placed: bool = True


class RecordingChange(BaseModel):
    """What is to change of a recording; what is left out stays. ``language`` is a code of ISO 639-1, or ``auto``.

    Of another ``kind`` than speech, a recording is taken off the pages, which can be undone there.
    """

    name: Name | None = None
    language: Annotated[str | None, StringConstraints(pattern=r"^([a-z]{2,3}|auto)$")] = None
    kind: Kind | None = None
    parted: bool | None = Field(default=None, description="Whether each of its languages is heard for itself.")
    care: Literal["quick", "careful"] | None = Field(
        default=None, description="Which weights hear it: those that come with Jaskel, or the largest that were added."
    )


class TranscriptQuery(BaseModel):
    """Whether a transcript that is there is made again."""

    anew: bool = False


class WaveQuery(BaseModel):
    """A stretch of a recording, at most two minutes, and how many points to draw it with."""

    start: TicksField
    end: TicksField
    points: Annotated[int, Field(ge=1, le=4000)]

    @model_validator(mode="after")
    def _short(self) -> WaveQuery:
        if not 0 < self.end - self.start <= 120 * 48_000:
            raise ValueError("a stretch is between one tick and two minutes long")
        return self


class Substitution(BaseModel):
    """The recording that takes the place of another. With ``whole``, it need not be the same sound: cuts and words go."""

    by: str
    whole: bool = False


class RemoveQuery(BaseModel):
    """``from_page`` says that its words may be taken off the pages that have them."""

    from_page: bool = False


class NewTake(BaseModel):
    """A take to be recorded; without a name it gets a number."""

    name: Annotated[str, StringConstraints(strip_whitespace=True, max_length=200), OneLine] = ""


class UploadPath(BaseModel):
    upload_id: str


class TakePath(BaseModel):
    take_id: str


class ChunkPath(BaseModel):
    take_id: str
    number: Annotated[int, Field(ge=0)]


class TakeOut(BaseModel):
    """A take being recorded, or one that broke off; ``silent`` is how many seconds ago its last chunk came."""

    id: str
    name: str
    chunks: int
    size: int
    silent: float


class HostFile(BaseModel):
    id: str
    guest: str
    name: str
    size: int


class HostTake(BaseModel):
    id: str
    number: int
    files: list[HostFile]


class HostSession(BaseModel):
    """A finished session on a recording host: takes, and in each a file for every guest."""

    id: str
    title: str
    recorded: str
    takes: list[HostTake]


class HostOut(BaseModel):
    set: bool
    sessions: list[HostSession]


class FetchTake(BaseModel):
    take: str
    files: Annotated[list[str], Field(min_length=1, max_length=32)]


class TellApart(BaseModel):
    """How many voices there are; left out, as many as are found."""

    count: Annotated[int | None, Field(ge=1, le=6)] = None


class Reuse(BaseModel):
    recording_id: str
    transcribe: bool = True


SharedPath = Annotated[str, StringConstraints(max_length=1000)]


class SharedQuery(BaseModel):
    """A folder of the shared one, by its path; empty for that itself."""

    path: SharedPath = ""


class SharedEntryOut(BaseModel):
    path: str
    name: str
    size: int
    folder: bool


class SharedFolderOut(BaseModel):
    """What lies in a folder that a team shares; ``set`` is whether there is one."""

    set: bool
    entries: list[SharedEntryOut]


class SharedFile(BaseModel):
    path: Annotated[SharedPath, StringConstraints(min_length=1)]
