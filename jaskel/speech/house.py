"""House spellings with the sounds of the aligner's dictionary."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import replace
from functools import lru_cache

from rapidfuzz.distance import Levenshtein

from jaskel.core.spellings import House, Spelling
from jaskel.core.timebase import from_seconds
from jaskel.core.transcript import Word
from jaskel.speech.align import aligner
from jaskel.speech.pronounce import pronunciation
from jaskel.speech.recognise import HeardWord

MENDED, PROPOSED = 0.9, 0.45
"""Probability given to a mended word, and the most left to one that a person should look at."""


def house(spellings: Sequence[Spelling]) -> House:
    """The spellings of a show, ready to look for in its transcripts."""
    return House(spellings, _phones, _known, Levenshtein.normalized_similarity)


@lru_cache(maxsize=20_000)
def _phones(word: str) -> tuple[str, ...]:
    return tuple(pronunciation(word, aligner().lookup).split())


def _known(word: str) -> bool:
    return word.isdigit() or aligner().lookup(word) is not None


def mended(words: Sequence[HeardWord], spellings: House) -> list[HeardWord]:
    """Recognised words with the house spellings put right; what is only proposed becomes an unsure word."""
    placed = []
    for word in words:
        start = from_seconds(word.start)
        placed.append(Word(word.text, start, max(start + 1, from_seconds(word.end)), word.probability))
    out: list[HeardWord] = []
    done = 0
    for mending in spellings.mendings(placed):
        out += words[done : mending.first]
        here = words[mending.first : mending.last]
        out += _spread(mending.text, here) if mending.sure else [_doubted(word) for word in here]
        done = mending.last
    return [*out, *words[done:]]


def _doubted(word: HeardWord) -> HeardWord:
    return replace(word, probability=min(word.probability, PROPOSED))


def _spread(text: str, here: Sequence[HeardWord]) -> list[HeardWord]:
    """The words of a term over the time of those it replaces; alignment finds their edges."""
    said = text.split()
    begin, length = here[0].start, (here[-1].end - here[0].start) / len(said)
    return [HeardWord(word, begin + i * length, begin + (i + 1) * length, MENDED) for i, word in enumerate(said)]
