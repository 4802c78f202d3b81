"""Sounds that are no words, found where nobody speaks and named by the recogniser itself.

Recognisers learn from captions, which have sounds in brackets; as a rule they are kept from writing these. Where something is
heard between two words, ours is asked what it would write there, and believed where it writes laughter, applause, music or a
cough.
"""

from __future__ import annotations

import re
from collections.abc import Iterator, Sequence
from itertools import pairwise

import numpy as np

from jaskel.core.sounds import in_brackets
from jaskel.core.tidy.finding import plain
from jaskel.speech.align import TimedWord
from jaskel.speech.recognise import RATE_16K, Recogniser

NAMES = {
    "laughter": ("laugh", "chuckl", "giggl", "snicker"),
    "applause": ("applau", "clap", "cheer"),
    "music": ("music", "♪", "♫", "guitar", "piano", "instrumental"),
    "cough": ("cough", "clears throat", "clearing throat", "sneez"),
}
"""Beginnings of the names that captions have for each kind."""

AT_LEAST = {"laughter": 0.4, "applause": 1.0, "music": 2.0, "cough": 0.2}
"""In seconds: a single note or clap is named so, but is not what a reader would want to know of."""

HOP = RATE_16K // 100
"""Levels are taken every 10 ms."""

ABOVE_ROOM, SILENCE = 9.0, -60.0
"""In decibels: a sound stands so much out of the room between words, and is not softer than that of full scale."""

BELOW_SPEECH = 25.0
"""In decibels: what is softer than speech by so much is breath, cloth or chair."""

JOINED, SHORTEST, EDGE, AROUND = 0.45, 0.25, 0.06, 0.25
"""In seconds: bursts so near to one another are one sound, shorter sounds are not asked about, so much beside a word may still
be the word, and so much silence is put around a sound."""

STEADY, LOUD = 3.0, -45.0
"""A gap of so many seconds in which half of the frames are above this level (dBFS) is asked about as a whole: music goes on."""

LONGEST = 29.0
"""The recogniser hears 30 s at a time."""

UNITS, REPEATED, UNBELIEVED, SLOWEST_BURST = (1, 2), 3, 0.3, 0.3
"""Laughter is written as one or two words, so often at least, of which one is less probable than this (in speech that repeats
itself all are near 1), and most begin so many seconds after the one before: it has four bursts and more a second."""

CERTAINTY = 0.6
"""Probability given to a found sound: not in doubt, and not a person's word either."""


def with_sounds(sound: np.ndarray, words: Sequence[TimedWord], recogniser: Recogniser) -> list[TimedWord]:
    """Timed words of ``sound`` (float32 mono at 16 kHz), with the sounds between them in brackets."""
    kept, found = _without_imagined(words)
    stretches = list(_unexplained(sound, [*kept, *found]))
    named = recogniser.captions_of([_with_room(sound, a, b) for a, b in stretches]) if stretches else ()
    for (start, end), text in zip(stretches, named, strict=True):
        if (kind := kind_of(text)) and end - start >= AT_LEAST[kind]:
            found.append(TimedWord(in_brackets(kind), start, end, CERTAINTY))
    return sorted([*kept, *found], key=lambda word: word.start)


def kind_of(caption: str) -> str | None:
    """The kind of sound a caption names; None where it names none of ours, or is spoken."""
    bare = caption.strip().lower()
    if _HA_HA.fullmatch(bare):
        return "laughter"
    if not bare or bare[0].isalnum():
        return None
    return next((kind for kind, names in NAMES.items() if any(name in bare for name in names)), None)


