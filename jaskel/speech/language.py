"""Which language is spoken in a recording, by the first voiced half minute of it."""

from __future__ import annotations

from dataclasses import dataclass
from pathlib import Path

import numpy as np

from jaskel.core.timebase import Ticks
from jaskel.speech.activity import Sound16k, windows
from jaskel.speech.recognise import RATE_16K, WhisperRecogniser
from jaskel.speech.weights import ENGLISH, multilingual_weights

AUTO = "auto"
"""Stands for a language until it is found."""

LISTENED = 30
"""Seconds of voice. The models hear no more than that at once."""

EXPECTED = 3.0
"""So many times as probable a language must be as the one that is expected, to be taken for it."""


@dataclass(frozen=True)
class Spoken:
    """A language, a code of ISO 639-1, with its probability."""

    language: str
    probability: float


def spoken_in(sound: Sound16k, length: Ticks, expected: str = ENGLISH, own: Path | None = None) -> Spoken:
    """The language of a recording of ``length``; ``expected`` where it cannot be told. ``own`` is a folder of other weights."""
    voice = _first_voice(sound, length)
    if not len(voice):
        return Spoken(expected, 0.0)
    # Loaded for this alone: beside the weights that will hear the rest it would take memory for nothing.
    probable = WhisperRecogniser(own or multilingual_weights()).languages_of(voice)
    likeliest = max(probable, key=probable.__getitem__)
    found = likeliest if probable[likeliest] >= EXPECTED * probable.get(expected, 0.0) else expected
    return Spoken(found, probable[found])


def _first_voice(sound: Sound16k, length: Ticks) -> np.ndarray:
    parts: list[np.ndarray] = []
    missing = LISTENED * RATE_16K
    for window in windows(sound, length):
        for begin, end in window.voice:
            part = window.sound[round(begin * RATE_16K) : round(end * RATE_16K)][:missing]
            parts.append(part)
            missing -= len(part)
        if missing <= 0:
            break
    return np.concatenate(parts) if parts else np.zeros(0, np.float32)
