"""The stand-in for a voice like the speaker's: a small network that speaks English in one voice of its own."""

from __future__ import annotations

from functools import cached_property
from typing import TYPE_CHECKING

import numpy as np

if TYPE_CHECKING:
    from hibari import Hibari

RATE_OUT = 48_000
RATE_IN = 24_000


class StandInVoice:
    """See :class:`jaskel.speech.machine.MachineVoice`. It does not sound like the speaker: nothing that is packaged does."""

    name = "Stand-in voice"
    about = "Speaks English in one voice of its own, not like the speaker. It stands in until another voice is plugged in."
    languages = ("en",)

    @cached_property
    def _network(self) -> Hibari:
        from hibari import Hibari

        return Hibari()

    def say(self, text: str, _like: np.ndarray) -> np.ndarray:
        """A text as float32 mono at 48 kHz; the same text sounds the same each time."""
        import soxr

        spoken = np.asarray(self._network(text, seed=0), np.float32)
        resampled: np.ndarray = soxr.resample(spoken, RATE_IN, RATE_OUT)
        return resampled
