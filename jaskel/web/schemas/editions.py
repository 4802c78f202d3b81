"""Editions: their words, the operations on them, and listening."""

from __future__ import annotations

from typing import Annotated, Literal

from pydantic import BaseModel, Field, StringConstraints

from jaskel.core.marks.splice import Shape
from jaskel.core.shape import PictureShape
from jaskel.web.schemas.cameras import AimOut, CameraOut, CoverOut, CoverWayOut, FaceOut
from jaskel.web.schemas.captions import CaptionRulesField, LooksOut
from jaskel.web.schemas.common import (
    LATEST,
    BoxField,
    Mode,
    Name,
    OneLine,
    RangeField,
    Ranges,
    Revision,
    TicksField,
)
from jaskel.web.schemas.cutaways import CutawayOut
from jaskel.web.schemas.graphics import CardOut, DressingOut, GraphicOut, OverlayOut
from jaskel.web.schemas.joins import JoinOut
from jaskel.web.schemas.pieces import PieceField
from jaskel.web.schemas.shots import ShotRulesField
from jaskel.web.schemas.sound import BedOut, ChainHereOut, LaidBedOut, LoudnessOut, ProcessorField, StretchOut
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


TargetKind = Literal["exactly", "at most", "about"]
Who = Annotated[str, StringConstraints(strip_whitespace=True, max_length=80), OneLine]


class LookedFor(BaseModel):
    """Who is looking: a name, or the window they are looking from. What can be undone depends on it."""

    who: Who = ""
    window: Who = ""


class RevisionIn(LookedFor):
    """``revision`` is what was seen when this was asked for."""

    revision: Revision


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
    """The level and place of a whole track, and what it goes through before the cut; whether that has been ``processed`` yet.

    ``called`` is the name of its chain, “own” where it is none that comes with Jaskel.
    """

    track: str
    decibels: float
    pan: float
    chain: list[ProcessorField]
    called: str
    processed: bool = True


class StepOut(BaseModel):
    """A step of the history, in words; ``number`` is its own, or of an undo or redo that of the step it is about."""

    number: int
    step: str
    summary: str
    who: str


class BreakOut(BaseModel):
    """A break for advertising: where the word after it is laid, where it begins in the programme, and how long it is."""

    id: str
    laid: TicksField
    at: TicksField
    length: TicksField


class LockOut(BaseModel):
    """A locked passage: from-to in laid time, who locked it, and whether that is whoever asks."""

    id: str
    ranges: list[list[int]]
    who: str
    mine: bool


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
    beds: list[BedOut]
    chains_here: list[ChainHereOut]
    bleeps: list[StretchOut]
    locks: list[LockOut]
    breaks: list[BreakOut]
    loudness: LoudnessOut
    captions: CaptionRulesField
    second_language: str
    own_rules: bool = Field(description="Whether captions keep to other rules than those of the show")
    looks: LooksOut
    shots: ShotRulesField
    graphics: list[GraphicOut]
    dressing: DressingOut
    cards: list[CardOut]
    cutaways: list[CutawayOut]
    joins: list[JoinOut]
    cameras: list[CameraOut]
    aims: list[AimOut]
    covers: list[CoverOut]
    faces: list[FaceOut]
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

    ``loose`` words have no tie to the sound; while words are said that are ``over``, another voice speaks. ``pickup`` is the
    recording of a line said again, whose ``t`` is a place of that.
    """

    k: Literal["w", "r", "s"]
    at: int
    len: int
    t: int
    text: str
    p: float
    loose: bool = False
    over: bool = False
    pickup: str = ""


class AsideOut(BaseModel):
    """Words under those of another voice, from-to in laid time."""

    at: int
    end: int
    voice: str | None
    text: str


class PassageOut(BaseModel):
    """Words and rests that stand together; ``recording`` is null where nothing recorded stands."""

    recording: str | None
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
    """From ``at`` to ``until`` of the programme plays what is laid from ``laid`` on; what is beside it is crossfade.

    ``handover`` is where it takes over from the span before.
    """

    handover: int
    at: int
    until: int
    laid: int


class CropOut(BaseModel):
    """The part of a camera's picture that is seen ``at`` ticks after a layer begins; between two of them it moves evenly."""

    at: int
    box: BoxField


class ViewOut(BaseModel):
    """A recording's picture in a ``box`` of the frame.

    ``place`` is where in the recording it begins, on its own clock, of which ``speed`` ticks pass with each of the programme: 0
    where the picture stands still.
    """

    recording: str
    place: int
    speed: float
    box: BoxField
    crops: list[CropOut]
    still: bool = Field(False, description="A single picture")
    colours: list[float] | None = Field(None, description="A matrix of colours, as SVG's feColorMatrix has it")
    corner: float = Field(0, description="How round its corners are, in per cent of the shorter side of its box")
    border: float = Field(0, description="How wide the line around it is, in the same")
    border_colour: str = ""
    blurred: bool = Field(False, description="It is only the ground for others, out of focus")
    turned: str | None = Field(None, description="Where short films with its eyes turned are, by {piece}")
    covers: list[CoverWayOut] = Field(default=[], description="What of the camera's picture must not be seen")


class LayerOut(BaseModel):
    """What is seen from ``begin`` to ``until`` of the programme: ``views``, later ones over earlier ones, or a card."""

    begin: int
    until: int
    views: list[ViewOut]
    card: str | None = Field(None, description="The key of the drawn card that is seen")
    text: str | None = Field(None, description="The words of a card between parts")
    ground: str | None = Field(None, description="The colour, or picture of the house style, that is seen beside views")
    stretch: str | None = Field(None, description="The key of a short film that is seen instead")


class PlanOut(BaseModel):
    """What plays and what is seen when.

    ``width`` and ``height`` say which shape the picture has. What is said begins where the first span does, which is later than
    0 where a bed begins before it.
    """

    revision: int
    length: TicksField
    width: int
    height: int
    spans: list[SpanOut]
    layers: list[LayerOut]
    overlays: list[OverlayOut]
    card: str = Field(description="Changes when the episode's card looks otherwise")
    beds: list[LaidBedOut]


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
