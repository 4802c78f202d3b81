"""When each word was said, where there is no dictionary of pronunciations: by where the recogniser looked.

While it writes a word, the recogniser attends to the sound of it. Those times are off by a tenth of a second, and run on over
rests; kept to the voice, and drawn in like all others, they are near enough to cut by.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import replace

import numpy as np

from jaskel.speech.activity import voiced
from jaskel.speech.align import TimedWord
from jaskel.speech.edges import drawn_in
from jaskel.speech.recognise import HeardWord, Recogniser, Voice

NEAR = 0.5
"""A word that lies in no voice belongs to the nearest, if that is no further than so many seconds."""

FITS = 0.25
"""Mean probability from which words fit a sound. (Of fifteen sentences in Italian, German and Spanish: what is said 0.34 to
0.88, another sentence 0.06 to 0.21, and once 0.37.)"""

LEAST = 0.06
"""Seconds a word takes at least."""


def by_attention(_sound: np.ndarray, words: Sequence[HeardWord], voice: Voice) -> list[TimedWord]:
    """Times for words in the order they were heard, by their rough times and the voice (from-to in seconds) they lie in.

    A word without voice anywhere near is marked as not fitted.
    """
    out: list[TimedWord] = []
    for word in words:
        begin = max(word.start, out[-1].end if out else 0.0)
        end = max(word.end, begin + LEAST)
        sides = [(max(a, begin), min(b, end)) for a, b in voice if a < end and b > begin]
        if sides:
            start, until = max(sides, key=lambda side: side[1] - side[0])
            out.append(TimedWord(word.text, start, max(until, start + LEAST), word.probability))
            continue
        near = min(voice, key=lambda stretch: max(stretch[0] - end, begin - stretch[1]), default=None)
        if near and max(near[0] - end, begin - near[1]) <= NEAR and near[1] > begin:
            out.append(TimedWord(word.text, near[0], min(near[1], near[0] + max(LEAST, end - begin)), word.probability))
        else:
            out.append(TimedWord(word.text, begin, end, word.probability, fitted=False))
    return [_before(word, after) for word, after in zip(out, [*out[1:], None], strict=True)]


def by_known_words(
    recogniser: Recogniser, language: str, sound: np.ndarray, texts: Sequence[str], voice: Voice
) -> list[TimedWord]:
    """Times for words that are known to be said in ``sound``, in this order: by where the recogniser looks when given them."""
    return by_attention(sound, recogniser.placed(sound, texts, language), voice)


def fitting(recogniser: Recogniser, language: str, sound: np.ndarray, texts: Sequence[str]) -> list[tuple[float, float]] | None:
    """From-to in seconds of words said in this order in a few seconds of ``sound``, or None where they do not fit it."""
    words = recogniser.placed(sound, texts, language)
    if not words or sum(word.probability for word in words) / len(words) < FITS:
        return None
    return [(word.start, word.end) for word in drawn_in(sound, by_attention(sound, words, voiced(sound)))]


def _before(word: TimedWord, after: TimedWord | None) -> TimedWord:
    """A word that ends before the next begins."""
    return word if after is None or word.end <= after.start else replace(word, end=max(word.start, after.start))
