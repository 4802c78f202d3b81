"""House spellings: a show's own names and terms, put right where they were misheard.

A term is looked for by its letters, by what it is known to be misheard as, and by its sound. What sounds like it is mended only
where something speaks against what was written: a word no dictionary has, or one the recogniser doubts. Ordinary words of
which it was sure are left alone, however much they resemble a term; they are only proposed.
"""

from __future__ import annotations

import re
from collections.abc import Callable, Iterator, Sequence
from dataclasses import dataclass
from difflib import SequenceMatcher

from jaskel.core.timebase import RATE, Ticks
from jaskel.core.transcript import Word

Sounds = Callable[[str], tuple[str, ...]]
"""Gives the phones of a written word, in the ARPAbet."""

Similarity = Callable[[Sequence[str], Sequence[str]], float]
"""How alike two sequences are, 0 to 1."""

NEAR: Ticks = RATE * 6 // 10
"""Words of one term follow one another within 0.6 s."""

SURE_UNKNOWN, SURE_DOUBTED, PROPOSED = 0.7, 0.84, 0.62
"""How alike something must sound to be mended where a word is in no dictionary, where it is doubted, and to be proposed."""

DISTANT = 0.35
"""How alike something odd must be for a term to be listened for once more, and for what is then heard to be believed."""

MOST_CANDIDATES = 8

DOUBTED = 0.6

_CLASSES = {
    **dict.fromkeys(("IY", "IH", "EY", "EH"), "I"),
    **dict.fromkeys(("AA", "AE", "AH", "AO", "AW", "AY"), "A"),
    **dict.fromkeys(("UW", "UH", "OW", "OY"), "U"),
    **dict.fromkeys(("B", "P"), "P"),
    **dict.fromkeys(("D", "T"), "T"),
    **dict.fromkeys(("G", "K"), "K"),
    **dict.fromkeys(("V", "F", "DH", "TH"), "F"),
    **dict.fromkeys(("Z", "S"), "S"),
    **dict.fromkeys(("ZH", "SH", "CH", "JH"), "C"),
    **dict.fromkeys(("N", "NG"), "N"),
    **dict.fromkeys(("R", "ER"), "R"),
}
"""Phones that are taken for one another, by place and manner of articulation."""


@dataclass(frozen=True, slots=True)
class Spelling:
    """A term as the show writes it, and what it was misheard as."""

    term: str
    heard: tuple[str, ...] = ()


@dataclass(frozen=True, slots=True)
class Mending:
    """Words ``first`` to ``last`` (not included) should read ``text``; unless ``sure``, a person is asked."""

    first: int
    last: int
    text: str
    sure: bool
    score: float