def _without_imagined(words: Sequence[TimedWord]) -> tuple[list[TimedWord], list[TimedWord]]:
    """The words without laughter that was written as words ("what's up, what's up, what's up"), and that laughter."""
    kept: list[TimedWord] = []
    laughs: list[TimedWord] = []
    index = 0
    while index < len(words):
        size = max(UNITS, key=lambda size: _repeated(words, index, size))
        last = _repeated(words, index, size)
        run = list(words[index:last])
        while len(run) > 1 and run[-1].start - run[-2].end > JOINED:
            run.pop()
            if len(run) % size == 0:
                last = index + len(run)  # a word that is said later; the rest of a unit was only laid there
        if run and min(word.probability for word in run) < UNBELIEVED and run[-1].end - run[0].start >= AT_LEAST["laughter"]:
            while kept and kept[-1].probability < UNBELIEVED and run[0].start - kept[-1].end < EDGE:
                run.insert(0, kept.pop())
            laughs.append(TimedWord(in_brackets("laughter"), run[0].start, run[-1].end, CERTAINTY))
            index = last
        else:
            kept.append(words[index])
            index += 1
    return kept, laughs


def _repeated(words: Sequence[TimedWord], first: int, size: int) -> int:
    """Where a unit of so many words from ``first`` on was said over and over, quickly, ends; ``first`` where it was not."""
    unit = [_syllable(word.text) for word in words[first : first + size]]
    last = first
    while [_syllable(word.text) for word in words[last : last + size]] == unit and len(unit) == size:
        last += size
    run = words[first:last]
    quick = [after.start - before.start <= SLOWEST_BURST for before, after in pairwise(run)]
    return last if len(run) >= REPEATED * size and sum(quick) * 2 > len(quick) else first


def _syllable(text: str) -> str:
    bare = plain(text)
    return "ha" if bare in {"ha", "hah", "he", "heh", "hee", "ho"} else bare


_HA_HA = re.compile(r"\W*(?:(?:ha|he|hee|ho)+\W*){2,}|\W*(?:(?:ha|he|hee|ho)){3,}\W*")


def _with_room(sound: np.ndarray, start: float, end: float) -> np.ndarray:
    """A stretch with silence around it, as captions of sounds have."""
    pad = np.zeros(round(AROUND * RATE_16K), np.float32)
    return np.concatenate([pad, sound[round(start * RATE_16K) : round(end * RATE_16K)], pad])


def _unexplained(sound: np.ndarray, words: Sequence[TimedWord]) -> Iterator[tuple[float, float]]:
    """From-to in seconds of what is heard between words and is none of them."""
    count = len(sound) // HOP
    if not count:
        return
    frames = sound[: count * HOP].reshape(count, HOP)
    level = 10 * np.log10((frames**2).mean(axis=1) + 1e-12)
    spoken = np.zeros(count, bool)
    for word in words:
        spoken[max(0, round((word.start - EDGE) * 100)) : round((word.end + EDGE) * 100)] = True
    if spoken.all():
        return
    speech = float(np.percentile(level[spoken], 80)) if spoken.any() else None
    room = float(np.percentile(level[~spoken], 15))
    least = max(room + ABOVE_ROOM, SILENCE, -np.inf if speech is None else speech - BELOW_SPEECH)
    for first, last in _runs(~spoken, 0):
        gap = level[first:last]
        if len(gap) >= STEADY * 100 and np.median(gap) > max(LOUD, SILENCE if speech is None else speech - BELOW_SPEECH):
            yield from _in_parts(first, last)
            continue
        for a, b in _runs(gap > least, round(JOINED * 100)):
            if b - a >= SHORTEST * 100:
                yield from _in_parts(first + a, first + b)


def _in_parts(first: int, last: int) -> Iterator[tuple[float, float]]:
    for start in range(first, last, round(LONGEST * 100)):
        yield start / 100, min(last, start + round(LONGEST * 100)) / 100


def _runs(marked: np.ndarray, join: int) -> Iterator[tuple[int, int]]:
    """From-to of the runs of marked frames, those at most ``join`` frames apart taken together."""
    edges = np.flatnonzero(np.diff(np.concatenate([[False], marked, [False]]).astype(np.int8)))
    begun: tuple[int, int] | None = None
    for start, end in zip(edges[::2].tolist(), edges[1::2].tolist(), strict=True):
        if begun and start - begun[1] <= join:
            begun = begun[0], end
            continue
        if begun:
            yield begun
        begun = start, end
    if begun:
        yield begun
