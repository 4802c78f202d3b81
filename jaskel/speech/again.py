"""What the recogniser passed over is listened to a second time.

Now and then a recogniser leaves out whole sentences, most of all where something is said several times in a row. Where there is
voice for a second and more but no word, or a single one drawn out over it, that stretch is given to it once more by itself.
"""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from dataclasses import replace
from itertools import pairwise
from statistics import median

import numpy as np

from jaskel.speech.align import TimedWord, align_words
from jaskel.speech.recognise import RATE_16K, HeardWord, Recogniser

PASSED_OVER = 1.0
"""Seconds of voice. What is shorter is a hesitation, a laugh, or a word of somebody else's."""

AROUND = 0.06
"""So much of the sound on either side goes along, in seconds: a word may begin before its voice is noticed."""

LONG, LONG_LETTER = 0.5, 0.1
"""A word that takes longer than half a second and a tenth for each letter is drawn out over what was passed over."""

SURE = 0.6
"""Below this median word probability the words are guesses: nobody speaks there, or not into this microphone."""


def with_passed_over(
    sound: np.ndarray,
    words: Sequence[TimedWord],
    voice: Sequence[tuple[float, float]],
    recogniser: Recogniser,
    language: str,
) -> list[TimedWord]:
    """Timed words of ``sound`` (float32 mono at 16 kHz, voice between the seconds of ``voice``), with those passed over."""
    out: list[TimedWord] = []
    at = 0
    for first, last, begin, end in _without_words(words, voice, len(sound) / RATE_16K):
        part = sound[round(begin * RATE_16K) : round(end * RATE_16K)]
        inside = [(max(a, begin) - begin, min(b, end) - begin) for a, b in voice if b > begin and a < end]
        if heard := _heard(part, inside, recogniser, language):
            out += words[at:first]
            at = last
            out += [replace(word, start=word.start + begin, end=word.end + begin) for word in align_words(part, heard, inside)]
    return [*out, *words[at:]]


def _without_words(
    words: Sequence[TimedWord], voice: Sequence[tuple[float, float]], length: float
) -> Iterator[tuple[int, int, float, float]]:
    """Which words, none or drawn out, stand where there is voice without words; and from where to where that lies."""
    plausible = [index for index, word in enumerate(words) if word.end - word.start < LONG + LONG_LETTER * len(word.text)]
    for before, after in pairwise([-1, *plausible, len(words)]):
        begin = words[before].end if before >= 0 else 0.0
        end = words[after].start if after < len(words) else length
        inside = [(max(a, begin), min(b, end)) for a, b in voice if b > begin and a < end]
        if sum(b - a for a, b in inside) >= PASSED_OVER:
            yield before + 1, after, max(begin, inside[0][0] - AROUND), min(end, inside[-1][1] + AROUND)


def _heard(sound: np.ndarray, voice: Sequence[tuple[float, float]], recogniser: Recogniser, language: str) -> list[HeardWord]:
    (utterances,) = recogniser.utterances([sound], language, [voice])
    words = [word for utterance in utterances for word in utterance.words]
    return words if len(words) > 1 and median(word.probability for word in words) >= SURE else []
