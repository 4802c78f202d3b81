"""A whole recording into words, part by part, so that it can stop and go on anywhere."""

from __future__ import annotations

from collections.abc import Callable, Iterable, Iterator, Sequence
from dataclasses import dataclass, replace
from functools import partial
from statistics import median
from typing import TypeVar

import numpy as np

from jaskel.core.problem import Problem
from jaskel.core.questions import with_questions
from jaskel.core.timebase import Ticks
from jaskel.core.transcript import Word
from jaskel.speech.activity import Sound16k, Window, windows
from jaskel.speech.align import Align, align_words, in_recording
from jaskel.speech.attention import by_attention
from jaskel.speech.edges import drawn_in
from jaskel.speech.hesitations import with_hesitations
from jaskel.speech.pipeline import begun_ahead, grouped
from jaskel.speech.recognise import HeardWord, Recogniser, Utterance, Voice
from jaskel.speech.second_pass import with_passed_over, with_swallowed
from jaskel.speech.sounds import with_sounds
from jaskel.speech.stumbles import with_stumbles

Mend = Callable[[Sequence[HeardWord], Callable[[str], Sequence[HeardWord]]], Sequence[HeardWord]]
"""Puts recognised words right; it is also given a way to listen again with a prompt."""


def as_heard(words: Sequence[HeardWord], _again: Callable[[str], Sequence[HeardWord]]) -> Sequence[HeardWord]:
    """Mends nothing."""
    return words


ALIGNERS: dict[str, Align] = {"en": align_words}
"""Languages whose pronunciations are known; in all others words are timed by the recogniser's attention."""

FOREIGN_CONFIDENCE = 0.6
"""Below this median word probability the words are guesses. Measured: clear English 0.98, English under white noise of its own
level 0.70, German 0.50."""

GUESSED = 0.35
"""The same for the weights of many languages, which are less sure of what they hear. (Synthetic Italian 0.87, German 0.95.)"""

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
            f"The weights in use do not know the language “{language}”. Choose another language, start Jaskel with a folder of "
            "weights that do (JASKEL_MODEL=/path/to/folder ./run serve), or bring captions with times.",
        )

    align = ALIGNERS.get(language, by_attention)

    def heard(group: Sequence[Window]) -> list[list[Utterance]]:
        return recogniser.utterances([window.sound for window in group], language, [window.voice for window in group])

    def put_right(its_sound: np.ndarray, utterances: Sequence[Utterance]) -> Sequence[HeardWord]:
        words = [word for utterance in utterances for word in utterance.words]
        if not words:
            return []
        mended = mend(words, partial(_once_more, recogniser, its_sound, language))
        return asked(mended) if language == "en" else mended

    def listen(its_sound: np.ndarray, voice: Voice) -> Sequence[HeardWord]:
        return put_right(its_sound, recogniser.utterances([its_sound], language, [voice])[0])

    for window, utterances in each_heard(heard, windows(sound, length, start)):
        aligned = align(window.sound, put_right(window.sound, utterances), window.voice)
        for listening_again in (with_passed_over, with_swallowed):
            aligned = listening_again(window.sound, aligned, window.voice, listen, align)
        aligned = with_stumbles(window.sound, aligned, window.voice, recogniser, language)
        timed = with_hesitations(window.sound, drawn_in(window.sound, aligned), recogniser, language)
        timed = with_sounds(window.sound, timed, recogniser)
        yield Part(window.start, window.end, in_recording(timed, window.start, window.end))


def asked(words: Sequence[HeardWord]) -> list[HeardWord]:
    """The same with the marks of questions."""
    texts = with_questions([word.text for word in words])
    return [replace(word, text=text) for word, text in zip(words, texts, strict=True)]


def _once_more(recogniser: Recogniser, sound: np.ndarray, language: str, prompt: str) -> Sequence[HeardWord]:
    return recogniser.heard([sound], language, prompt)[0]


Heard = TypeVar("Heard")


def each_heard(
    heard: Callable[[Sequence[Window]], Sequence[list[Heard]]], parts: Iterable[Window]
) -> Iterator[tuple[Window, list[Heard]]]:
    """Each part of a recording with what is heard in it: nothing where there is no voice.

    ``heard`` is given several parts at once, and runs ahead in other threads.
    """

    def with_voice(group: Sequence[Window]) -> list[list[Heard]]:
        speaking = [window for window in group if window.voice]
        found = iter(heard(speaking) if speaking else ())
        return [next(found) if window.voice else [] for window in group]

    for group, found in begun_ahead(with_voice, grouped(parts)):
        yield from zip(group, found, strict=True)


def check_language(words: Sequence[Word], language: str = "en") -> None:
    """Refuse a transcript that was guessed rather than heard.

    Raises
    ------
    Problem
        ``no-speech`` or ``foreign-language``.
    """
    words = [word for word in words if not word.is_sound]
    if not words:
        raise Problem("no-speech", "No speech was found in this recording. Is it music or silence, or is the voice very faint?")
    least = FOREIGN_CONFIDENCE if language == "en" else GUESSED
    if len(words) >= FOREIGN_WORDS and median(word.confidence for word in words) < least:
        raise Problem(
            "foreign-language",
            f"This does not sound like the language it was heard in (“{language}”), or is drowned in noise, so its words would "
            "be guesses. Choose its language in Gather and transcribe it again.",
        )
