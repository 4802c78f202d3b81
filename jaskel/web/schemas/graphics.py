"""What is drawn over the picture, and the house style it is drawn in, as they go over the wire."""

from __future__ import annotations

from typing import Annotated, Literal

from pydantic import BaseModel, Field, StringConstraints

from jaskel.core.marks.graphic import LONGEST
from jaskel.core.picture.card import LONGEST as LONGEST_ON_CARD
from jaskel.core.picture.card import WhichCard
from jaskel.core.picture.framing import DARK, Box, Fixture, FixtureKind, OwnFraming
from jaskel.core.picture.graphic import TitlePlace
from jaskel.core.picture.style import BarPlace, Corner, Entrance, PulseForm, Side, StrapForm, Style
from jaskel.core.problem import Problem
from jaskel.web.schemas.common import BoxField, Name, OneLine, SeveralLines, TicksField

USUAL = Style()

ColourField = Annotated[str, StringConstraints(pattern="^#[0-9a-f]{6}$")]
FontField = Annotated[str, StringConstraints(max_length=100)]
NameField = Annotated[str, StringConstraints(strip_whitespace=True, max_length=80), OneLine]
TitleField = Annotated[str, StringConstraints(strip_whitespace=True, min_length=1, max_length=LONGEST), SeveralLines]


class FixtureField(BaseModel):
    """The episode's card, the show's logo or the moving drawing of the voice in a place of a framing."""

    kind: FixtureKind
    box: BoxField


class OwnFramingField(BaseModel):
    """A framing that a show has made, drawn in a picture of a ``ratio`` of width to height."""

    name: Name
    slots: Annotated[list[BoxField], Field(min_length=1, max_length=9)]
    ratio: Annotated[float, Field(ge=0.2, le=5)] = 16 / 9
    corner: Annotated[float, Field(ge=0, le=50)] = 0
    border: Annotated[float, Field(ge=0, le=20)] = 0
    border_colour: ColourField = "#fcfbf7"
    ground: Annotated[str, StringConstraints(pattern="^(#[0-9a-f]{6}|blurred|picture:[0-9a-f]{64})$")] = DARK
    names: bool = False
    line: Annotated[str, StringConstraints(strip_whitespace=True, max_length=120), OneLine] = ""
    fixtures: Annotated[list[FixtureField], Field(max_length=3)] = []

    @property
    def framing(self) -> OwnFraming:
        """The framing it says.

        Raises
        ------
        Problem
            ``no-framing``.
        """
        fields = {name: getattr(self, name) for name in OwnFramingField.model_fields if name not in ("slots", "fixtures")}
        fixtures = tuple(Fixture(each.kind, Box(*each.box)) for each in self.fixtures)
        try:
            return OwnFraming(slots=tuple(Box(*slot) for slot in self.slots), fixtures=fixtures, **fields)
        except ValueError as error:
            raise Problem("no-framing", f"This framing cannot be kept: {error}.") from error


def framing_field(framing: OwnFraming) -> OwnFramingField:
    fields = {name: getattr(framing, name) for name in OwnFramingField.model_fields if name not in ("slots", "fixtures")}
    fixtures = [FixtureField(kind=each.kind, box=[*each.box]) for each in framing.fixtures]
    return OwnFramingField(slots=[[*slot] for slot in framing.slots], fixtures=fixtures, **fields)


class StyleField(BaseModel):
    """How the pictures of a show look; what is left out is as usual. Sizes are in per cent of the picture's shorter side."""

    paper: ColourField = USUAL.paper
    ink: ColourField = USUAL.ink
    accent: ColourField = USUAL.accent
    heading: FontField = USUAL.heading
    text: FontField = USUAL.text
    corner: Corner = USUAL.corner
    logo_size: Annotated[float, Field(ge=3, le=40)] = USUAL.logo_size
    watermark: bool = Field(USUAL.watermark, description="Whether the logo is seen over every picture")
    strap: StrapForm = USUAL.strap
    side: Side = USUAL.side
    enter: Entrance = USUAL.enter
    bar: BarPlace = USUAL.bar
    pulse: PulseForm = USUAL.pulse
    framings: Annotated[list[OwnFramingField], Field(max_length=40)] = []

    def style(self, logo: str) -> Style:
        """The style it says, with a logo."""
        fields = {name: getattr(self, name) for name in StyleField.model_fields if name != "framings"}
        return Style(logo=logo, framings=tuple(each.framing for each in self.framings), **fields)


class StyleOut(StyleField):
    """The house style, and the address of its logo where it has one."""

    logo: str | None = None


def style_out(style: Style, show_id: str) -> StyleOut:
    fields = {name: getattr(style, name) for name in StyleField.model_fields if name != "framings"}
    framings = [framing_field(each) for each in style.framings]
    return StyleOut(**fields, framings=framings, logo=f"/api/shows/{show_id}/logo/{style.logo}" if style.logo else None)


class CardLookField(BaseModel):
    """How a card looks: other words than the episode's title, a colour or a picture behind them, with the logo or without."""

    text: Annotated[str, StringConstraints(strip_whitespace=True, max_length=LONGEST_ON_CARD), SeveralLines] = ""
    colour: Annotated[str, StringConstraints(pattern="^(#[0-9a-f]{6})?$")] = ""
    picture: Annotated[str, StringConstraints(pattern="^([0-9a-f]{64})?$")] = ""
    logo: bool = True


class CardOut(CardLookField):
    """A card of an edition that looks otherwise than the house style has it."""

    which: WhichCard


class HousePictureOut(BaseModel):
    """A picture of the house style, by its digest."""

    digest: str


class HousePicturePath(BaseModel):
    digest: Annotated[str, StringConstraints(pattern="^[0-9a-f]{64}$")]


class LogoQuery(BaseModel):
    name: Name


class LogoPath(BaseModel):
    show_id: str
    digest: Annotated[str, StringConstraints(pattern="^[0-9a-f]{64}$")]


class GraphicPath(BaseModel):
    edition_id: str
    key: str


class GraphicOut(BaseModel):
    """A lower third or a title, over words from-to in laid time.

    ``name`` and ``role`` of a lower third are empty where they are those of its ``voice``, which ``text`` tells either way.
    """

    id: str
    kind: Literal["lower third", "title"]
    begin: TicksField
    end: TicksField
    text: str
    voice: str = ""
    name: str = ""
    role: str = ""
    down: TitlePlace = "middle"


class DressingOut(BaseModel):
    """Whether logo and bar are seen in an edition, and whether it says so itself; null is as in the show."""

    logo: bool
    bar: bool
    own_logo: bool | None
    own_bar: bool | None


class OverlayOut(BaseModel):
    """What is drawn over the picture from ``begin`` to ``until`` of the programme, in a ``box`` of the frame.

    It takes ``moves`` ticks to come and to go: behind a moving edge, fading, or at once; a bar grows all the while. ``mark`` is
    the lower third or title it comes from.
    """

    begin: int
    until: int
    key: str
    mark: str | None
    box: BoxField
    enter: Literal["edge", "fade", "none", "grow"]
    moves: int
