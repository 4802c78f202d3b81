"""Where passages begin: at another voice, at a pause, and within long speech where the subject changes.

A subject ends where the words after a sentence have little in common with those before it (Hearst, "TextTiling", 1997); a
rest there and a word that opens something new ("so", "now", "anyway") speak for it as well.
"""

from __future__ import annotations

import re
from collections import Counter
from collections.abc import Iterator, Sequence
from math import sqrt
from typing import Protocol

from jaskel.core.timebase import RATE, Ticks


class Spoken(Protocol):
    """What has to be known of a word: see :class:`jaskel.core.transcript.Word`."""

    @property
    def text(self) -> str: ...
    @property
    def start(self) -> Ticks: ...
    @property
    def end(self) -> Ticks: ...
    @property
    def voice(self) -> str | None: ...
    @property
    def begins(self) -> bool | None: ...
    @property
    def ends_sentence(self) -> bool: ...


PASSAGE_REST: Ticks = RATE * 12 // 10
"""A rest this long always begins a new passage."""

SENTENCE_REST: Ticks = RATE * 45 // 100
"""A rest this long begins a new passage when a sentence ended before it."""

PASSAGE_WORDS = 60
"""A passage of more words is parted at the best end of a sentence in it."""

SHORTEST_PART = 20
"""Neither part gets fewer words, however good the place is."""

LONGEST_PASSAGE = 120
"""Nobody reads further without a break, not even where no sentence ends; the page also draws passage by passage."""

BESIDE = 40
"""So many words on either side of a place tell whether the subject goes on."""

OPENERS = frozenset({"so", "now", "but", "anyway", "well", "okay", "ok", "then", "next", "finally", "meanwhile", "look"})
"""English words that often open something new."""

WEIGHT_OF_REST, WEIGHT_OF_OPENER, WEIGHT_OF_LENGTH = 0.5, 0.15, 0.3
"""Beside the share of words that are not in common (0 to 1): a rest of half a second or more counts as much as half of them, an
opener less, and a passage of about sixty words is better than a short or a long one."""


def beginnings(words: Sequence[Spoken]) -> list[int]:
    """The indexes of the words with which passages begin, in order."""
    if not words:
        return []
    firm = [0, *(index for index in range(1, len(words)) if _breaks(words[index - 1], words[index]))]
    found: list[int] = []
    for first, last in zip(firm, [*firm[1:], len(words)], strict=True):
        found += [first, *_parted(words, first, last)]
    return found


def _breaks(before: Spoken, after: Spoken) -> bool:
    if after.begins is not None:
        return after.begins or before.voice != after.voice
    rest = after.start - before.end
    return before.voice != after.voice or rest >= PASSAGE_REST or (rest >= SENTENCE_REST and before.ends_sentence)


def _parted(words: Sequence[Spoken], first: int, last: int) -> Iterator[int]:
    """Where a passage that is too long begins anew."""
    if last - first <= PASSAGE_WORDS:
        return
    stems = [_bare(word.text) for word in words[first:last]]
    offset = first
    while last - first > PASSAGE_WORDS:
        inside = range(first + SHORTEST_PART, min(first + LONGEST_PASSAGE, last - SHORTEST_PART) + 1)
        free = [index for index in inside if words[index].begins is None]
        ends = [index for index in free if words[index - 1].ends_sentence]
        if ends:
            rest = {index: words[index].start - words[index - 1].end for index in ends}
            worth = {index: _worth(stems, first - offset, index - offset, rest[index]) for index in ends}
            first = max(ends, key=worth.__getitem__)
        elif last - first > LONGEST_PASSAGE:
            first = max(free or inside, key=lambda index: (words[index].start - words[index - 1].end, index))
        else:
            return
        yield first


def _worth(stems: Sequence[str], first: int, at: int, rest: Ticks) -> float:
    """How good a place index ``at`` is for a passage that goes on from ``first`` to end."""
    apart = 1 - _common(_subject(stems[max(first, at - BESIDE) : at]), _subject(stems[at : at + BESIDE]))
    length = 1 - abs(at - first - PASSAGE_WORDS) / PASSAGE_WORDS
    opens = stems[at] in OPENERS
    return apart + WEIGHT_OF_REST * min(1.0, 2 * rest / RATE) + WEIGHT_OF_OPENER * opens + WEIGHT_OF_LENGTH * length


def _subject(stems: Sequence[str]) -> Counter[str]:
    """The longer words, which carry the subject, without what bends them; and all of them in scripts without spaces."""
    return Counter(stem[:6] for stem in stems if len(stem) > 3 or (stem and not stem.isascii()))


def _bare(text: str) -> str:
    return re.sub(r"\W+", "", text.casefold())


def _common(one: Counter[str], other: Counter[str]) -> float:
    """The cosine of two counts, 0 to 1."""
    size = sqrt(sum(n * n for n in one.values()) * sum(n * n for n in other.values()))
    return sum(count * other[word] for word, count in one.items()) / size if size else 0.0
