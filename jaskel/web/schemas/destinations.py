"""Destinations of exports, what is checked before one runs, and the last listen."""

from __future__ import annotations

from dataclasses import asdict
from fractions import Fraction
from typing import Annotated, Literal

from pydantic import AfterValidator, BaseModel, Field, StringConstraints

from jaskel.core.checks import CheckKind
from jaskel.core.destination import NAMES, Destination, DestinationCaptions, Quality
from jaskel.core.shape import PictureShape
from jaskel.media.forms import are_text
from jaskel.web.schemas.common import ShowPath, TicksField
from jaskel.web.schemas.work import Form

RATES = {"as recorded": Fraction(0)} | {
    "23.976": Fraction(24000, 1001), "24": Fraction(24), "25": Fraction(25), "29.97": Fraction(30000, 1001),
    "30": Fraction(30), "50": Fraction(50), "59.94": Fraction(60000, 1001), "60": Fraction(60),
}  # fmt: skip

RateName = Literal["as recorded", "23.976", "24", "25", "29.97", "30", "50", "59.94", "60"]


def _even(short: int) -> int:
    if short % 2:
        raise ValueError("a side of a picture has an even number of pixels")
    return short


class DestinationFields(BaseModel):
    """See :class:`jaskel.core.destination.Destination`. ``shape`` may be ``own``, for that of the edition."""

    name: Annotated[str, StringConstraints(strip_whitespace=True, min_length=1, max_length=80)]
    about: Annotated[str, Field(max_length=200)] = ""
    form: Form = "mp4"
    beside: Annotated[list[Form], Field(max_length=12)] = []
    shape: PictureShape | Literal["own"] = "own"
    short: Annotated[int, Field(ge=0, le=2160), AfterValidator(_even)] = 0
    rate: RateName = "as recorded"
    quality: Quality = "good"
    bits: Literal[64_000, 96_000, 128_000, 160_000, 192_000, 256_000, 320_000] = 192_000
    loudness: Annotated[float | None, Field(ge=-60, le=-5)] = None
    peak: Annotated[float, Field(ge=-20, le=0)] = -1.0
    mono: bool = False
    longest: Annotated[int, Field(ge=0, le=86_400)] = 0
    captions: DestinationCaptions = "none"
    cards: bool = True
    chapters: bool = True
    cover: bool = True
    names: Annotated[str, StringConstraints(strip_whitespace=True, min_length=1, max_length=200)] = NAMES

    def destination(self, key: str) -> Destination:
        values = self.model_dump()
        values |= {"rate": RATES[self.rate], "shape": None if self.shape == "own" else self.shape}
        values["beside"] = tuple(dict.fromkeys(form for form in self.beside if form != self.form))
        return Destination(key, **values)


class DestinationOut(DestinationFields):
    """``own`` is whether the show made it, ``text`` whether all of it is read rather than heard or seen."""

    key: str
    own: bool
    text: bool


def destination_out(known: Destination, *, own: bool) -> DestinationOut:
    text = are_text(known.forms)
    rate = next((name for name, value in RATES.items() if value == known.rate), "as recorded")
    return DestinationOut(**asdict(known) | {"shape": known.shape or "own", "rate": rate, "own": own, "text": text})


class DestinationsOut(BaseModel):
    destinations: list[DestinationOut]


class DestinationPath(ShowPath):
    key: str


class ChecksQuery(BaseModel):
    destination: str


class CheckOut(BaseModel):
    """Something to look at before an export: ``places`` are the laid times of the first of ``count``."""

    kind: CheckKind
    told: str
    stops: bool
    places: list[int]
    count: int


class ChecksOut(BaseModel):
    """``length`` is how long the export becomes, ``size`` about how many bytes."""

    length: TicksField
    size: int
    checks: list[CheckOut]


class HearOut(BaseModel):
    """A place of the last listen: ``laid`` is what it is about, ``begin`` to ``until`` in laid time what is heard."""

    key: str
    laid: TicksField
    begin: TicksField
    until: TicksField
    why: list[str]
    passed: bool


class LastListenOut(BaseModel):
    """``length`` is how long it takes to hear all of it."""

    length: TicksField
    places: list[HearOut]


class Passed(BaseModel):
    """A place that was heard, and is good or is not."""

    key: Annotated[str, Field(min_length=8, max_length=64)]
    passed: bool = True


class TimelineQuery(BaseModel):
    """``name`` is that of the edition; without one it is called as the timeline is."""

    name: Annotated[str, StringConstraints(strip_whitespace=True, max_length=80)] = ""


class BroughtTimelineOut(BaseModel):
    """The ``edition`` that was made of so many cuts, and what of the timeline is not in it."""

    edition: str
    cuts: int
    left_out: list[str]
