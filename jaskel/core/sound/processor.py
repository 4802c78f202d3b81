"""Processors of a track's sound, in a chain. What they do to samples stands in :mod:`jaskel.media.process`.

Processing comes before the cut: it may have memory (a filter rings on, a compressor remembers), so its result is a file of its
own for each recording and chain. What comes after the cut has none.

To add a processor: write its settings here as a frozen dataclass, register it with :func:`processor`, and say in
``media/process.py`` what it does.
"""

from __future__ import annotations

import hashlib
from dataclasses import Field, dataclass, field, fields
from typing import Any, ClassVar, TypeVar


def setting(default: float, least: float, most: float, unit: str, label: str, step: float = 1) -> Any:
    """A setting of a processor, with what people call it and what it takes; ``step`` is a sensible change of it."""
    return field(default=default, metadata={"least": least, "most": most, "unit": unit, "label": label, "step": step})


@dataclass(frozen=True)
class Processor:
    """One step of a chain.

    Attributes
    ----------
    on
        Whether it does anything; one that is switched off keeps its settings.
    amount
        How much of it is heard, in per cent: 0 is what came in, 100 what it makes of it.

    Raises
    ------
    ValueError
        In words that can be shown, where a setting is out of range.
    """

    kind: ClassVar[str]
    rides: ClassVar[bool] = False
    """Whether it only moves the level, by the words that are said: see :mod:`jaskel.core.sound.ride`."""
    costly: ClassVar[bool] = False
    """Whether it takes so long that what it makes is kept: another amount of it then runs nothing again."""
    on: bool = True
    amount: int = 100

    def __post_init__(self) -> None:
        if not 0 <= self.amount <= 100:
            raise ValueError(f"an amount of {self.amount} % is out of range")
        for each in settings_of(type(self)):
            value, known = getattr(self, each.name), each.metadata
            # 3 and 3.0 are one setting, and have to have one name.
            if value == value:
                object.__setattr__(self, each.name, float(value) if each.type == "float" else round(value))
            if not known["least"] <= value <= known["most"]:
                wanted = f"{known['least']:g} to {known['most']:g} {known['unit']}".strip()
                raise ValueError(f"{known['label']} of “{self.kind}” takes {wanted}, not {value:g}")


def settings_of(kind: type[Processor]) -> list[Field[Any]]:
    """What can be set of a kind of processor, besides its amount."""
    return [each for each in fields(kind) if each.metadata]


Chain = tuple[Processor, ...]
"""Processors in the order in which sound goes through them."""

AS_IT_IS: Chain = ()

PROCESSORS: dict[str, type[Processor]] = {}
"""Every kind of processor, by its name."""

P = TypeVar("P", bound=Processor)


def processor(kind: type[P]) -> type[P]:
    """Register a kind of processor."""
    PROCESSORS[kind.kind] = kind
    return kind


@processor
@dataclass(frozen=True)
class Gain(Processor):
    """Louder or quieter by so many decibels, before anything else depends on it."""

    kind: ClassVar[str] = "gain"
    decibels: float = setting(0.0, -120, 60, "dB", "level", 0.5)


@processor
@dataclass(frozen=True)
class LowCut(Processor):
    """Takes out what lies below speech: rumble, steps, wind."""

    kind: ClassVar[str] = "low cut"
    hertz: float = setting(75.0, 20, 400, "Hz", "frequency", 5)


@processor
@dataclass(frozen=True)
class Hum(Processor):
    """Takes out the hum of the mains and its harmonics; ``hertz`` is 50 or 60, or 0 for whichever is found."""

    kind: ClassVar[str] = "hum"
    hertz: int = setting(0, 0, 60, "Hz", "mains", 10)

    def __post_init__(self) -> None:
        super().__post_init__()
        if self.hertz not in (0, 50, 60):
            raise ValueError(f"hum takes 50 or 60 Hz, or 0 for whichever is found, not {self.hertz}")


@processor
@dataclass(frozen=True)
class Noise(Processor):
    """Takes out noise and the tails of echo, by a network that knows speech; ``most`` is by how many decibels at most."""

    kind: ClassVar[str] = "noise"
    costly: ClassVar[bool] = True
    most: float = setting(100.0, 0, 100, "dB", "at most", 5)


@processor
@dataclass(frozen=True)
class Sibilants(Processor):
    """Softens sharp s sounds; ``strength`` from 0 to 1."""

    kind: ClassVar[str] = "sibilants"
    strength: float = setting(0.4, 0, 1, "", "strength", 0.1)


@processor
@dataclass(frozen=True)
class Compressor(Processor):
    """Makes loud and soft more alike: what is above ``threshold`` (dBFS) rises only by one part in ``ratio``."""

    kind: ClassVar[str] = "compressor"
    threshold: float = setting(-24.0, -60, 0, "dB", "threshold")
    ratio: float = setting(2.5, 1, 20, "to 1", "ratio", 0.5)
    attack: float = setting(10.0, 0.1, 500, "ms", "attack", 5)
    release: float = setting(160.0, 1, 3000, "ms", "release", 20)


