"""What a caption file says besides its captions, and how it says them."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass, field
from typing import Literal

from jaskel.media.captions.rates import FRAME_RATES, FrameRate

Channel = Literal["CC1", "CC2", "CC3", "CC4"]
"""Of line 21."""


@dataclass(frozen=True)
class About:
    """What a file says besides its cues, and how it says them.

    Attributes
    ----------
    language
        A code of BCP 47.
    voices
        Names of voices by their ids.
    title, show, revision
        What it belongs to, and at which step of that it was written (0 where there is none).
    rate
        The frame rate of forms with timecode; where a form has not got it, the nearest that it has.
    channel
        Of line 21, for SCC.
    named, placed, word_times
        Whether WebVTT has the names of voices, the places of captions, and the times of words.
    """

    language: str = "en"
    voices: Mapping[str, str] = field(default_factory=dict)
    title: str = ""
    show: str = ""
    revision: int = 0
    rate: FrameRate = FRAME_RATES["25"]
    channel: Channel = "CC1"
    named: bool = False
    placed: bool = False
    word_times: bool = False

    @property
    def told(self) -> str:
        """What it belongs to, in a line; empty where that is not known."""
        parts = [part.replace("-->", "→") for part in (self.show, self.title) if part]
        return ", ".join([*parts, *([f"step {self.revision}"] if self.revision else [])])

    def rate_in(self, rates: Mapping[str, object]) -> FrameRate:
        """The frame rate, or where a form has others only, the nearest of those."""
        if self.rate.name in rates:
            return self.rate
        return min((FRAME_RATES[name] for name in rates), key=lambda each: abs(each.rate - self.rate.rate))
