"""Voices of machines, which speak a line that nobody said.

A voice is anything with a name and a way to say a text (:class:`MachineVoice`). Packages offer theirs as an entry point of the
group ``jaskel.machine_voices``; the one that comes with Jaskel (:mod:`jaskel.standins.machine_voice`) is a stand-in that sounds
like nobody in the show, and says so.
"""

from __future__ import annotations

from functools import cache
from importlib.metadata import entry_points
from typing import Protocol

import numpy as np

from jaskel.core.problem import Problem

GROUP = "jaskel.machine_voices"
PACKAGED = "packaged"


class MachineVoice(Protocol):
    """Speaks texts.

    Attributes
    ----------
    name, about
        What it is called, and what people should know of it: shown where it is chosen.
    languages
        Codes of ISO 639-1 that it speaks.
    """

    name: str
    about: str
    languages: tuple[str, ...]

    def say(self, text: str, like: np.ndarray) -> np.ndarray:
        """A text as float32 mono at 48 kHz; ``like`` is some of the speaker's own voice, for those that can learn from it."""


@cache
def machine_voice() -> MachineVoice:
    """The voice that speaks lines: one that was plugged in, else the packaged stand-in.

    Raises
    ------
    Problem
        ``no-machine-voice`` where none can be loaded.
    """
    known = sorted(entry_points(group=GROUP), key=lambda each: each.name == PACKAGED)
    for each in known:
        voice: MachineVoice = each.load()()
        return voice
    raise Problem("no-machine-voice", "No voice of a machine is installed here. Borrow the line or record it.")