@processor
@dataclass(frozen=True)
class Polarity(Processor):
    """Turns the wave over: for a microphone that works against the others."""

    kind: ClassVar[str] = "polarity"


@processor
@dataclass(frozen=True)
class Clipped(Processor):
    """Draws in what was cut off where a recording was too loud; ``share`` is how near to the highest sample one is cut off."""

    kind: ClassVar[str] = "clipped"
    share: float = setting(99.0, 50, 100, "%", "from", 0.5)


@processor
@dataclass(frozen=True)
class Clicks(Processor):
    """Takes out clicks and the smaller noises of a mouth; ``threshold`` is how far one stands out, 1 for all."""

    kind: ClassVar[str] = "clicks"
    threshold: float = setting(2.0, 1, 20, "", "threshold", 0.5)


@processor
@dataclass(frozen=True)
class Plosives(Processor):
    """Softens the blast of air of a p or b: what is low and suddenly louder than the voice, and only there.

    ``most`` is by how many decibels at most.
    """

    kind: ClassVar[str] = "plosives"
    most: float = setting(15.0, 0, 40, "dB", "at most")


@processor
@dataclass(frozen=True)
class Equaliser(Processor):
    """Two shelves and two bells, each at a frequency and by so many decibels; Q is how narrow a bell is."""

    kind: ClassVar[str] = "equaliser"
    shelf_low: float = setting(120.0, 20, 20_000, "Hz", "low shelf", 12)
    shelf_low_gain: float = setting(0.0, -18, 18, "dB", "low shelf", 0.5)
    bell_low: float = setting(300.0, 20, 20_000, "Hz", "low bell", 30)
    bell_low_gain: float = setting(0.0, -18, 18, "dB", "low bell", 0.5)
    bell_low_q: float = setting(1.0, 0.2, 10, "Q", "low bell", 0.1)
    bell_high: float = setting(3000.0, 20, 20_000, "Hz", "high bell", 300)
    bell_high_gain: float = setting(0.0, -18, 18, "dB", "high bell", 0.5)
    bell_high_q: float = setting(1.0, 0.2, 10, "Q", "high bell", 0.1)
    shelf_high: float = setting(8000.0, 20, 20_000, "Hz", "high shelf", 800)
    shelf_high_gain: float = setting(0.0, -18, 18, "dB", "high shelf", 0.5)


@processor
@dataclass(frozen=True)
class Limiter(Processor):
    """Holds single peaks under ``peak`` (dBTP), so that what follows is not led by them."""

    kind: ClassVar[str] = "limiter"
    peak: float = setting(-3.0, -30, 0, "dBTP", "peak", 0.5)


@processor
@dataclass(frozen=True)
class Disguise(Processor):
    """Makes a voice another one, for a person who must not be known: pitch and formants by ``semitones``."""

    kind: ClassVar[str] = "disguise"
    semitones: float = setting(-4.0, -8, 8, "semitones", "pitch", 0.5)


@processor
@dataclass(frozen=True)
class Leveller(Processor):
    """Brings every word to the loudness of the voice, by at most so many decibels; breaths and rests are never raised."""

    kind: ClassVar[str] = "leveller"
    rides: ClassVar[bool] = True
    strength: float = setting(0.7, 0, 1, "", "strength", 0.1)
    most: float = setting(9.0, 0, 24, "dB", "at most")


@processor
@dataclass(frozen=True)
class Gate(Processor):
    """Lowers a track by ``depth`` decibels where its voice says nothing."""

    kind: ClassVar[str] = "gate"
    rides: ClassVar[bool] = True
    depth: float = setting(12.0, 0, 60, "dB", "depth")


@processor
@dataclass(frozen=True)
class Bleed(Processor):
    """Lowers a track by ``depth`` decibels where only other voices speak, which its microphone hears as well."""

    kind: ClassVar[str] = "bleed"
    rides: ClassVar[bool] = True
    depth: float = setting(15.0, 0, 60, "dB", "depth")


def before_the_cut(chain: Chain) -> Chain:
    """What of a chain the sound has gone through before it is cut."""
    return tuple(each for each in chain if each.on and each.amount and not each.rides)


def by_words(chain: Chain) -> Chain:
    """What of a chain rides the level by words, after all else."""
    return tuple(each for each in chain if each.on and each.amount and each.rides)


def name_of(chain: Chain) -> str:
    """A name for what a chain does before the cut, empty where it does nothing; chains that do the same have the same.

    >>> name_of((Gain(on=False),))
    ''
    """
    doing = before_the_cut(chain)
    return hashlib.sha256(repr(doing).encode()).hexdigest()[:16] if doing else ""
