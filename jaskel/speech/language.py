"""Which language is spoken in a recording, by the first voiced half minute of it."""

from __future__ import annotations

import ctypes
from collections.abc import Callable
from contextlib import suppress
from dataclasses import dataclass
from itertools import pairwise
from pathlib import Path

import numpy as np

from jaskel.core.timebase import RATE, Ticks, from_seconds
from jaskel.speech.activity import Sound16k, voiced, windows
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
    hand_back()
    likeliest = max(probable, key=probable.__getitem__)
    found = likeliest if probable[likeliest] >= EXPECTED * probable.get(expected, 0.0) else expected
    return Spoken(found, probable[found])


def hand_back() -> None:
    """Have the C library hand back what weights left behind that are gone: the next ones would come on top of 120 MB."""
    with suppress(AttributeError, OSError):  # other C libraries do so by themselves
        ctypes.CDLL(None).malloc_trim(0)


PROBED: Ticks = 180 * RATE
"""So far apart a recording is asked for its language, and once more near its end: oftener would cost too much beside hearing
it;"""

SAMPLE: Ticks = 12 * RATE
"""it is told from so much of its sound, of which"""

VOICED = 5.0
"""so many seconds have to be voice."""

SURE = 0.7
"""So probable another language has to be: short samples are told less well than half a minute."""

NEAR: Ticks = 4 * RATE
"""So near a border between two languages is found; the rest nearest to it is taken."""


def stretches_of(sound: Sound16k, length: Ticks, language: str, own: Path | None = None) -> list[tuple[Ticks, str]]:
    """Where which language is spoken in a recording that begins in ``language``: from which tick on, in order.

    A language has to be heard at two places in a row, or at the last, to be believed.
    """
    last = max(0, length - 2 * SAMPLE)
    places = [*range(0, max(1, last - SAMPLE), PROBED), *([last] if last > SAMPLE else [])]
    if len(places) == 1:
        return [(0, language)]
    recogniser = WhisperRecogniser(own or multilingual_weights())

    def at(place: Ticks, known: str) -> str:
        part = sound(place, min(length, place + SAMPLE))
        voice = [part[round(a * RATE_16K) : round(b * RATE_16K)] for a, b in voiced(part)]
        if sum(map(len, voice)) < VOICED * RATE_16K:
            return known
        probable = recogniser.languages_of(np.concatenate(voice))
        likeliest = max(probable, key=probable.__getitem__)
        return likeliest if probable[likeliest] >= SURE else known

    told: list[str] = []
    for place in places:
        told.append(at(place, told[-1] if told else language))
    found = [(0, told[0])]
    for index in range(1, len(told)):
        new = told[index]
        if new != found[-1][1] and told[min(index + 1, len(told) - 1)] == new:
            found.append((_border(sound, at, places[index - 1], places[index], found[-1][1], new), new))
    return found


def _border(sound: Sound16k, at: Callable[[Ticks, str], str], before: Ticks, after: Ticks, old: str, new: str) -> Ticks:
    """The longest rest about where one language ends and the other begins, between two places."""
    while after - before > NEAR:
        middle = (before + after) // 2
        if at(middle, old) == new:
            after = middle
        else:
            before = middle
    # Most of a sample is in its language, so the border lies after the last of the old one begins, before the new one is over.
    part = sound(before, after + SAMPLE // 2)
    rests = [(one[1], other[0]) for one, other in pairwise(voiced(part))]
    start, end = max(rests, key=lambda rest: rest[1] - rest[0], default=(0.0, 0.0))
    return before + from_seconds((start + end) / 2)


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
