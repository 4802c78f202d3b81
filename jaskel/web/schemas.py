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


class SessionPath(BaseModel):
    session_id: str


class TrackPath(BaseModel):
    session_id: str
    recording_id: str


class VoicePath(BaseModel):
    voice_id: str


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


class ShowChange(BaseModel):
    """What is to change of a show; what is left out stays."""

    name: Name | None = None
    about: Annotated[str | None, StringConstraints(strip_whitespace=True, max_length=2000)] = None
    deleted: bool | None = None


class EpisodeChange(BaseModel):
    """What is to change of an episode; what is left out stays. What is deleted can be brought back."""

    title: Name | None = None
    folder: Annotated[str | None, StringConstraints(strip_whitespace=True, max_length=120)] = None
    archived: bool | None = None
    deleted: bool | None = None


class Duplicate(BaseModel):
    title: Name
    template: bool = False


class EpisodeBrief(BaseModel):
    id: str
    title: str
    folder: str
    archived: bool
    deleted: bool
    recordings: int
    length: TicksField
    state: Literal["empty", "gathered", "transcribing", "transcribed", "exported"]
    changed: str


class ShowOut(BaseModel):
    id: str
    name: str
    about: str
    deleted: bool
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
    placed: bool
    session: str | None
    language: str
    transcript: Literal["none", "waiting", "running", "done", "stopped", "failed"]
    transcript_trouble: str
    transcript_revision: int


class VoiceOut(BaseModel):
    """A voice of the show; ``shown`` is its name, or its number where it has none."""

    id: str
    name: str
    shown: str
    number: int


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
    state: Literal["seen", "fitting", "taken", "failed"]
    trouble: str
    share: float | None
    unspoken: list[str]
    besides: list[BesidesOut]


class NewSpelling(BaseModel):
    """A term as the show writes it, and what it is misheard as."""

    term: Annotated[str, StringConstraints(strip_whitespace=True, min_length=1, max_length=80)]
    heard: Annotated[list[Annotated[str, StringConstraints(strip_whitespace=True, max_length=80)]], Field(max_length=20)] = []


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
    """``own_times``: keep the times of captions instead of fitting the words to the sound."""

    own_times: bool = False


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
    sessions: list[SessionOut]
    voices: list[VoiceOut]
    texts: list[TextOut]
    spellings: list[SpellingOut]
    takes: list[TakeOut]
    editions: list[EditionBrief]
    jobs: list[JobOut]
    exports: list[ExportOut]


class SearchQuery(BaseModel):
    words: Annotated[str, StringConstraints(strip_whitespace=True, min_length=1, max_length=200)]
    show: str = ""


class SaidOut(BaseModel):
    """A place where words were found, ``at`` in ticks of the recording."""

    show: str
    episode_id: str
    episode: str
    recording_id: str
    at: TicksField
    before: str
    words: str
    after: str


class SearchOut(BaseModel):
    hits: list[SaidOut]


class PlaceQuery(BaseModel):
    recording: str
    at: TicksField


class PlaceOut(BaseModel):
    """Where in an edition a place of a recording lies, in laid time; null where the edition does not have it."""

    laid: int | None


class UploadQuery(BaseModel):
    """``placed`` is false for files that come together: what becomes of them is decided when all are there."""

    name: Name
    transcribe: bool = True
    placed: bool = True


class RecordingChange(BaseModel):
    """What is to change of a recording; what is left out stays. ``language`` is a code of ISO 639-1."""

    name: Name | None = None
    language: Annotated[str | None, StringConstraints(pattern=r"^[a-z]{2,3}$")] = None


class RemoveQuery(BaseModel):
    """``from_page`` says that its words may be taken off the pages that have them."""

    from_page: bool = False


class NewSession(BaseModel):
    recordings: Annotated[list[str], Field(min_length=1, max_length=32)]


class TrackChange(BaseModel):
    """What is to change of a track; what is left out stays."""

    offset: Annotated[int | None, Field(ge=-(2**40), le=2**40)] = None
    sounds: bool | None = None
    voice: Annotated[str | None, StringConstraints(strip_whitespace=True, max_length=80)] = None


class HearQuery(BaseModel):
    """A stretch of a session, at most twenty seconds."""

    at: TicksField
    length: Annotated[int, Field(gt=0, le=20 * 48_000)]


class VoiceChange(BaseModel):
    name: Annotated[str, StringConstraints(strip_whitespace=True, max_length=80)]


class NewTake(BaseModel):
    """A take to be recorded; without a name it gets a number."""

    name: Annotated[str, StringConstraints(strip_whitespace=True, max_length=200)] = ""


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


class MergeVoices(BaseModel):
    into: str


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


class RetypeIn(BaseModel):
    """Give the words in ranges another text: one for all, so that a word is replaced wherever it was misheard."""

    kind: Literal["retype"]
    ranges: Annotated[list[RangeField], Field(min_length=1, max_length=5_000)]
    text: Annotated[str, StringConstraints(strip_whitespace=True, max_length=20_000)]


class GiveVoiceIn(BaseModel):
    """Say whose words these are: an id, or the name of a voice that may be new. ``onward`` goes on to the end."""

    kind: Literal["give voice"]
    begin: TicksField
    end: TicksField
    voice: Annotated[str, StringConstraints(strip_whitespace=True, min_length=1, max_length=80)]
    onward: bool = False


class AcceptIn(BaseModel):
    """Say that unsure words are right as they are."""

    kind: Literal["accept"]
    begin: TicksField
    end: TicksField


class PassageIn(BaseModel):
    """Let a passage begin with the word at a place, or run on into the one before."""

    kind: Literal["passage"]
    at: TicksField
    begins: bool


class OperationIn(BaseModel):
    revision: int
    operation: Annotated[StrikeIn | PutBackIn | RetypeIn | GiveVoiceIn | AcceptIn | PassageIn, Field(discriminator="kind")]


class RevisionIn(BaseModel):
    revision: int


class StepOut(BaseModel):
    """The newest step of the history, in words."""

    step: str
    summary: str


class HeadOut(BaseModel):
    """An edition without its words: what changes with every edit. ``layout`` names the page of words that goes with it."""

    id: str
    name: str
    episode_id: str
    revision: int
    layout: str
    running_time: TicksField
    recorded_time: TicksField
    struck: list[list[int]]
    splices: list[int]
    undo: str | None
    redo: str | None
    newest: StepOut | None
    proposal: NewSpelling | None


class TokenOut(BaseModel):
    """A word (``w``), a rest (``r``) or sound without words (``s``): laid time, length, and place in the recording.

    ``loose`` words have no tie to the sound.
    """

    k: Literal["w", "r", "s"]
    at: int
    len: int
    t: int
    text: str
    p: float
    loose: bool = False


class AsideOut(BaseModel):
    """Words under those of another voice, from-to in laid time."""

    at: int
    end: int
    voice: str | None
    text: str


class PassageOut(BaseModel):
    recording: str
    voice: str | None
    at: TicksField
    tokens: list[TokenOut]
    asides: list[AsideOut]


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
