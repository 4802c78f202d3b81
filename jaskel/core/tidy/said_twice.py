"""Whole sentences said twice in a row: complete both times, so a person has to say whether that was meant.

Whoever reads to a microphone says a sentence again when its melody was wrong, without a word about it. Short echoes ("Tap it
twice. Tap it twice."), what is joined by "and", and refrains with something between them are left alone; so are sentences that
differ in a number, or in what they count up.
"""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from difflib import SequenceMatcher
from itertools import pairwise

from jaskel.core.tidy.fillers import DOUBLED, FILLERS
from jaskel.core.tidy.finding import Finding, plain, sentences_of, set_of
from jaskel.core.tidy.retakes import MEANT
from jaskel.core.timebase import RATE, Ticks
from jaskel.core.transcript import Word

FEWEST = 4
"""Words. What is shorter is an echo."""

WITHIN: Ticks = 20 * RATE
"""A sentence is said again before so long a rest, or not as a take of the same."""

WORDS_FOR_ONE_OTHER = 7
"""For so many words, one may have been heard as another,"""

MISHEARD = 0.5
"""whose letters are so much the same (Ratcliff and Obershelp's measure)."""

COUNTING = set_of(
    "one two three four five six seven eight nine ten eleven twelve twenty thirty forty fifty sixty seventy eighty ninety "
    "hundred thousand first second third fourth fifth last next other another more less "
    "monday tuesday wednesday thursday friday saturday sunday"
)
"""Sentences that differ in these count something up."""

Said = Sequence[tuple[int, str]]
"""Indexes of words and what is said, without hesitations."""


def said_twice(words: Sequence[Word]) -> Iterator[Finding]:
    """The first of each two sentences that are the same, up to where the second begins."""
    sentences = [said for begin, end in sentences_of(words) if (said := _said(words, begin, end))]
    for said in sentences:
        half = len(said) // 2
        if len(said) % 2 == 0 and said[half - 1][1] not in MEANT and _same(words, said[:half], said[half:]):
            yield _finding(words, said[:half], said[half:])
    for one, other in pairwise(sentences):
        if _same(words, one, other):
            yield _finding(words, one, other)
    for at in range(len(sentences) - 3):
        # A short one goes with the next: "Good morning. This is where we left off. Good morning. This is where we left off."
        (short, one), (again, other) = sentences[at : at + 2], sentences[at + 2 : at + 4]
        if len(short) < FEWEST <= len(one) and _texts(short) == _texts(again) and _same(words, one, other):
            yield _finding(words, short, again)


def _said(words: Sequence[Word], begin: int, end: int) -> Said:
    return [(at, text) for at in range(begin, end) if (text := plain(words[at].text)) and text not in FILLERS]


def _texts(said: Said) -> list[str]:
    return [text for _, text in said]


def _finding(words: Sequence[Word], one: Said, other: Said) -> Finding:
    begin, until = one[0][0], other[0][0]
    # A hesitation before the second goes with the first.
    text = " ".join(word.text for word in words[begin:until])
    return Finding("retake", words[begin].start, words[until].start, text, why="complete both times", twice=True)


def _same(words: Sequence[Word], one: Said, other: Said) -> bool:
    if min(len(one), len(other)) < FEWEST or words[one[0][0]].voice != words[other[0][0]].voice:
        return False
    if words[other[0][0]].start - words[one[-1][0]].end > WITHIN:
        return False
    first, second = _texts(one), _texts(other)
    others = 0
    for what, a, b, c, d in SequenceMatcher(None, first, second, autojunk=False).get_opcodes():
        if what == "equal":
            continue
        here, there = first[a:b], second[c:d]
        if what != "replace":
            # A small word too many, or stumbled over, makes no other sentence.
            if len(here) + len(there) > 1 or not set(here + there) <= DOUBLED:
                return False
        elif len(here) != len(there) or not all(map(_misheard, here, there)):
            return False
        others += max(len(here), len(there))
    return others <= max(len(first), len(second)) // WORDS_FOR_ONE_OTHER


def _misheard(one: str, other: str) -> bool:
    """Whether one word may have been heard as the other."""
    counted = {one, other} & COUNTING or (one + other).isdigit()
    return not counted and SequenceMatcher(None, one, other, autojunk=False).ratio() >= MISHEARD
