"""The words of the programme, with their places in it."""

from __future__ import annotations

from collections.abc import Callable, Mapping
from dataclasses import dataclass

from jaskel.core.edition import Edition
from jaskel.core.muted import Carriers, has_muted, word_is_muted
from jaskel.core.page import laid_words
from jaskel.core.timebase import Ticks
from jaskel.core.transcript import Transcript, Word

Heard = Callable[[Ticks, Ticks], tuple[Ticks, Ticks] | None]
"""Where in the programme something sounds that lies between two laid times; None where none of it does."""


@dataclass(frozen=True, slots=True)
class ProgrammeWord:
    """A word with its place in the programme."""

    word: Word
    start: Ticks
    end: Ticks


def programme_words(
    edition: Edition, transcripts: Mapping[str, Transcript], heard: Heard, carriers: Carriers | None = None
) -> tuple[ProgrammeWord, ...]:
    """The words that are heard. A word mostly taken out is not.

    Nor is one whose voice is muted through all of it; without ``carriers`` those count.
    """
    words = []
    muting = carriers if carriers and has_muted(edition.marks) else None
    for name, word, laid in laid_words(edition, transcripts):
        length = word.end - word.start
        if muting and word_is_muted(edition.marks, name, word, muting):
            continue
        place = heard(laid, laid + length)
        if place and 2 * (place[1] - place[0]) >= length:
            words.append(ProgrammeWord(word, *place))
    return tuple(words)
