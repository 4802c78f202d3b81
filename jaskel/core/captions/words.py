"""The words of the programme, with their places in it."""

from __future__ import annotations

from collections.abc import Callable, Mapping
from dataclasses import dataclass, replace

from jaskel.core.captions.lines import Before
from jaskel.core.edition import Edition
from jaskel.core.marks.bleep import Bleep, is_bleeped
from jaskel.core.marks.captions import breaks_in
from jaskel.core.muted import Carriers, has_muted, word_is_muted
from jaskel.core.page import laid_words
from jaskel.core.timebase import Ticks
from jaskel.core.transcript import Transcript, Word

Heard = Callable[[Ticks, Ticks], tuple[Ticks, Ticks] | None]
"""Where in the programme something sounds that lies between two laid times; None where none of it does."""


@dataclass(frozen=True, slots=True)
class ProgrammeWord:
    """A word with its place in the programme, and what somebody wants before it in captions."""

    word: Word
    start: Ticks
    end: Ticks
    before: Before = ""


def programme_words(
    edition: Edition, transcripts: Mapping[str, Transcript], heard: Heard, carriers: Carriers | None = None
) -> tuple[ProgrammeWord, ...]:
    """The words that are heard. A word mostly taken out is not.

    Nor is one whose voice is muted through all of it; without ``carriers`` those count.
    """
    words = []
    bleeps = bool(edition.marks.all(Bleep))
    muting = carriers if carriers and has_muted(edition.marks) else None
    breaks = breaks_in(edition.marks)
    for name, word, laid in laid_words(edition, transcripts):
        length = word.end - word.start
        if muting and word_is_muted(edition.marks, name, word, muting):
            continue
        place = heard(laid, laid + length)
        if place and 2 * (place[1] - place[0]) >= length:
            masked = bleeps and is_bleeped(edition.marks, name, word.start, word.end)
            before = breaks.before(name, word.start, word.end) if breaks else ""
            words.append(ProgrammeWord(replace(word, text=_masked(word)) if masked else word, *place, before))
    return tuple(words)


MASKED = "[bleep]"


def _masked(word: Word) -> str:
    """What stands for a word that must not be read; what ends its sentence stays."""
    return MASKED + (word.text.rstrip()[-1] if word.text.rstrip()[-1:] in ".,;:?!…" else "")
