"""Editions: their words, the operations on them, and listening."""

from __future__ import annotations

from typing import Annotated, Literal

from pydantic import BaseModel, Field, StringConstraints, model_validator

from jaskel.core.levels import LOUDEST, MUTED
from jaskel.core.shape import PictureShape
from jaskel.core.splice import LONGEST_CROSSFADE, LONGEST_LEAD, Shape
from jaskel.web.schemas.common import LATEST, Mode, Name, OneLine, Revision, SeveralLines, TicksField
from jaskel.web.schemas.texts import NewSpelling


class BlockPath(BaseModel):
    edition_id: str
    key: str


class EditionBrief(BaseModel):
    id: str
    name: str
    revision: int
    length: TicksField
    shape: PictureShape


class PlaceQuery(BaseModel):
    recording: str
    at: TicksField


class PlaceOut(BaseModel):
    """Where in an edition a place of a recording lies, in laid time; null where the edition does not have it."""

    laid: int | None


class RangeField(BaseModel):
    """Laid time, from and to."""

    begin: TicksField
    end: TicksField


Ranges = Annotated[list[RangeField], Field(min_length=1, max_length=50_000)]
Shift = Annotated[int, Field(ge=-(2**31), le=2**31, description="Ticks, later where positive")]
Decibels = Annotated[float, Field(ge=MUTED, le=LOUDEST)]
TargetKind = Literal["exactly", "at most", "about"]
Who = Annotated[str, StringConstraints(strip_whitespace=True, max_length=80), OneLine]


class StrikeIn(BaseModel):
    """``settle``: let the splices that come about find their best place within what is struck."""

    kind: Literal["strike"]
    ranges: Ranges
    why: Annotated[str, StringConstraints(max_length=80), OneLine] = "by hand"
    settle: bool = False


class JudgedField(BaseModel):
    """A finding to be accepted, with the take that is to stay; the proposed one where nothing is said."""

    id: Annotated[str, StringConstraints(max_length=200)]
    pick: Annotated[int | None, Field(ge=0, le=10_000)] = None


class TidyIn(BaseModel):
    """Accept findings, all as one step."""

    kind: Literal["tidy"]
    findings: Annotated[list[JudgedField], Field(min_length=1, max_length=50_000)]


class PutBackIn(BaseModel):
    kind: Literal["put back"]
    ranges: Ranges


class RetypeIn(BaseModel):
    """Give the words in ranges another text: one for all, so that a word is replaced wherever it was misheard."""

    kind: Literal["retype"]
    ranges: Annotated[list[RangeField], Field(min_length=1, max_length=5_000)]
    text: Annotated[str, StringConstraints(strip_whitespace=True, max_length=20_000), SeveralLines]


class GiveVoiceIn(BaseModel):
    """Say whose words these are: an id, or the name of a voice that may be new. ``onward`` goes on to the end."""

    kind: Literal["give voice"]
    begin: TicksField
    end: TicksField
    voice: Annotated[str, StringConstraints(strip_whitespace=True, min_length=1, max_length=80), OneLine]
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


class LiftIn(BaseModel):
    """Take ranges out of sight; a mark stays."""

    kind: Literal["lift"]
    ranges: Ranges


class MoveIn(BaseModel):
    """Lay ranges at another place."""

    kind: Literal["move"]
    ranges: Ranges
    to: TicksField


class PieceField(BaseModel):
    """A stretch of a recording or session as it was copied."""

    recording: Annotated[str, StringConstraints(min_length=1, max_length=80), OneLine]
    start: TicksField
    end: TicksField
    kept: bool = True
    why: Annotated[str, StringConstraints(max_length=80), OneLine] = ""
    lifted: bool = False

    @model_validator(mode="after")
    def _possible(self) -> PieceField:
        if self.start >= self.end or (self.kept and self.lifted):
            raise ValueError("a piece begins before it ends, and what is lifted is not kept")
        return self