class House:
    """The spellings of a show, ready to look for."""

    def __init__(
        self, spellings: Sequence[Spelling], sounds: Sounds, known: Callable[[str], bool], similarity: Similarity
    ) -> None:
        self._sounds, self._known, self._similarity = sounds, known, similarity
        self._terms = [(spelling, _letters(spelling.term), self._phones(spelling.term)) for spelling in spellings]
        self._misheard = {_letters(heard): spelling for spelling in spellings for heard in spelling.heard}
        self._written = {letters: spelling for spelling, letters, _ in self._terms}

    def mendings(self, words: Sequence[Word]) -> list[Mending]:
        """What should be mended in a transcript, in order and not overlapping. What a person typed or accepted stays."""
        found = [mending for first in range(len(words)) for mending in self._at(words, first)]
        found.sort(key=lambda mending: (-mending.sure, -mending.score, mending.first))
        taken: set[int] = set()
        out = []
        for mending in found:
            here = set(range(mending.first, mending.last))
            if here & taken:
                continue
            taken |= here
            if mending.text != _text(words[mending.first : mending.last]):
                out.append(mending)
        return sorted(out, key=lambda mending: mending.first)

    def candidates(self, words: Sequence[Word]) -> list[str]:
        """Terms worth listening for once more: what a word in no dictionary, or a doubted one, distantly sounds like."""
        scores: dict[str, float] = {}
        for first in range(len(words)):
            for last in range(first + 1, min(first + 4, len(words) + 1)):
                window = words[first:last]
                if not any(self._odd(window)):
                    continue
                for spelling, letters, term in self._terms:
                    score = self._distantly(window, letters, term)
                    if score >= DISTANT:
                        scores[spelling.term] = max(score, scores.get(spelling.term, 0.0))
        return sorted(scores, key=lambda term: -scores[term])[:MOST_CANDIDATES]

    def confirmed(self, words: Sequence[Word], again: Sequence[str]) -> list[Mending]:
        """Terms that were heard when listening again, where something odd that distantly sounds like them stood before."""
        out = []
        matcher = SequenceMatcher(None, [_letters(word.text) for word in words], [_letters(word) for word in again], False)
        for tag, first, last, begin, end in matcher.get_opcodes():
            if tag != "replace":
                continue
            window = words[first:last]
            heard = _letters(" ".join(map(_bare, again[begin:end])))
            for spelling, letters, term in self._terms:
                score = self._distantly(window, letters, term)
                if letters == heard and score >= DISTANT and any(self._odd(window)):
                    out.append(Mending(first, last, _dressed(spelling.term, window), True, score))
        return out

    def proposals(self, words: Sequence[Word]) -> list[str]:
        """Terms that words might be meant for, the likeliest first."""
        phones = self._phones(_text(words))
        ranked = sorted(((self._alike(phones, term), spelling.term) for spelling, _, term in self._terms), reverse=True)
        return [term for score, term in ranked if score >= PROPOSED / 1.3][:4]

    def _at(self, words: Sequence[Word], first: int) -> Iterator[Mending]:
        for last in range(first + 1, min(first + 5, len(words) + 1)):
            if last > first + 1 and words[last - 1].start - words[last - 2].end > NEAR:
                return
            window = words[first:last]
            if window[-1].by_hand:
                return
            letters = _letters(_text(window))
            if spelling := self._misheard.get(letters):
                yield Mending(first, last, _dressed(spelling.term, window), True, 1.0)
            elif spelling := self._written.get(letters):
                yield from self._by_letters(spelling, window, first, last)
            else:
                yield from self._by_sound(window, first, last)

    def _by_letters(self, spelling: Spelling, window: Sequence[Word], first: int, last: int) -> Iterator[Mending]:
        if _bare(window[0].text) == spelling.term.capitalize() and spelling.term.islower():
            return  # a sentence begins with it
        # “her on” is seldom the Heron; “Rope Walk” was meant as a name, whatever its parts.
        parted = len(window) != len(spelling.term.split())
        meant = any(_bare(word.text)[:1].isupper() for word in window) or self._odd(window) != (False, False)
        yield Mending(first, last, _dressed(spelling.term, window), meant or not parted, 1.0)

    def _odd(self, window: Sequence[Word]) -> tuple[bool, bool]:
        """Whether there is a word in no dictionary, or nothing but letters one by one; and whether one is doubted."""
        written = [_letters(_bare(word.text)) for word in window]
        spelt = len(written) > 1 and all(len(each) == 1 for each in written)
        unknown = spelt or any(not self._known(each) for each in written)
        return unknown, min(word.confidence for word in window) < DOUBTED

    def _by_sound(self, window: Sequence[Word], first: int, last: int) -> Iterator[Mending]:
        unknown, doubted = self._odd(window)
        if not (unknown or doubted):
            return
        phones = self._phones(_text(window))
        for spelling, letters, term in self._terms:
            if abs(len(term) - len(phones)) > 1 + len(term) // 3 or len(letters) < 3:
                continue
            score = self._alike(phones, term) + self._shared(window, spelling)
            sure = score >= (SURE_UNKNOWN if unknown else SURE_DOUBTED)
            if sure or score >= PROPOSED:
                yield Mending(first, last, _dressed(spelling.term, window), sure, score)

    def _shared(self, window: Sequence[Word], spelling: Spelling) -> float:
        """A word of a name heard right speaks for the others: a tenth."""
        parts = [_letters(part) for part in spelling.term.split()]
        said = [_letters(_bare(word.text)) for word in window]
        alike = len(parts) == len(said) and any(a == b and len(a) > 3 for a, b in zip(parts, said, strict=True))
        return 0.1 if alike else 0.0

    def _distantly(self, window: Sequence[Word], letters: str, term: tuple[str, ...]) -> float:
        """How alike words and a term are, by their sound or by their letters."""
        written = _letters(" ".join(_bare(word.text) for word in window))
        return max(self._alike(self._phones(_text(window)), term), self._similarity(written, letters))

    def _alike(self, one: tuple[str, ...], other: tuple[str, ...]) -> float:
        return alike(one, other, self._similarity)

    def _phones(self, text: str) -> tuple[str, ...]:
        return tuple(phone for word in text.split() for phone in self._sounds(_bare(word)))


def alike(one: Sequence[str], other: Sequence[str], similarity: Similarity) -> float:
    """How alike two runs of phones sound, 0 to 1: the mean of exact likeness and of that by kinds of phones."""
    rough = similarity([_CLASSES.get(p, p) for p in one], [_CLASSES.get(p, p) for p in other])
    return (similarity(one, other) + rough) / 2


_INITIALS = re.compile(r"\b(?:\w\.){2,}")


def _letters(text: str) -> str:
    """The letters of a text, small. Initials keep their points: a "T.O." that was heard is no "to"."""
    return re.sub(r"[^\w.]+|_", "", text.casefold()) if _INITIALS.search(text) else re.sub(r"[\W_]+", "", text.casefold())


def _bare(word: str) -> str:
    """A word without its punctuation and possessive."""
    return re.sub(r"['’]s$", "", word.strip('.,;:!?…“”"()[]'))


def _text(words: Sequence[Word]) -> str:
    return " ".join(word.text for word in words)


def _dressed(term: str, window: Sequence[Word]) -> str:
    """The term with the punctuation and the possessive of what it replaces."""
    before = re.match(r"^[“\"(\[]*", window[0].text)
    after = re.search(r"(?:['’]s)?[.,;:!?…”\")\]]*$", window[-1].text)
    ending = after[0] if after else ""
    if _INITIALS.search(window[-1].text) or (len(_letters(window[-1].text)) == 1 and len(ending) > 1):
        ending = ending.removeprefix(".")  # that of an initial
    return f"{before[0] if before else ''}{term}{ending}"
