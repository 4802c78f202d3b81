"""Hesitations that were written as words: "her" for an "er", "the" for an "uh".

Recognisers learn from tidied captions and take a hesitation for whatever little word sounds like it. Between two rests,
where people hesitate, the recogniser is asked how likely an "uh", "um" or "er" would be in the place of a short word. By the
same habit it finds them too unlikely; so one that is not much less likely than the word is what was said.
"""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from dataclasses import replace
from math import inf

import numpy as np

from jaskel.core.tidy.fillers import FILLERS
from jaskel.core.tidy.finding import plain
from jaskel.speech.align import TimedWord
from jaskel.speech.recognise import RATE_16K, Recogniser

LANGUAGE = "en"
HESITATIONS = ("uh,", "um,", "er,")
"""How they are written in the language that is known here."""

SHORT, MOST_LETTERS, APART = 0.35, 5, 0.1
"""Asked about are words of at most so many seconds and letters between two rests of so many seconds."""

LESS_LIKELY = ((0.6, 9.0), (0.95, 6.0), (inf, 3.0))
"""Up to which probability of a word, the logarithm of that of a hesitation may be by how much less. (In eleven recordings words
that were hesitations lie from 5 above to 7 below, others between two rests mostly 9 to 30 below.)"""

DOUBTED = 0.45
"""Probability given to it: a person should have a look."""

AROUND = 8
"""Words on either side that are taken along, for the sentence to make sense,"""

EDGE = 0.2
"""and seconds of sound beside them."""


def with_hesitations(sound: np.ndarray, words: Sequence[TimedWord], recogniser: Recogniser, language: str) -> list[TimedWord]:
    """Timed words of ``sound`` (float32 mono at 16 kHz), with those that were hesitations written as such."""
    out = list(words)
    for index in _between_rests(words) if language == LANGUAGE else ():
        as_written, *others = likelihoods_of(sound, out, index, (words[index].text, *HESITATIONS), recogniser, language)
        best = int(np.argmax(others))
        if others[best] >= as_written - next(less for most, less in LESS_LIKELY if words[index].probability <= most):
            out[index] = replace(words[index], text=HESITATIONS[best], probability=DOUBTED)
    return out


def likelihoods_of(
    sound: np.ndarray, words: Sequence[TimedWord], index: int, texts: Sequence[str], recogniser: Recogniser, language: str
) -> list[float]:
    """How likely each of some texts is in the place of a word, as the logarithm of a probability."""
    first, last = max(0, index - AROUND), min(len(words), index + AROUND + 1)
    before, after = (" ".join(word.text for word in words[a:b]) for a, b in ((first, index), (index + 1, last)))
    begin, end = max(0.0, words[first].start - EDGE), words[last - 1].end + EDGE
    part = sound[round(begin * RATE_16K) : round(end * RATE_16K)]
    return recogniser.likelihoods(part, [f"{before} {text} {after}" for text in texts], language)


def _between_rests(words: Sequence[TimedWord]) -> Iterator[int]:
    """Short words that may be hesitations; beside one that was heard they are the word at which the speaker got stuck."""
    for index in range(1, len(words) - 1):
        before, word, after = words[index - 1 : index + 2]
        short = word.end - word.start <= SHORT and len(plain(word.text)) <= MOST_LETTERS
        apart = word.start - before.end >= APART and after.start - word.end >= APART
        if short and apart and not {plain(each.text) for each in (before, word, after)} & FILLERS:
            yield index