class InsertIn(BaseModel):
    """Lay what was copied, here or in another edition, at a place."""

    kind: Literal["insert"]
    at: TicksField
    pieces: Annotated[list[PieceField], Field(min_length=1, max_length=50_000)]


class RestIn(BaseModel):
    """Put in a rest, filled with the room tone of what stands there, or with digital silence. At most a minute."""

    kind: Literal["rest"]
    at: TicksField
    length: Annotated[int, Field(ge=480, le=60 * 48_000)]
    silent: bool = False


class CardIn(BaseModel):
    """Show the episode's card before the programme or after it, so long; 0 takes it off."""

    kind: Literal["card"]
    closing: bool
    length: Annotated[int, Field(ge=0, le=60 * 48_000)]


class TrimIn(BaseModel):
    """Shift the edges of the splice at a place: the end of what is before it, the beginning of what is after it."""

    kind: Literal["trim"]
    at: TicksField
    before: Shift = 0
    after: Shift = 0


class SlipIn(BaseModel):
    """Shift what is heard from a splice to the next one within its recording."""

    kind: Literal["slip"]
    at: TicksField
    by: Shift


class SpliceIn(BaseModel):
    """How the splice at a place is made; with nothing given, as it is by itself."""

    kind: Literal["splice"]
    at: TicksField
    crossfade: Annotated[int | None, Field(ge=0, le=LONGEST_CROSSFADE)] = None
    shape: Shape | None = None
    lead: Annotated[int | None, Field(ge=-LONGEST_LEAD, le=LONGEST_LEAD)] = None


class PartIn(BaseModel):
    """Part what is heard at a place, taking nothing out, so that its sides can be moved and trimmed."""

    kind: Literal["part"]
    at: TicksField


class AdjustIn(BaseModel):
    """Set the level of one track, or with null of all, in a range, in decibels to what was recorded; -120 is silence."""

    kind: Literal["adjust"]
    begin: TicksField
    end: TicksField
    track: str | None
    decibels: Decibels


class TrackLevelIn(BaseModel):
    """Set the level of a whole track."""

    kind: Literal["track level"]
    track: str
    decibels: Decibels


class EdgesIn(BaseModel):
    """Say where the word at a place begins and ends."""

    kind: Literal["edges"]
    at: TicksField
    begin: TicksField
    end: TicksField


class RestoreIn(BaseModel):
    """Be as at an earlier revision; what came after stays in the history."""

    kind: Literal["restore"]
    revision: Annotated[int, Field(ge=1, le=2**31)]


AnyOperation = (
    StrikeIn
    | TidyIn
    | PutBackIn
    | LiftIn
    | MoveIn
    | InsertIn
    | RestIn
    | CardIn
    | TrimIn
    | SlipIn
    | SpliceIn
    | PartIn
    | AdjustIn
    | TrackLevelIn
    | EdgesIn
    | RestoreIn
    | RetypeIn
    | GiveVoiceIn
    | AcceptIn
    | PassageIn
)


class OperationIn(BaseModel):
    """``revision`` is what the operation was made on; ``who`` is asking, as a name."""

    revision: Revision
    operation: Annotated[AnyOperation, Field(discriminator="kind")]
    who: Who = ""


class RevisionIn(BaseModel):
    revision: Revision
    who: Who = ""


class NewEdition(BaseModel):
    """An edition of an episode: empty, a copy of another, or of ranges of it."""

    name: Name
    copy_of: str | None = None
    ranges: Annotated[list[RangeField], Field(max_length=5_000)] = []


class EditionChange(BaseModel):
    """What is to change of an edition; what is left out stays. A target of 0 is none."""

    name: Name | None = None
    target: Annotated[int | None, Field(ge=0, le=LATEST)] = None
    target_kind: TargetKind | None = None
    shape: PictureShape | None = None


class CopyIn(BaseModel):
    ranges: Ranges


