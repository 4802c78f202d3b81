"""The words of the programme, with their places in it."""

from __future__ import annotations

from dataclasses import dataclass
from typing import TYPE_CHECKING

from jaskel.core.muted import has_muted, word_is_muted
from jaskel.core.page import laid_words
from jaskel.core.timebase import Ticks
from jaskel.core.transcript import Word

if TYPE_CHECKING:
    from jaskel.core.plan.plan import Plan


@dataclass(frozen=True, slots=True)
class ProgrammeWord:
    """A word with its place in the programme."""

    word: Word
    start: Ticks
    end: Ticks


def programme_words(plan: Plan, *, muted: bool) -> tuple[ProgrammeWord, ...]:
    """The words that are heard. A word mostly taken out is not, nor, unless ``muted`` ones count, one whose voice is muted."""
    words = []
    edition = plan.edition
    carriers = plan.material.carriers if not muted and has_muted(edition.marks) else None
    for name, word, laid in laid_words(edition, plan.material.transcripts):
        length = word.end - word.start
        if carriers and word_is_muted(edition.marks, name, word, carriers):
            continue
        place = plan.heard(laid, laid + length)
        if place and 2 * (place[1] - place[0]) >= length:
            words.append(ProgrammeWord(word, *place))
    return tuple(words)
