"""Captions and their rules as they go over the wire."""

from __future__ import annotations

from dataclasses import asdict
from typing import Annotated, Literal

from pydantic import BaseModel, Field, field_validator, model_validator

from jaskel.core.captions.check import Fault
from jaskel.core.captions.look import USUAL_LOOK, Across, Box, Case, Down, Easing, Look, Move
from jaskel.core.captions.rules import USUAL, Named, Names, Rules
from jaskel.core.timebase import RATE
from jaskel.web.schemas.common import Name, TicksField

Colour = Annotated[str, Field(pattern=r"^#[0-9a-f]{6}([0-9a-f]{2})?$")]


class CaptionRulesField(BaseModel):
    """What captions keep to (:class:`jaskel.core.captions.rules.Rules`). Times are ticks, ``rate`` is characters a second."""

    characters: Annotated[int, Field(ge=10, le=100)] = USUAL.characters
    lines: Annotated[int, Field(ge=1, le=3)] = USUAL.lines
    shortest: Annotated[int, Field(ge=RATE // 10, le=20 * RATE)] = USUAL.shortest
    longest: Annotated[int, Field(ge=RATE // 2, le=60 * RATE)] = USUAL.longest
    rate: Annotated[float, Field(ge=5, le=60)] = USUAL.rate
    gap: Annotated[int, Field(ge=0, le=2 * RATE)] = USUAL.gap
    late: Annotated[int, Field(ge=0, le=RATE)] = USUAL.late
    hold: bool = USUAL.hold
    names: Names = USUAL.names
    named: Named = USUAL.named
    sounds: bool = USUAL.sounds

    @model_validator(mode="after")
    def _in_order(self) -> CaptionRulesField:
        if self.shortest > self.longest:
            raise ValueError("the shortest time is not longer than the longest")
        return self

    @property
    def rules(self) -> Rules:
        return Rules(**{name: getattr(self, name) for name in CaptionRulesField.model_fields})


def rules_field(rules: Rules) -> CaptionRulesField:
    """Rules as they go over the wire."""
    return CaptionRulesField(**asdict(rules))


class LookField(BaseModel):
    """How captions are drawn (:class:`jaskel.core.captions.look.Look`). Sizes are per cent."""

    name: Name = USUAL_LOOK.name
    font: Annotated[str, Field(max_length=100)] = USUAL_LOOK.font
    weight: Annotated[int, Field(ge=100, le=900)] = USUAL_LOOK.weight
    size: Annotated[float, Field(ge=1, le=25)] = USUAL_LOOK.size
    colour: Colour = USUAL_LOOK.colour
    accent: Colour = USUAL_LOOK.accent
    outline: Annotated[float, Field(ge=0, le=30)] = USUAL_LOOK.outline
    outline_colour: Colour = USUAL_LOOK.outline_colour
    shadow: Annotated[float, Field(ge=0, le=40)] = USUAL_LOOK.shadow
    shadow_colour: Colour = USUAL_LOOK.shadow_colour
    box: Box = USUAL_LOOK.box
    box_colour: Colour = USUAL_LOOK.box_colour
    rounding: Annotated[float, Field(ge=0, le=100)] = USUAL_LOOK.rounding
    case: Case = USUAL_LOOK.case
    across: Across = USUAL_LOOK.across
    down: Down = USUAL_LOOK.down
    x: Annotated[float, Field(ge=-100, le=100)] = 0.0
    y: Annotated[float, Field(ge=-100, le=100)] = 0.0
    lines: Annotated[int, Field(ge=0, le=3)] = 0
    characters: Annotated[int, Field(ge=0, le=100)] = 0
    move: Move = USUAL_LOOK.move
    easing: Easing = USUAL_LOOK.easing

    @field_validator("characters")
    @classmethod
    def _enough(cls, value: int) -> int:
        if 0 < value < 10:
            raise ValueError("a line has 10 to 100 characters, or 0 for as many as the rules have")
        return value

    @property
    def look(self) -> Look:
        return Look(**{name: getattr(self, name) for name in LookField.model_fields})


def look_field(look: Look) -> LookField:
    """A look as it goes over the wire."""
    return LookField(**asdict(look))


class VoiceLookOut(BaseModel):
    voice: str
    look: LookField


class LooksOut(BaseModel):
    """The looks of an edition's captions: of all, of single voices, and whether single words have their own."""

    all: LookField
    own: bool = Field(description="Whether the look of all is the edition's own, not that of its show")
    voices: list[VoiceLookOut]
    single: int


class ScreensQuery(BaseModel):
    at: TicksField = 0


class MomentOut(BaseModel):
    """From a place of the programme on a screen is seen at a place of the picture; without a key none is."""

    at: TicksField
    key: str | None
    x: int = 0
    y: int = 0
    width: int = 0
    height: int = 0


class ScreensOut(BaseModel):
    """What is drawn of captions from one place of the programme to another, on a picture of a size."""

    begin: TicksField
    until: TicksField
    width: int
    height: int
    moments: list[MomentOut]


class ScreenPath(BaseModel):
    edition_id: str
    key: str


class LookPath(BaseModel):
    show_id: str
    name: Name


class FontPath(BaseModel):
    show_id: str
    digest: Annotated[str, Field(pattern=r"^[0-9a-f]{64}$")]


class FontQuery(BaseModel):
    name: Name


class SampleQuery(BaseModel):
    """A look as JSON, and the size of the picture in pixels."""

    look: Annotated[str, Field(max_length=2000)]
    width: Annotated[int, Field(ge=80, le=1280)] = 320
    height: Annotated[int, Field(ge=80, le=1280)] = 180


class FontOut(BaseModel):
    """A family captions can be set in: what a look calls it, its name, and whether it is the show's own."""

    key: str
    name: str
    own: bool


class ShowCaptionsOut(BaseModel):
    """What a show keeps of captions, and what comes with Jaskel."""

    rules: CaptionRulesField
    look: LookField
    shipped: list[LookField]
    looks: list[LookField]
    fonts: list[FontOut]
    names: str
    language: str


class ShowCaptionsIn(BaseModel):
    """The rules or the look that the editions of a show have that have none of their own."""

    rules: CaptionRulesField | None = None
    look: LookField | None = None
    names: Annotated[str, Field(min_length=1, max_length=120)] | None = Field(
        default=None, description="How caption files are called, with {show}, {episode}, {edition}, {language} and {step}"
    )
    language: Annotated[str, Field(pattern=r"^([A-Za-z]{2,3}([-_][A-Za-z0-9]{2,8}){0,3})?$")] | None = None


class SecondUnit(BaseModel):
    """A sentence or caption of a second language; from-to of the programme where it has times."""

    text: Annotated[str, Field(min_length=1, max_length=2000)]
    start: Annotated[int, Field(ge=0)] | None = None
    end: Annotated[int, Field(ge=0)] | None = None


class SecondOut(BaseModel):
    """A text in a second language as it was understood."""

    units: list[SecondUnit]
    timed: bool


class CaptionFileQuery(BaseModel):
    name: Name


class BroughtCueField(BaseModel):
    """A caption of a file: from-to of the programme, and its lines."""

    start: Annotated[int, Field(ge=0)]
    end: Annotated[int, Field(ge=0)]
    lines: Annotated[list[Annotated[str, Field(max_length=2000)]], Field(min_length=1, max_length=20)]


class CaptionDifferenceOut(BaseModel):
    """Something that differs at a place of the programme, and where that is in laid time."""

    kind: Literal["wording", "break", "time", "not said", "missing"]
    at: TicksField
    laid: TicksField
    theirs: str
    ours: str


class CaptionsComparedOut(BaseModel):
    """How the captions of a file stand to those of the edition: in words, and each difference; the first thousand of them."""

    told: list[str]
    alike: float
    cues: list[BroughtCueField]
    differences: list[CaptionDifferenceOut]
    count: int


class NewCaptionFiles(BaseModel):
    """What caption files are asked for with, as far as it changes what they hold."""

    rate: Literal["23.976", "24", "25", "29.97 drop", "29.97", "30", "50", "59.94"] = "25"
    placed: bool = False


class LostOut(BaseModel):
    """What forms of caption files cannot hold of the captions as they are, by the keys of the forms."""

    lost: dict[str, list[str]]


class FaultOut(BaseModel):
    """What is wrong with a caption, in words."""

    fault: Fault
    told: str


class CueOut(BaseModel):
    """A caption: from-to of the programme and in laid time, its lines, whose words they are, and what is wrong with it."""

    start: TicksField
    end: TicksField
    begin: TicksField
    until: TicksField
    lines: list[str]
    breaks: list[TicksField] = Field(description="Laid time of the first word of each line but the first")
    voice: str | None
    rate: float
    second: list[str] = Field(description="Its lines in the second language")
    said: str | None = Field(description="What is said, where the caption reads otherwise")
    faults: list[FaultOut]


class CuesOut(BaseModel):
    """The captions of an edition."""

    cues: list[CueOut]
