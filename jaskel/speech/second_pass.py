"""What the recogniser passed over is listened to a second time.

Now and then a recogniser leaves out whole sentences, most of all where something is said several times in a row. Where there is
voice for a second and more but no word, or a single one drawn out over it, that stretch is given to it once more by itself.
What is shorter may be a hesitation, or some words of a sentence: that shows when it is heard once more with what is said
around it.
"""

from __future__ import annotations

from collections.abc import Callable, Iterator, Sequence
from dataclasses import replace
from itertools import combinations, pairwise
from statistics import median

import numpy as np
from rapidfuzz.distance import Levenshtein

from jaskel.core.tidy.fillers import FILLERS
from jaskel.core.tidy.finding import plain
from jaskel.speech.align import Align, TimedWord, align_words
from jaskel.speech.recognise import RATE_16K, HeardWord, Voice

Listen = Callable[[np.ndarray, Voice], Sequence[HeardWord]]
"""Tells what is said in a sound (float32 mono at 16 kHz) with voice between some seconds of it."""

PASSED_OVER = 1.0
"""Seconds of voice. What is shorter is a hesitation, a laugh, or a word of somebody else's,"""

HIDDEN = 0.6
"""but more than one word where one is drawn out over it."""

AROUND = 0.06
"""So much of the sound on either side goes along, in seconds: a word may begin before its voice is noticed."""

LONG, LONG_LETTER, DIGIT = 0.42, 0.08, 5
"""A word that takes longer than so many seconds, and so many for each letter, is drawn out over what was passed over. A digit
is spoken as five letters or so. (Of 14,000 words in thirty recordings six are, and all of them were misheard.)"""

SURE = 0.6
"""Below this median word probability the words are guesses: nobody speaks there, or not into this microphone."""


SHORTER = 0.25
"""Seconds of voice; in less there is hardly a word."""

CONTEXT = 2.0
"""Seconds on either side that are heard with it."""

SOFTER = 9.0
"""Decibels. What is so much softer than the words is not of the same mouth: somebody else's voice, from another microphone."""


def with_passed_over(
    sound: np.ndarray,
    words: Sequence[TimedWord],
    voice: Sequence[tuple[float, float]],
    listen: Listen,
    align: Align = align_words,
) -> list[TimedWord]:
    """Timed words of ``sound`` (float32 mono at 16 kHz, voice between the seconds of ``voice``), with those passed over."""
    out: list[TimedWord] = []
    at = 0
    for first, last, begin, end in _without_words(words, voice, len(sound) / RATE_16K):
        part, inside = _between(sound, voice, begin, end)
        heard = listen(part, inside)
        if len(heard) > 1 and median(word.probability for word in heard) >= SURE:
            out += words[at:first]
            at = last
            out += [replace(word, start=word.start + begin, end=word.end + begin) for word in align(part, heard, inside)]
    return [*out, *words[at:]]


def _without_words(
    words: Sequence[TimedWord], voice: Sequence[tuple[float, float]], length: float
) -> Iterator[tuple[int, int, float, float]]:
    """Which words, none or drawn out, stand where there is voice without words; and from where to where that lies."""
    plausible = [index for index, word in enumerate(words) if not _is_drawn_out(word)]
    for before, after in pairwise([-1, *plausible, len(words)]):
        begin = words[before].end if before >= 0 else 0.0
        end = words[after].start if after < len(words) else length
        inside = [(max(a, begin), min(b, end)) for a, b in voice if b > begin and a < end]
        if sum(b - a for a, b in inside) >= (HIDDEN if after - before > 1 else PASSED_OVER):
            yield before + 1, after, max(begin, inside[0][0] - AROUND), min(end, inside[-1][1] + AROUND)


def _is_drawn_out(word: TimedWord) -> bool:
    said = plain(word.text)
    letters = sum(DIGIT if each.isdigit() else 1 for each in said)
    return said not in FILLERS and word.end - word.start > LONG + LONG_LETTER * letters


