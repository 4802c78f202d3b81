"""Words often said without meaning anything: “like”, “you know”, “I mean”, “so”. Listed apart, since they are often meant.

Whether such a word is meant is told by what stands beside it and by how it is set off. “Like” after “looks” compares something;
between two commas or rests it does not.
"""

from __future__ import annotations

from collections.abc import Iterator, Mapping, Sequence
from dataclasses import dataclass

from jaskel.core.tidy.finding import Finding, plain, set_of
from jaskel.core.timebase import RATE, Ticks
from jaskel.core.transcript import Word

SET_OFF: Ticks = RATE * 12 // 100
"""A gap of 0.12 s sets a word off as a comma does."""

RESTS: Ticks = RATE // 5
"""Between two rests of 0.2 s a word belongs to neither neighbour, whatever commas were written."""


SURE = 0.6
"""What the recogniser is less sure of may be another word. (Of 45 that were said in talks, none was below, three below 0.9.)"""


QUICKEST: Ticks = RATE * 3 // 100
"""Quicker than in 0.03 s for each letter nobody says it: then it was laid where something else is said. (Of 125 in thirty-eight
recordings the quickest took 0.047 s.)"""


@dataclass(frozen=True)
class Meant:
    """Neighbours beside which a phrase is meant. ``opens``: it is only empty where a sentence opens with it.

    ``twice``: it must be set off on both sides to count as empty. ``numbers``: before a number it says "about", and is empty
    wherever it stands. ``clauses``: what opens a sentence and has another subject after it needs no comma.
    """

    after: frozenset[str] = frozenset()
    before: frozenset[str] = frozenset()
    opens: bool = False
    closes: bool = False
    twice: bool = False
    numbers: bool = False
    clauses: bool = False


_QUESTIONS = "what how why when where who which whether that if"
_SUBJECTS = set_of(
    "i i'm i've i'd i'll we we're we've they they're he he's she she's it's that's there there's nobody everybody everyone "
    "somebody someone"
)
_NUMBERS = set_of(
    "two three four five six seven eight nine ten eleven twelve fifteen twenty thirty forty fifty sixty seventy eighty ninety "
    "hundred thousand half"
)
_ARTICLES = "a an the this these those that what some any every same all one no of"
_COMPARES = set_of(
    "look looks looked looking sound sounds sounded sounding feel feels felt feeling seem seems seemed taste tastes tasted "
    "smell smells smelled smelt would i'd you'd we'd they'd he'd she'd"
)
EMPTY: Mapping[tuple[str, ...], Meant] = {
    ("like",): Meant(
        after=set_of(
            " ".join(_COMPARES) + " i you we they people to "
            "don't didn't doesn't do did really more much something anything nothing things stuff "
            "exactly quite just not what's is was it's that's be behave act work works acted more rather bit who"
        ),
        twice=True,
        numbers=True,
    ),
    ("you", "know"): Meant(
        after=set_of("do did if as what how would to that let before didn't don't could should might must will"),
        before=set_of(_QUESTIONS + " the a an about it him her them my your his this these everything nothing better exactly"),
    ),
    ("i", "mean"): Meant(
        after=set_of("what do did know if that how which"),
        before=set_of("it that the this to by what business well"),
        opens=True,
        clauses=True,
    ),
    ("sort", "of"): Meant(after=set_of(_ARTICLES + " new different another right wrong first only best worst")),
    ("kind", "of"): Meant(after=set_of(_ARTICLES + " new different another right wrong first only best worst")),
    ("so",): Meant(before=set_of("that far much many long what did do i'd am are is was will would can it's"), opens=True),
    ("right",): Meant(after=set_of("all that's it's is are be not just quite turn the to"), closes=True),
}
"""English phrases that often mean nothing, each with the neighbours beside which they do."""


def empty_words(words: Sequence[Word], phrases: Mapping[tuple[str, ...], Meant] = EMPTY) -> Iterator[Finding]:
    """Phrases that are set off and not beside a neighbour that needs them."""
    said = [plain(word.text) for word in words]
    by_first: dict[str, list[tuple[str, ...]]] = {}
    for phrase in phrases:
        by_first.setdefault(phrase[0], []).append(phrase)
    for index, text in enumerate(said):
        for phrase in by_first.get(text, ()):
            last = index + len(phrase) - 1
            said_here = tuple(said[index : last + 1]) == phrase and _is_said(words, index, last, phrase)
            if said_here and _is_empty(words, said, index, last, phrases[phrase]):
                shown = " ".join(word.text for word in words[index : last + 1])
                yield Finding("empty word", words[index].start, words[last].end, shown, why=_why(words, index, last))


def _is_said(words: Sequence[Word], first: int, last: int, phrase: tuple[str, ...]) -> bool:
    """Whether a phrase that was written was said there, too: surely, in one go, and no quicker than one can."""
    sure = min(word.confidence for word in words[first : last + 1]) >= SURE
    in_one_go = all(_gap(words, index) < RESTS for index in range(first, last))
    return sure and in_one_go and words[last].end - words[first].start >= QUICKEST * sum(map(len, phrase))


def _is_empty(words: Sequence[Word], said: Sequence[str], first: int, last: int, meant: Meant) -> bool:
    opens = first == 0 or words[first - 1].ends_sentence or words[first - 1].voice != words[first].voice
    closes = last + 1 == len(words) or words[last].ends_sentence
    comma = words[last].text[-1:] in ",–-…"
    between_commas = comma and not opens and words[first - 1].text[-1:] in ",–-…"
    between_rests = not opens and min(_gap(words, first - 1), _gap(words, last)) >= RESTS
    if meant.numbers and not closes and _is_number(said[last + 1]) and (opens or said[first - 1] not in _COMPARES):
        return True
    if meant.clauses and opens and not closes and said[last + 1] in _SUBJECTS:
        return True
    if not opens and not between_commas and not between_rests and said[first - 1] in meant.after:
        return False
    if meant.closes:
        # Recognisers hear a question in "a lot of bread, right?" or do not; the comma they hear in both.
        asks = words[last].text.rstrip().endswith("?") or words[first - 1].text[-1:] == ","
        return closes and not opens and asks
    if not closes and not comma and said[last + 1] in meant.before:
        return False
    if meant.opens:
        return opens and not closes and (comma or _gap(words, last) >= SET_OFF)
    before = opens or words[first - 1].text[-1:] in ",–-…" or _gap(words, first - 1) >= SET_OFF
    after = closes or comma or _gap(words, last) >= SET_OFF
    if opens and closes:
        return False  # a sentence of its own is an answer
    return before and after if meant.twice else before or after


def _is_number(text: str) -> bool:
    return text in _NUMBERS or text[:1].isdigit()


def _gap(words: Sequence[Word], index: int) -> Ticks:
    return words[index + 1].start - words[index].end if 0 <= index < len(words) - 1 else 0


def _why(words: Sequence[Word], first: int, last: int) -> str:
    if first == 0 or words[first - 1].ends_sentence:
        return "opens a sentence"
    return "closes a sentence" if words[last].ends_sentence else "set off from the words around"
