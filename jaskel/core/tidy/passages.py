"""Whole sentences and passages said again: somebody was not content with them, and took them once more.

Short sentences are said twice on purpose ("Knead it twice. Knead it twice."), long ones are not; nor are several in a row.
"""

from __future__ import annotations

from bisect import bisect_left
from collections.abc import Collection, Iterator, Sequence
from difflib import SequenceMatcher
from itertools import islice, pairwise

from jaskel.core.tidy.fillers import FILLERS
from jaskel.core.tidy.finding import Finding, plain, sentences_of
from jaskel.core.tidy.retakes import CUES
from jaskel.core.timebase import RATE, Ticks
from jaskel.core.transcript import Word

FEWEST = 10
"""Words. What is shorter may be meant."""

MOST_SENTENCES = 16
WITHIN: Ticks = 150 * RATE
"""A passage longer than this is not taken again as a whole."""

ALIKE = 0.7
"""The two first sentences share so much, in order (by Ratcliff and Obershelp's measure)."""

SAID_AGAIN = 0.75
"""So much of what was said first is said again, in order."""

LONGEST_CUE = 8
"""Words of a sentence that only says that what follows is said again."""

MOST_WORDS_BEFORE_COMMA = 4
"""A cue that is the beginning of a sentence is no longer than this."""

OPENING, FEWEST_AFTER_CUE = 3, 5
"""By so many of its first words the beginning of a passage is found within a sentence, where so many follow the cue."""

Sentence = tuple[int, int]
"""From-to among the words."""


def passages_again(words: Sequence[Word], cues: Collection[str] = CUES) -> Iterator[Finding]:
    """Sentences and passages that are said again right after they were said, each up to where that begins."""
    parts = _parts(words, cues)
    said = [_said(words, part) for part in parts]
    done = 0
    for first in range(len(parts)):
        if first < done or len(said[first]) < 3:
            continue
        again = _again(words, parts, said, first, cues)
        if again is not None:
            opening = _opening(said, first, again, done, cues)
            begin, until = parts[first - opening][0], parts[again - opening][0]
            text = " ".join(word.text for word in words[begin:until])
            yield Finding("retake", words[begin].start, words[until].start, text, why="said again as a whole")
            done = again


def _opening(said: Sequence[Sequence[str]], first: int, again: int, done: int, cues: Collection[str]) -> int:
    """How many short sentences before both are the same, and so belong to them: "Good morning. …" """
    count = 0
    while done <= first - count - 1 and first < again - count - 1:
        before = said[first - count - 1]
        if not before or before != said[again - count - 1] or _is_cue(before, cues):
            break
        count += 1
    return count


def _parts(words: Sequence[Word], cues: Collection[str]) -> list[Sentence]:
    """The sentences, parted where one begins only to say that what follows is said again, and where that was said before.

    Recognisers write a comma as often as a full stop where a passage begins, and read a cue as the beginning of a sentence.
    """
    sentences = list(sentences_of(words))
    parts = [
        part
        for at, sentence in enumerate(sentences)
        for part in _after_cue(words, sentence, [*sentences[max(0, at - 1) : at], *sentences[at + 1 : at + 2]], cues)
    ]
    said = [plain(word.text) for word in words]
    begins = {begin for begin, _ in parts}
    for cue, (begin, end) in pairwise(parts):
        opening = said[begin : begin + OPENING]
        if end - begin < FEWEST_AFTER_CUE or not _is_cue(_said(words, cue), cues):
            continue
        earliest = bisect_left(words, words[begin].start - WITHIN, key=lambda word: word.start)
        same = (at for at in range(cue[0] - OPENING, earliest, -1) if said[at : at + OPENING] == opening)
        begins.update(islice(same, 1))
    return list(pairwise([*sorted(begins), len(words)]))


def _after_cue(words: Sequence[Word], sentence: Sentence, beside: Sequence[Sentence], cues: Collection[str]) -> list[Sentence]:
    """A sentence in two where its beginning is a cue; with what the one before or after begins as well, nothing is given up."""
    begin, end = sentence
    for at in range(min(begin + MOST_WORDS_BEFORE_COMMA, end - 1), begin, -1):
        cue = _said(words, (begin, at))
        if words[at - 1].text[-1:] == "," and _is_cue(cue, cues):
            same = any(_said(words, other)[: len(cue)] == cue for other in beside)
            return [sentence] if same else [(begin, at), (at, end)]
    return [sentence]


def _said(words: Sequence[Word], part: Sentence) -> list[str]:
    return [text for word in words[part[0] : part[1]] if (text := plain(word.text)) and text not in FILLERS]


def _again(
    words: Sequence[Word], parts: Sequence[Sentence], said: Sequence[Sequence[str]], first: int, cues: Collection[str]
) -> int | None:
    """The sentence with which what begins at sentence ``first`` is said again; None where it is not."""
    begun = words[parts[first][0]]
    for again in range(first + 1, min(first + MOST_SENTENCES, len(parts))):
        word = words[parts[again][0]]
        if word.voice != begun.voice or word.start - begun.start > WITHIN:
            return None
        if not _alike(said[first], said[again]):
            continue
        last = again
        while last - 1 > first and _is_cue(said[last - 1], cues):
            last -= 1
        attempt = [text for each in said[first:last] for text in each]
        rest = (text for each in range(again, len(parts)) for text in said[each])
        following = list(islice(rest, len(attempt) * 3 // 2))
        if len(attempt) >= FEWEST and _shared(attempt, following) >= SAID_AGAIN * len(attempt):
            return again
    return None


def _is_cue(said: Sequence[str], cues: Collection[str]) -> bool:
    """Whether a short sentence says that what follows is said again: "Let me do that again." """
    return len(said) <= LONGEST_CUE and any(text in cues for text in said) and not set(said).isdisjoint(TELLING)


TELLING = frozenset(["again", "sorry", "take", "over", "once", "wait"])


def _alike(one: Sequence[str], other: Sequence[str]) -> bool:
    shorter = min(len(one), len(other))
    if len(set(one) & set(other)) * 2 < shorter:
        return False
    # One of the two may have been given up on the way.
    return _shared(one[:shorter], other[:shorter]) >= ALIKE * shorter > 0


def reach(words: Sequence[Word], attempt: Sequence[Word], first: int) -> int:
    """How many words after ``first`` of the same voice an attempt is said again up to; 0 where it is hardly said again."""
    following = [plain(word.text) for word in words[first : first + len(attempt) * 3 // 2] if word.voice == words[first].voice]
    blocks = SequenceMatcher(None, [plain(word.text) for word in attempt], following, autojunk=False).get_matching_blocks()
    return max((block.b + block.size - 1 for block in blocks if block.size >= FEWEST_SAME), default=0)


FEWEST_SAME = 3
"""Words in a row that are the same; fewer are by chance."""


def _shared(one: Sequence[str], other: Sequence[str]) -> int:
    return sum(block.size for block in SequenceMatcher(None, one, other, autojunk=False).get_matching_blocks())
