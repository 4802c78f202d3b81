"""Frame rates of caption files, and their timecode: SMPTE ST 12-1, which drops numbers of frames to keep with the clock."""

from __future__ import annotations

from dataclasses import dataclass
from fractions import Fraction

from ttconv.time_code import SmpteTimeCode

from jaskel.core.timebase import RATE, Ticks


@dataclass(frozen=True)
class FrameRate:
    """So many frames a second; whether their numbers are dropped (two in each minute but every tenth)."""

    name: str
    rate: Fraction
    drops: bool = False

    @property
    def whole(self) -> int:
        """Frames that are counted in a second."""
        return -(-self.rate.numerator // self.rate.denominator)

    def frame_at(self, at: Ticks) -> int:
        """The number of the frame that is nearest to a place of the programme."""
        return round(Fraction(at, RATE) * self.rate)

    def timecode(self, frame: int) -> str:
        """The timecode of a frame: ``hh:mm:ss:ff``, with a semicolon before the frames where numbers are dropped."""
        return str(SmpteTimeCode.from_frames(frame, self.rate, self.drops))

    def at(self, frame: int) -> Ticks:
        """The place of the programme at which a frame begins."""
        return round(frame / self.rate * RATE)


FRAME_RATES: dict[str, FrameRate] = {
    each.name: each
    for each in (
        FrameRate("23.976", Fraction(24000, 1001)),
        FrameRate("24", Fraction(24)),
        FrameRate("25", Fraction(25)),
        FrameRate("29.97 drop", Fraction(30000, 1001), drops=True),
        FrameRate("29.97", Fraction(30000, 1001)),
        FrameRate("30", Fraction(30)),
        FrameRate("50", Fraction(50)),
        FrameRate("59.94", Fraction(60000, 1001)),
    )
}
"""Those one can choose, by their names."""
