"""Small words that were said twice and written once: "the, the" as "the".

Recognisers learn from tidied captions and leave such stumbles out; then the word is drawn out over both, or stands before the
second one. About these the recogniser is asked how likely it would be that the word was said twice.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import replace

import numpy as np

from jaskel.core.tidy.fillers import DOUBLED, STUMBLED
from jaskel.core.tidy.finding import plain
from jaskel.speech.align import TimedWord, align_words
from jaskel.speech.hesitations import DOUBTED, LANGUAGE, likelihoods_of
from jaskel.speech.recognise import RATE_16K, HeardWord, Recogniser, Voice

DRAWN_OUT, LESS_LIKELY = 0.25, 4.5
"""Asked about are small words of so many seconds and more. Where the logarithm of the probability that it was said twice is by
no more than this less, it was. (In seven recordings, eight of nine that were lie above, and none of 59 others.)"""

REST, LESS_LIKELY_BEFORE_REST = 0.15, 2.5
"""The same for those before a rest of so many seconds, after which the second one may be. (One of three, none of 52 others.)"""

AROUND = 2.0
"""So many seconds of words on either side are aligned anew with the two."""

EDGE = 0.06
"""A word may begin so many seconds before it is noticed."""


def with_stumbles(
    sound: np.ndarray, words: Sequence[TimedWord], voice: Voice, recogniser: Recogniser, language: str
) -> list[TimedWord]:
    """Timed words of ``sound``, those that were said twice as two.

    ``sound`` is float32 mono at 16 kHz, ``voice`` from where to where in seconds there is voice in it.
    """
    out = list(words)
    for index in range(len(words) - 2, 0, -1) if language == LANGUAGE else ():
        less_likely = _how_much_less_likely(*words[index - 1 : index + 2])
        if less_likely is None:
            continue
        once, again = _once_and_again(words[index].text)
        twice = (f"{once}, {again}", f"{once} {again}")
        as_written, *others = likelihoods_of(sound, words, index, (words[index].text, *twice), recogniser, language)
        if max(others) >= as_written - less_likely:
            _say_twice(sound, out, index, voice)
    return out


def _how_much_less_likely(before: TimedWord, word: TimedWord, after: TimedWord) -> float | None:
    """By how much less likely it may be that a word was said twice; None where it is not asked about."""
    said = plain(word.text)
    ends = word.text[-1:] in ".?!…"  # nobody stumbles over the last word of a sentence
    if ends or said not in DOUBLED | STUMBLED or said in (plain(before.text), plain(after.text)):
        return None
    if word.end - word.start >= DRAWN_OUT:
        return LESS_LIKELY
    return LESS_LIKELY_BEFORE_REST if after.start - word.end >= REST else None


def _once_and_again(text: str) -> tuple[str, str]:
    once = text.strip(".,;:?!")
    return once, once if plain(once) == "i" else once.lower()


def _say_twice(sound: np.ndarray, words: list[TimedWord], index: int, voice: Voice) -> None:
    """Put a second one after a word, and align both anew among their neighbours."""
    word = words[index]
    once, again = _once_and_again(word.text)
    first = next(at for at in range(index + 1) if words[at].end >= word.start - AROUND)
    last = next(at for at in range(len(words), index, -1) if words[at - 1].start <= word.end + AROUND)
    two = [replace(word, text=f"{once},", probability=DOUBTED), replace(word, text=word.text.replace(once, again))]
    told = [*words[first:index], *two, *words[index + 1 : last]]
    begin, end = max(0.0, words[first].start - EDGE), words[last - 1].end + EDGE
    inside = [(max(a, begin) - begin, min(b, end) - begin) for a, b in voice if b > begin and a < end]
    rough = [HeardWord(each.text, each.start - begin, each.end - begin, each.probability) for each in told]
    timed = align_words(sound[round(begin * RATE_16K) : round(end * RATE_16K)], rough, inside)
    words[first:last] = [replace(each, start=each.start + begin, end=each.end + begin) for each in timed]
