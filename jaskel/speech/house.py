"""House spellings with the sounds of the aligner's dictionary."""

from __future__ import annotations

import unicodedata
from collections.abc import Callable, Sequence
from dataclasses import replace
from functools import lru_cache

from rapidfuzz.distance import Levenshtein

from jaskel.core.spellings import House, Mending, Spelling, alike
from jaskel.core.timebase import from_seconds
from jaskel.core.transcript import Word
from jaskel.speech.align import aligner
from jaskel.speech.pronounce import pronunciation
from jaskel.speech.recognise import HeardWord

MENDED, PROPOSED = 0.9, 0.45
"""Probability given to a mended word, and the most left to one that a person should look at."""


def house(spellings: Sequence[Spelling], language: str = "en") -> House:
    """The spellings of a show, ready to look for in its transcripts of a language.

    Outside English there is no dictionary here: letters stand for sounds, and only words that the recogniser doubts are odd.
    """
    if language == "en":
        return House(spellings, _phones, _known, Levenshtein.normalized_similarity)
    return House(spellings, _as_letters, lambda _: True, Levenshtein.normalized_similarity)


@lru_cache(maxsize=20_000)
def _as_letters(word: str) -> tuple[str, ...]:
    bare = (c for c in unicodedata.normalize("NFKD", word.casefold()) if c.isalnum())
    return tuple(_LIKE.get(letter, letter) for letter in bare)


_LIKE = {"v": "f", "w": "f", "b": "p", "d": "t", "g": "k", "c": "k", "q": "k", "z": "s", "y": "i", "j": "i", "ß": "s"}
"""Letters that stand for sounds one mistakes for one another, in most languages of Europe."""


def sounds_alike(one: str, other: str) -> float:
    """How alike two stretches of text are, 0 to 1: by their sound, or by their letters where those are more alike."""
    letters = Levenshtein.normalized_similarity(_written(one), _written(other))
    return max(letters, alike(_spoken(one), _spoken(other), Levenshtein.normalized_similarity))


def _written(text: str) -> str:
    return "".join(c for c in text.casefold() if c.isalnum())


def _spoken(text: str) -> tuple[str, ...]:
    return tuple(phone for word in text.split() if (bare := word.strip('.,;:!?…“”"()[]')) for phone in _phones(bare))


@lru_cache(maxsize=20_000)
def _phones(word: str) -> tuple[str, ...]:
    return tuple(pronunciation(word, aligner().lookup).split())


def _known(word: str) -> bool:
    return word.isdigit() or aligner().lookup(word) is not None


Again = Callable[[str], Sequence[HeardWord]]
"""Listens to the same sound once more, with a prompt that has terms in it."""


def mended(words: Sequence[HeardWord], spellings: House, again: Again | None = None) -> list[HeardWord]:
    """Recognised words with the house spellings put right; what is only proposed becomes an unsure word.

    Where something odd is left that a term distantly sounds like, and there is a way to listen ``again``, the recogniser is
    asked once more with those terms in mind. Of what it then says, only terms in the place of something odd are taken over: a
    prompt with names makes recognisers hear them everywhere.
    """
    out = _with(words, spellings.mendings(_placed(words)))
    candidates = spellings.candidates(_placed(out)) if again else []
    if again and candidates:
        heard = [word.text for word in again(", ".join(candidates) + ".")]
        out = _with(out, spellings.confirmed(_placed(out), heard))
    return out


def _placed(words: Sequence[HeardWord]) -> list[Word]:
    placed = []
    for word in words:
        start = from_seconds(word.start)
        placed.append(Word(word.text, start, max(start + 1, from_seconds(word.end)), word.probability))
    return placed


def _with(words: Sequence[HeardWord], mendings: Sequence[Mending]) -> list[HeardWord]:
    out: list[HeardWord] = []
    done = 0
    for mending in mendings:
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
