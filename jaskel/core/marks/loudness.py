"""How loud an edition is to be, and by which gain it gets there: stored with what was measured when that was found."""

from __future__ import annotations

from dataclasses import dataclass, replace
from typing import ClassVar

from jaskel.core.marks.anchor import Beginning, End
from jaskel.core.marks.mark import Mark, Marks, mark
from jaskel.core.sound.bus import Bus


@dataclass(frozen=True, slots=True)
class Measured:
    """What a programme came to, by EBU R 128: integrated loudness in LUFS, its range in LU, and the true peak in dBTP.

    ``of`` names the sound it was measured on, see :attr:`jaskel.core.plan.Plan.unlevelled`.
    """

    integrated: float
    range: float
    peak: float
    of: str


@mark
@dataclass(frozen=True)
class LoudnessMark(Mark):
    """The loudness an edition is brought to.

    Attributes
    ----------
    target
        In LUFS.
    peak
        In dBTP.
    bus
        What brings it there; None until it was measured for the first time.
    measured
        What it came to with that.
    mono
        Whether it is brought there as one channel, which is 3 LU softer than the same on two.
    """

    kind: ClassVar[str] = "loudness"
    target: float
    peak: float
    bus: Bus | None = None
    measured: Measured | None = None
    mono: bool = False

    def __post_init__(self) -> None:
        if not -60 <= self.target <= -5:
            raise ValueError(f"a loudness is -60 to -5 LUFS, not {self.target:g}")
        if not -20 <= self.peak <= 0:
            raise ValueError(f"a true peak is -20 to 0 dBTP, not {self.peak:g}")


def loudness_of(marks: Marks) -> LoudnessMark | None:
    """The loudness an edition is brought to, if any."""
    return next(iter(marks.all(LoudnessMark)), None)


def set_loudness(marks: Marks, target: float | None, peak: float = -1.0, *, mono: bool = False) -> dict[str, Mark | None]:
    """The changes that bring an edition to another loudness, or with None leave it as it is mixed."""
    known = loudness_of(marks)
    if target is None:
        return {known.id: None} if known else {}
    id = known.id if known else marks.free_id("loudness")
    return {id: LoudnessMark(id, (Beginning(), End()), target, peak, mono=mono)}


def found_loudness(marks: Marks, bus: Bus, measured: Measured) -> dict[str, Mark | None]:
    """The changes that store what brings an edition to its loudness."""
    known = loudness_of(marks)
    return {known.id: replace(known, bus=bus, measured=measured)} if known else {}