def with_swallowed(
    sound: np.ndarray,
    words: Sequence[TimedWord],
    voice: Sequence[tuple[float, float]],
    listen: Listen,
    align: Align = align_words,
) -> list[TimedWord]:
    """The same with single words where there is voice too short for :func:`with_passed_over`, but as loud as the words."""
    if not words:
        return []  # nobody speaks here, or not into this microphone
    out = list(words)
    softest = _level(sound, words) - SOFTER
    for begin, end in _short_gaps(words, voice, len(sound) / RATE_16K):
        if _level(sound, [TimedWord("", begin, end, 1.0)]) < softest:
            continue
        first = sum(word.start < begin - CONTEXT for word in out)
        last = sum(word.end <= end + CONTEXT for word in out)
        at = sum(word.start < begin for word in out)
        since = max(0.0, min([begin, *(word.start for word in out[first:at])]) - AROUND)
        until = max([end, *(word.end for word in out[at:last])]) + AROUND
        part, inside = _between(sound, voice, since, until)
        here = [HeardWord(word.text, word.start - since, word.end - since, word.probability) for word in out[first:last]]
        told = _with_more(here, at - first, listen(part, inside))
        if told is not None:
            timed = align(part, told, inside)
            out[first:last] = [replace(word, start=word.start + since, end=word.end + since) for word in timed]
    return out


def _between(sound: np.ndarray, voice: Voice, begin: float, end: float) -> tuple[np.ndarray, Voice]:
    """The sound between two seconds, and the voice in it in seconds from there on."""
    inside = [(max(a, begin) - begin, min(b, end) - begin) for a, b in voice if b > begin and a < end]
    return sound[round(begin * RATE_16K) : round(end * RATE_16K)], inside


def _short_gaps(
    words: Sequence[TimedWord], voice: Sequence[tuple[float, float]], length: float
) -> Iterator[tuple[float, float]]:
    """From-to of voice between two words, that is long enough for another one."""
    edges = [0.0, *(edge for word in words for edge in (word.start, word.end)), length]
    for before, after in zip(edges[::2], edges[1::2], strict=True):
        for a, b in voice:
            begin, end = max(a, before), min(b, after)
            if end - begin >= SHORTER + (RINGING if a < before else 0.0):
                yield begin, end


RINGING = 0.1
"""A word rings out for so many seconds in a room."""


def _with_more(words: Sequence[HeardWord], at: int, again: Sequence[HeardWord]) -> list[HeardWord] | None:
    """The words with what was heard at place ``at`` the second time; None where that is no more than at first, or a guess.

    What was heard the second time is parted in three, so that its beginning and its end are most like the words before and
    after that place.
    """
    one, other = [plain(word.text) for word in words], [plain(word.text) for word in again]
    before = [Levenshtein.distance(one[:at], other[:begin]) for begin in range(len(other) + 1)]
    after = [Levenshtein.distance(one[at:], other[end:]) for end in range(len(other) + 1)]
    as_it_was = min(a + b for a, b in zip(before, after, strict=True))
    parted = [(before[a] + after[b], a, b) for a, b in combinations(range(len(other) + 1), 2)]
    changes, begin, end = min(parted, default=(as_it_was, 0, 0))
    new = again[begin:end]
    if changes >= as_it_was or median(word.probability for word in new) < SURE:
        return None
    return None if all(plain(word.text) in FILLERS for word in new) else [*words[:at], *new, *words[at:]]


def _level(sound: np.ndarray, words: Sequence[TimedWord]) -> float:
    """The middle one of the levels of some words, in decibels."""
    parts = [sound[round(word.start * RATE_16K) : round(word.end * RATE_16K)] for word in words]
    return median([10 * float(np.log10(np.mean(part**2) + 1e-9)) for part in parts if len(part)] or [-90.0])
