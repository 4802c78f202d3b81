"""Chains, loudness and beds as they go over the wire."""

from __future__ import annotations

from typing import Annotated, Literal

from pydantic import BaseModel, Field, StringConstraints

from jaskel.core.marks.splice import Shape
from jaskel.core.sound.chains import from_json, to_json
from jaskel.core.sound.processor import Chain
from jaskel.web.schemas.common import Name, OneLine, TicksField


class ProcessorField(BaseModel):
    """One processor of a chain: whether it is on, how much of it is heard in per cent, and its settings by their names."""

    kind: Annotated[str, StringConstraints(max_length=40), OneLine]
    on: bool = True
    amount: Annotated[int, Field(ge=0, le=100)] = 100
    settings: Annotated[dict[str, float], Field(max_length=24)] = {}


ChainField = Annotated[list[ProcessorField], Field(max_length=24)]


def chain_of(fields: list[ProcessorField]) -> Chain:
    """A chain as the core has it.

    Raises
    ------
    Problem
        ``no-chain``.
    """
    return from_json([{"kind": each.kind, "on": each.on, "amount": each.amount, **each.settings} for each in fields])


def chain_fields(chain: Chain) -> list[ProcessorField]:
    """A chain as it goes over the wire."""
    out = []
    for values in to_json(chain):
        kind, on, amount = values.pop("kind"), values.pop("on"), values.pop("amount")
        out.append(ProcessorField(kind=kind, on=on, amount=amount, settings=values))
    return out


class SettingOut(BaseModel):
    """A setting of a kind of processor: what it takes, and what it is at first."""

    name: str
    label: str
    unit: str
    least: float
    most: float
    step: float
    value: float


class ProcessorKindOut(BaseModel):
    """A kind of processor. What ``rides`` moves the level by the words, after everything else."""

    kind: str
    about: str
    rides: bool
    settings: list[SettingOut]


class ChainOut(BaseModel):
    name: str
    chain: list[ProcessorField]


class ProcessorsOut(BaseModel):
    """All kinds of processors, and the chains that come with Jaskel."""

    kinds: list[ProcessorKindOut]
    chains: list[ChainOut]


class TieField(BaseModel):
    """What an end of a bed is tied to: the ``word`` at a laid time, or an end of the programme; ``offset`` ticks later."""

    to: Literal["word", "beginning", "end"]
    at: TicksField | None = None
    offset: Annotated[int, Field(ge=-(2**31), le=2**31)] = 0


class BedFields(BaseModel):
    """How a bed sounds."""

    start: TicksField = 0
    decibels: Annotated[float, Field(ge=-60, le=24)] = -12.0
    duck: Annotated[float, Field(ge=0, le=60)] = 10.0
    attack: Annotated[int, Field(ge=0, le=480_000)] = 19_200
    release: Annotated[int, Field(ge=0, le=480_000)] = 38_400
    fade_in: Annotated[int, Field(ge=0, le=2_880_000)] = 24_000
    fade_out: Annotated[int, Field(ge=0, le=2_880_000)] = 72_000
    shape: Shape = "equal power"
    loop: bool = False


class BedOut(BedFields):
    """A bed; ``begins`` and ``ends`` are where its words are now, null where a word is not in the edition."""

    id: str
    recording: str
    name: str
    begins: TieField | None
    ends: TieField | None


class StretchOut(BaseModel):
    """A stretch of a track, from-to in ticks of the recording or session it is part of."""

    recording: str
    track: str
    start: int
    end: int


class ChainHereOut(StretchOut):
    """One that goes through a chain of its own."""

    chain: list[ProcessorField]


class RidePointOut(BaseModel):
    at: int
    decibels: float


class LaidBedOut(BaseModel):
    """Where a bed sounds in the programme, and how it is ridden: its level moves in straight lines between these places."""

    id: str
    at: TicksField
    until: TicksField
    ride: list[RidePointOut]


class LoudnessOut(BaseModel):
    """The loudness an edition is brought to, and what was measured: null before that, ``edited`` where it was edited since."""

    target: float | None
    peak: float
    mono: bool
    gain: float | None
    integrated: float | None
    range: float | None
    true_peak: float | None
    edited: bool


class CurveOut(BaseModel):
    """Short-term loudness in LUFS, each value for so many ticks (``every``); empty where it was not measured as it is now."""

    every: TicksField
    short_term: list[float]
    integrated: float | None
    range: float | None
    peak: float | None


class TriedQuery(BaseModel):
    """What is played for comparison: a stretch of laid time of a track.

    ``without`` is the number of a processor of its chain, or -1 for all. ``left`` is what the processor takes out.
    """

    track: str
    begin: TicksField
    end: TicksField
    without: Annotated[int, Field(ge=-1, le=24)] = -1
    part: Literal["with", "without", "left"] = "with"


class TrackQuery(BaseModel):
    track: str


class SpectrumOut(BaseModel):
    """The average spectrum of what a track says, in decibels at some frequencies, and by how much its equaliser raises each."""

    hertz: list[float]
    level: list[float]
    curve: list[float]


class MatchQuery(BaseModel):
    """Which voice the equaliser of a track is to bring it near: another ``track``'s, or with none that of plain speech."""

    track: str
    to: str | None = None


class FoundOut(BaseModel):
    """What was found in a recording, and what is proposed for it."""

    found: list[str]
    chain: list[ProcessorField]
    why: list[str]


class NamedChain(BaseModel):
    """A chain, or one processor, kept under a name by the show."""

    name: Name
    chain: ChainField


class WayOut(BaseModel):
    """What a show keeps of its sound: chains by name, voices that have one, and whether there is an opening or ending.

    ``target`` is its loudness.
    """

    chains: list[ChainOut]
    voices: list[str]
    target: float | None
    beds: int
