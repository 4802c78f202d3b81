"""A proposal: what could be taken out, and what would be done with it."""

from __future__ import annotations

import re
from collections.abc import Iterator, Sequence
from dataclasses import dataclass
from typing import Literal, get_args

from jaskel.core.timebase import Ticks
from jaskel.core.transcript import Word

Kind = Literal["filler", "doubled", "empty word", "voice without words", "long rest", "retake", "chatter", "breath"]
KINDS: tuple[Kind, ...] = get_args(Kind)

Stretch = tuple[Ticks, Ticks]
"""From-to in a recording."""


@dataclass(frozen=True, slots=True)
class Take:
    """One attempt at a sentence, up to where the next one begins.

    ``why`` is what speaks for it, ``rest`` how much of its end is the rest before the next one.
    """

    start: Ticks
    end: Ticks
    text: str
    why: tuple[str, ...] = ()
    rest: Ticks = 0


@dataclass(frozen=True, slots=True)
class Finding:
    """``start`` to ``end`` of a recording could go; ``text`` is what is said in it.

    Attributes
    ----------
    becomes
        How long a rest is to stay in its place; 0 where all of it goes.
    why
        What speaks for it, in a few words.
    takes
        Where a sentence was begun several times: all attempts in order, the proposed one included. ``start`` to ``end`` then
        spans all of them.
    pick
        Which of the takes is proposed to stay.
    rest
        How much of its end is the rest before it is said again.
    large
        It takes so much of the recording that it is only accepted by itself, never with all others.
    twice
        It was said twice and is complete both times, which may be meant: so it is accepted by itself, too.
    """

    kind: Kind
    start: Ticks
    end: Ticks
    text: str
    becomes: Ticks = 0
    why: str = ""
    takes: tuple[Take, ...] = ()
    pick: int = 0
    rest: Ticks = 0
    large: bool = False
    twice: bool = False

    @property
    def action(self) -> str:
        if self.kind == "breath":
            return "soften"
        return "shorten" if self.becomes else "strike"

    def gone(self, pick: int | None = None) -> tuple[Stretch, ...]:
        """What goes when it is accepted, with another take picked than the proposed one if so wished."""
        if self.kind == "breath":
            return ()
        if not self.takes:
            return ((self.start, self.end),)
        kept = self.pick if pick is None else pick
        return tuple((take.start, take.end) for number, take in enumerate(self.takes) if number != kept)


def plain(text: str) -> str:
    """A word as it is compared: small letters and digits, and apostrophes within it."""
    return re.sub(r"[^\w']+|^'|'$", "", text.casefold().replace("’", "'"))


def sentences_of(words: Sequence[Word]) -> Iterator[tuple[int, int]]:
    """First word and one after the last of each sentence; another voice begins another one."""
    first = 0
    for index, word in enumerate(words):
        last = index + 1 == len(words)
        if last or word.ends_sentence or words[index + 1].voice != word.voice:
            yield first, index + 1
            first = index + 1


def set_of(text: str) -> frozenset[str]:
    """The words of a text, as a set to look them up in."""
    return frozenset(text.split())


def phrases_of(text: str) -> tuple[tuple[str, ...], ...]:
    """Phrases that are parted by commas or ends of lines, each as the words it is compared by; longer ones first."""
    found = (tuple(filter(None, map(plain, phrase.split()))) for phrase in re.split(r"[,\n]", text))
    return tuple(sorted({phrase for phrase in found if phrase}, key=lambda phrase: (-len(phrase), phrase)))
