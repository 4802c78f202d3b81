"""A proposal: what could be taken out, and what would be done with it."""

from __future__ import annotations

import re
from dataclasses import dataclass
from typing import Literal

from jaskel.core.timebase import Ticks

Kind = Literal["filler", "doubled", "voice without words", "long rest", "retake"]


@dataclass(frozen=True, slots=True)
class Finding:
    """``start`` to ``end`` of a recording could go; ``text`` is what is said in it.

    Attributes
    ----------
    becomes
        How long a rest is to stay in its place; 0 where all of it goes.
    why
        What speaks for it, in a few words.
    """

    kind: Kind
    start: Ticks
    end: Ticks
    text: str
    becomes: Ticks = 0
    why: str = ""

    @property
    def action(self) -> str:
        return "shorten" if self.becomes else "strike"


def plain(text: str) -> str:
    """A word as it is compared: small letters and digits, and apostrophes within it."""
    return re.sub(r"[^\w']+|^'|'$", "", text.casefold().replace("’", "'"))


def set_of(text: str) -> frozenset[str]:
    """The words of a text, as a set to look them up in."""
    return frozenset(text.split())