class CopyOut(BaseModel):
    """Pieces to be inserted elsewhere, and the text they say."""

    pieces: list[PieceField]
    text: str
    length: TicksField


class SpliceOut(BaseModel):
    """A splice: ``at`` is where its later side begins in laid time, ``lead`` by how much the sound comes before the picture."""

    at: TicksField
    programme: TicksField
    before: str
    end: int
    after: str
    start: int
    crossfade: TicksField
    shape: Shape
    lead: int
    by_hand: bool


class SpliceQuery(BaseModel):
    at: TicksField


class LevelOut(BaseModel):
    """A stretch of a track, from-to in ticks of the recording or session it is part of."""

    recording: str
    track: str
    start: int
    end: int
    decibels: float


class TrackLevelOut(BaseModel):
    track: str
    decibels: float


class StepOut(BaseModel):
    """A step of the history, in words; ``number`` is its own, or of an undo or redo that of the step it is about."""

    number: int
    step: str
    summary: str
    who: str


class HeadOut(BaseModel):
    """An edition without its words: what changes with every edit. ``layout`` names the page of words that goes with it.

    ``struck`` holds all that is taken out, ``lifted`` what of it is out of sight, ``muted`` words whose voice is muted through
    all of them, ``splices`` where their later sides begin.
    ``opening`` and ``closing`` are the lengths of its cards, 0 where it has none.
    """

    id: str
    name: str
    episode_id: str
    revision: int
    layout: str
    running_time: TicksField
    recorded_time: TicksField
    struck: list[list[int]]
    lifted: list[list[int]]
    muted: list[list[int]]
    splices: list[int]
    levels: list[LevelOut]
    tracks: list[TrackLevelOut]
    target: TicksField
    target_kind: TargetKind
    shape: PictureShape
    opening: TicksField
    closing: TicksField
    undo: StepOut | None
    redo: StepOut | None
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
    lead: int


class PlanOut(BaseModel):
    revision: int
    length: TicksField
    spans: list[SpanOut]


class ModeQuery(BaseModel):
    """``without`` asks how it would be with ranges of laid time struck, as ``begin-end,begin-end``."""

    mode: Mode = "edited"
    without: Annotated[str, StringConstraints(pattern=r"^(\d+-\d+(,\d+-\d+)*)?$", max_length=2000)] = ""


class BlocksQuery(ModeQuery):
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


class LogQuery(BaseModel):
    """Entries before a number, the newest first; without one, the newest of all. ``words`` asks for those that say so."""

    before: Revision | None = None
    words: Annotated[str, StringConstraints(strip_whitespace=True, max_length=200), OneLine] = ""


class LogOut(BaseModel):
    """A step of the history; ``name`` is that of the version it led to, where it has one."""

    number: int
    step: Literal["do", "undo", "redo", "base"]
    summary: str
    who: str
    at: str
    version: str | None
    name: str | None


class HistoryOut(BaseModel):
    entries: list[LogOut]
    more: bool


class NewVersion(BaseModel):
    name: Name
    revision: Annotated[int, Field(ge=1, le=2**31)]


class VersionPath(BaseModel):
    version_id: str


class CompareQuery(BaseModel):
    """Two states to be compared; a revision left out is the newest."""

    edition: str
    revision: Revision | None = None
    other: str
    other_revision: Revision | None = None


class DifferenceOut(BaseModel):
    """A stretch of a recording that only one of two states keeps, with what is said in it; ``at`` is its laid time there."""

    only_in: Literal["first", "second"]
    at: TicksField
    length: TicksField
    text: str


class ReadsOut(BaseModel):
    """Words of a recording that read otherwise in two states; where only their voice is another, both texts are the same."""

    recording: str
    at: TicksField
    before: str
    after: str


class ComparisonOut(BaseModel):
    first_length: TicksField
    second_length: TicksField
    shared: TicksField
    differences: list[DifferenceOut]
    retyped: list[ReadsOut]
