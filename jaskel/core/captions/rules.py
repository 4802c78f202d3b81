"""What captions of a show keep to: how long lines and cues are, how fast they are read, and how voices are named."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Literal

from jaskel.core.timebase import RATE, Ticks

Names = Literal["never", "when it changes", "always"]
Named = Literal["NAME:", "dash", "colour"]


@dataclass(frozen=True, slots=True)
class Rules:
    """The rules; what is not set is as subtitling guidelines usually have it.

    Attributes
    ----------
    characters, lines
        At most so many characters on a line, and so many lines at once (1 to 3). No cue breaks these.
    shortest, longest
        How long a cue is seen, in ticks. ``longest`` is broken by no cue of more than one word; ``shortest`` where the next is
        said sooner.
    rate
        At most so many characters a second, as far as what is said leaves time for them.
    gap
        At least so many ticks between two cues.
    late
        A cue may begin up to so many ticks after its first word, where the one before is read too quickly and this one is not.
    hold
        Whether a cue stays until the next begins (but for the gap), or goes when it was said.
    names, named
        When the name of a voice stands before its words, and how: ``NAME:``, a dash, or the colour of the words.
    sounds
        Whether sounds such as ``[laughter]`` are written.
    """

    characters: int = 42
    lines: int = 2
    shortest: Ticks = RATE
    longest: Ticks = 6 * RATE
    rate: float = 20.0
    gap: Ticks = RATE * 8 // 100
    late: Ticks = RATE * 3 // 10
    hold: bool = False
    names: Names = "never"
    named: Named = "NAME:"
    sounds: bool = True

    def __post_init__(self) -> None:
        if not 10 <= self.characters <= 100:
            raise ValueError(f"a line has 10 to 100 characters, not {self.characters}")
        if not 1 <= self.lines <= 3:
            raise ValueError(f"there are 1 to 3 lines at once, not {self.lines}")
        if not 0 < self.shortest <= self.longest:
            raise ValueError("the shortest time is not longer than the longest")
        if not 5 <= self.rate <= 60:
            raise ValueError(f"people read 5 to 60 characters a second, not {self.rate:g}")
        if not 0 <= self.gap <= 2 * RATE:
            raise ValueError("a gap is 0 to 2 seconds")
        if not 0 <= self.late <= RATE:
            raise ValueError("a cue begins up to a second after its first word")


USUAL = Rules()
