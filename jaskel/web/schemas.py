"""What goes over the wire. The OpenAPI description, and from it the types of the page, are generated from these."""

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


class JobPath(BaseModel):
    job_id: str


class ExportPath(BaseModel):
    export_id: str


class BlockPath(BaseModel):
    edition_id: str
    key: str


class NewShow(BaseModel):
    name: Name
    about: str = ""


class NewEpisode(BaseModel):
    title: Name


class EpisodeBrief(BaseModel):
    id: str
    title: str
    recordings: int
    length: TicksField
    transcribed: bool
    changed: str


class ShowOut(BaseModel):
    id: str
    name: str
    about: str
    episodes: list[EpisodeBrief]


class ShowsOut(BaseModel):
    shows: list[ShowOut]


class PictureOut(BaseModel):
    codec: str
    width: int
    height: int
    rate: float


class RecordingOut(BaseModel):
    id: str
    name: str
    state: Literal["preparing", "cut off", "ready", "failed"]
    trouble: str
    size: int
    length: TicksField
    container: str
    sound_codec: str
    channels: int
    sample_rate: int
    picture: PictureOut | None
    working_copy: bool
    transcript: Literal["none", "waiting", "running", "done", "stopped", "failed"]
    transcript_trouble: str
    transcript_revision: int


class EditionBrief(BaseModel):
    id: str
    name: str
    revision: int


class JobOut(BaseModel):
    id: str
    kind: str
    subject: str
    state: Literal["queued", "running", "done", "failed", "cancelled"]
    done: int
    total: int
    trouble: str
    form: str = ""


class ExportOut(BaseModel):
    id: str
    edition_id: str
    form: Form
    file_name: str
    size: int
    length: TicksField
    revision: int
    created: str


class EpisodeOut(BaseModel):
    id: str
    title: str
    show_id: str
    show: str
    recordings: list[RecordingOut]
    editions: list[EditionBrief]
    jobs: list[JobOut]
    exports: list[ExportOut]


class UploadQuery(BaseModel):
    name: Name
    transcribe: bool = True


class Reuse(BaseModel):
    recording_id: str
    transcribe: bool = True


class RangeField(BaseModel):
    """Laid time, from and to."""

    begin: TicksField
    end: TicksField


class StrikeIn(BaseModel):
    kind: Literal["strike"]
    ranges: Annotated[list[RangeField], Field(min_length=1, max_length=50_000)]
    why: Annotated[str, StringConstraints(max_length=80)] = "by hand"


class PutBackIn(BaseModel):
    kind: Literal["put back"]
    ranges: Annotated[list[RangeField], Field(min_length=1, max_length=50_000)]


class OperationIn(BaseModel):
    revision: int
    operation: Annotated[StrikeIn | PutBackIn, Field(discriminator="kind")]


class RevisionIn(BaseModel):
    revision: int


class StepOut(BaseModel):
    """The newest step of the history, in words."""

    step: str
    summary: str


class HeadOut(BaseModel):
    """An edition without its words: what changes with every edit."""

    id: str
    name: str
    episode_id: str
    revision: int
    running_time: TicksField
    recorded_time: TicksField
    struck: list[list[int]]
    splices: list[int]
    undo: str | None
    redo: str | None
    newest: StepOut | None


class TokenOut(BaseModel):
    """A word (``w``), a rest (``r``) or sound without words (``s``): laid time, length, and place in the recording."""

    k: Literal["w", "r", "s"]
    at: int
    len: int
    t: int
    text: str
    p: float


class PassageOut(BaseModel):
    recording: str
    voice: str | None
    at: TicksField
    tokens: list[TokenOut]


class PageOut(BaseModel):
    """The words of an edition; ``layout`` changes when they do, and not when words are struck or put back."""

    layout: str
    words: int
    unsure: int
    length: TicksField
    passages: list[PassageOut]


class SpanOut(BaseModel):
    recording: str
    start: int
    end: int
    at: int
    laid: int
    fade_in: int
    fade_out: int


class PlanOut(BaseModel):
    revision: int
    length: TicksField
    spans: list[SpanOut]


class ModeQuery(BaseModel):
    mode: Mode = "edited"


class BlocksQuery(BaseModel):
    mode: Mode = "edited"
    at: TicksField = 0


class BlockOut(BaseModel):
    at: int
    until: int
    key: str


class BlocksOut(BaseModel):
    """The next blocks to listen to; ``length`` is the programme's."""

    revision: int
    length: TicksField
    blocks: list[BlockOut]


class NewExport(BaseModel):
    form: Form


class NoticesQuery(BaseModel):
    episode: str = ""
