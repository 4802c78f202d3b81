"""A whole recording into words, part by part, so that it can stop and go on anywhere."""

from __future__ import annotations

from collections.abc import Callable, Iterator, Sequence
from dataclasses import dataclass
from statistics import median

import numpy as np

from jaskel.core.problem import Problem
from jaskel.core.timebase import RATE, Ticks, from_seconds
from jaskel.core.transcript import Word, tidy_times
from jaskel.speech.activity import LONGEST_PART, part_end, voiced
from jaskel.speech.again import with_passed_over
from jaskel.speech.align import align_words
from jaskel.speech.edges import drawn_in
from jaskel.speech.recognise import HeardWord, Recogniser

Sound16k = Callable[[Ticks, Ticks], np.ndarray]
"""Gives the sound between two ticks as float32 mono at 16 kHz."""

Mend = Callable[[Sequence[HeardWord], Callable[[str], Sequence[HeardWord]]], Sequence[HeardWord]]
"""Puts recognised words right; it is also given a way to listen again with a prompt."""


def as_heard(words: Sequence[HeardWord], _again: Callable[[str], Sequence[HeardWord]]) -> Sequence[HeardWord]:
    """Mends nothing."""
    return words


FOREIGN_CONFIDENCE = 0.6
"""Below this median word probability the words are guesses. Measured: clear English 0.98, English under white noise of its own
level 0.70, German 0.50."""

FOREIGN_WORDS = 12
"""So many words are needed to judge the language by."""


@dataclass(frozen=True)
class Part:
    """What was said from ``start`` to ``end`` of the recording, words in ticks of the recording."""

    start: Ticks
    end: Ticks
    words: tuple[Word, ...]


def transcribe(
    sound: Sound16k, length: Ticks, recogniser: Recogniser, language: str = "en", start: Ticks = 0, mend: Mend = as_heard
) -> Iterator[Part]:
    """Yield the parts of a recording of ``length`` from ``start`` on, in order and without gaps.

    ``mend`` puts recognised words right before their times are found.

    Raises
    ------
    Problem
        ``language-unknown`` when the recogniser has no weights for ``language``.
    """
    if language not in recogniser.languages:
        raise Problem(
            "language-unknown",
            f"The installed weights do not know the language “{language}”. Start Jaskel with a folder of weights that do "
            "(JASKEL_MODEL=/path/to/folder ./run serve) and transcribe again, or bring captions with times.",
        )
    at = start
    while at < length:
        reach = min(length, at + from_seconds(LONGEST_PART))
        heard = sound(at, reach)
        voice = voiced(heard)
        end = min(reach, at + from_seconds(part_end(voice, (reach - at) / RATE)))
        here = heard[: (end - at) // 3]
        yield Part(at, end, _words(here, voice, at, end, recogniser, language, mend))
        at = end


def _words(
    sound: np.ndarray,
    voice: list[tuple[float, float]],
    start: Ticks,
    end: Ticks,
    recogniser: Recogniser,
    language: str,
    mend: Mend,
) -> tuple[Word, ...]:
    if not voice:
        return ()
    heard = [word for utterance in recogniser.utterances(sound, language, voice) for word in utterance.words]
    mended = mend(heard, lambda prompt: recogniser.heard(sound, language, prompt))
    aligned = with_passed_over(sound, align_words(sound, mended, voice), voice, recogniser, language)
    timed = drawn_in(sound, aligned)
    words = tidy_times(
        [Loose(word.text, from_seconds(word.start), from_seconds(word.end), word.probability) for word in timed],  # type: ignore[misc]
        end - start,
    )
    return tuple(Word(w.text, w.start + start, w.end + start, w.confidence, w.voice) for w in words)


@dataclass(frozen=True, slots=True)
class Loose:
    """A word whose times may still cross."""

    text: str
    start: Ticks
    end: Ticks
    confidence: float
    voice: str | None = None


def check_language(words: Sequence[Word]) -> None:
    """Refuse a transcript that was guessed rather than heard.

    Raises
    ------
    Problem
        ``no-speech`` or ``foreign-language``.
    """
    if not words:
        raise Problem("no-speech", "No speech was found in this recording. Is it music or silence, or is the voice very faint?")
    if len(words) >= FOREIGN_WORDS and median(word.confidence for word in words) < FOREIGN_CONFIDENCE:
        raise Problem(
            "foreign-language",
            "This does not sound like English, the one language the installed weights know, or is drowned in noise, "
            "so its words would be guesses. Give Jaskel a folder with weights for its language (see the guide) and try again.",
        )
