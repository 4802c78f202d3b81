"""Edges of words drawn in to where their sound begins and ends.

Alignment gives the silence between two words to one of them as often as not, and lets a word end in the room's echo. So where a
word begins quietly, its edge moves to where it is first heard; and before a rest, also one that it was given itself, to where
it was last heard. A sentence or clause ends in a pause: where none was left beside one, it is looked for.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, replace
from functools import cache, partial

import numpy as np
from scipy.signal import butter, sosfilt

from jaskel.speech.align import TimedWord
from jaskel.speech.recognise import RATE_16K

HOPS = 200
HOP = RATE_16K // HOPS
"""Levels are taken every 5 ms, over 10 ms."""

HEARD = 0.28
"""A word is heard from this share of the way up from the level of the room to that of the voice, in decibels."""

FURTHEST = 0.12
"""Soft sounds last for less, in seconds: within a word's first half, no beginning moves further past what is not heard than
this. A longer silence at either end is none of the word's."""

BESIDE = 4
"""A word that makes no sound by itself may be off by so many hops."""

SOUNDS = 1 / 3
"""Of what is heard of a word at least so much is its own; before a rest its end moves no further."""

CLEAR = 25.0
"""With less than so many decibels between room and voice, levels do not tell where a word ends."""

HISS = butter(4, 3500, "high", fs=RATE_16K, output="sos")
CLEAR_HISS, HEARD_HISS = 15.0, 0.4
"""An s or f is softer than any vowel, but above 3.5 kHz nothing is louder: there it is heard for itself."""

AROUND = 6.0
"""Room and voice are judged by so many seconds on either side."""

BROKEN = 0.14
"""A silence of so many seconds is no sound of a word: its larger part stays."""

SHORTEST = 0.02
"""Words shorter than this, in seconds, are left as they are."""

REST = 0.03
"""A word's end moves before a silence of so many seconds after it,"""

OWN_REST = 0.06
"""or of so many within it: the sounds p, t and k are silent for less before the next word."""

PAUSES = ".?!,;:"
"""Marks at which a speaker pauses. Of 195 such places where two words touched, three in four had a pause of 60 to 300 ms."""

DOUBTED = 0.2
"""With a word that the recogniser hardly believes itself, its mark is doubted, too."""

PAUSE_FROM = 0.05
"""It is told from the closing of a p, t or k by being longer than this, in seconds;"""

PAUSE_WITHIN = 0.2
"""no part of it is looked for further than this, in seconds, from where the words were parted,"""

LAST_PART, FIRST_PART = 0.5, 0.7
"""nor outside of these shares of the word before and the word after."""

DIES, SETS_IN = 0.3, 0.2
"""Of the way from the pause up to the voice beside it, in decibels: there the word before it ends, and the one after it begins
(most begin softly)."""

QUIET, LONG = 2.0, 0.6
"""Within so many decibels of the quietest place it is as quiet; of such stretches the last one counts that is so long as this
share of the longest."""

DEEP = 10.0
"""In a pause the level falls by so many decibels."""


def drawn_in(sound: np.ndarray, words: Sequence[TimedWord]) -> list[TimedWord]:
    """Words aligned with ``sound`` (float32 mono at 16 kHz), their edges drawn in."""
    levels = [_levels(sound), _levels(sosfilt(HISS, sound))]
    out: list[TimedWord] = []
    heard_about = cache(partial(_heard, levels))
    for index, word in enumerate(words):
        heard = heard_about(int(word.start))
        if heard is None or not word.fitted or word.end - word.start < SHORTEST:
            out.append(word)
            continue
        following = words[index + 1].start if index + 1 < len(words) else len(sound) / RATE_16K
        word = _sounding_part(heard, word)
        out.append(_ending(heard, _beginning(heard, _largest_part(heard, word)), following) if not word.lost else word)
    return _with_pauses([np.convolve(each, np.full(3, 1 / 3), "same") for each in levels], out)


def _with_pauses(levels: Sequence[np.ndarray], words: list[TimedWord]) -> list[TimedWord]:
    """The words with a pause after sentences and clauses, where it can be heard and they touched."""
    for index in range(len(words) - 1):
        before, after = words[index : index + 2]
        known = before.fitted and after.fitted and not (before.lost or after.lost) and before.probability >= DOUBTED
        touch = before.text[-1:] in PAUSES and after.start - before.end < REST
        if known and touch and (pause := _pause(levels, before, after)):
            words[index], words[index + 1] = replace(before, end=pause[0]), replace(after, start=pause[1])
    return words


def _pause(levels: Sequence[np.ndarray], before: TimedWord, after: TimedWord) -> tuple[float, float] | None:
    """From-to in seconds of the pause between two words that touch: the stretch around where it is quietest between them."""
    first, border, last = _hop(before.start), _hop(before.end), _hop(after.end)
    near, hiss = (each[first : last + 1] for each in levels)
    begin = max(_hop(before.end - PAUSE_WITHIN), border - round((border - first) * LAST_PART)) - first
    end = min(_hop(before.end + PAUSE_WITHIN), border + round((last - border) * FIRST_PART)) - first
    if not len(near[begin:end]):
        return None
    lowest = begin + _lowest(near[begin:end])
    tops = [np.percentile(side, 90) - near[lowest] for side in (near[: lowest + 1], near[lowest:])]
    if min(tops) < DEEP:
        return None
    hissing = _hissing(hiss, lowest)
    ends = np.flatnonzero((near[:lowest] >= near[lowest] + DIES * tops[0]) | hissing[:lowest])
    begins = np.flatnonzero((near[lowest:] >= near[lowest] + SETS_IN * tops[1]) | hissing[lowest:])
    if not len(ends) or not len(begins):
        return None
    pause = (first + int(ends[-1]) + 2) / HOPS, (first + lowest + int(begins[0]) - 1) / HOPS
    return pause if pause[1] - pause[0] >= PAUSE_FROM else None


def _sounding_part(heard: Audible, word: TimedWord) -> TimedWord:
    """The word without a long silence at its beginning or end; one that makes no sound at all lies where it is not said."""
    first, last = _hop(word.start), max(_hop(word.start) + 1, _hop(word.end))
    loud = heard.between(first, last)
    if not len(loud):
        return replace(word, lost=not len(heard.between(max(heard.begin, first - BESIDE), last + BESIDE)))
    begins, ends = (first + int(loud[0]) - 1) / HOPS, (first + int(loud[-1]) + 2) / HOPS
    start = begins if begins - word.start >= FURTHEST else word.start
    end = ends if word.end - ends >= FURTHEST else word.end
    return replace(word, start=start, end=end)


def _largest_part(heard: Audible, word: TimedWord) -> TimedWord:
    """The word without what a silence parts it from: that is the end of a hesitation, or of the word before."""
    first, last = _hop(word.start), _hop(word.end)
    loud = heard.between(first, last)
    parts = np.split(loud, np.flatnonzero(np.diff(loud) > BROKEN * HOPS) + 1)
    if len(parts) < 2:
        return word
    largest = max(parts, key=len)
    start = word.start if largest is parts[0] else (first + int(largest[0]) - 1) / HOPS
    end = word.end if largest is parts[-1] else (first + int(largest[-1]) + 2) / HOPS
    return replace(word, start=start, end=end)


def _beginning(heard: Audible, word: TimedWord) -> TimedWord:
    first, last = _hop(word.start), _hop(word.end)
    loud = heard.between(first, first + min(_hop(FURTHEST), (last - first) // 2))
    return replace(word, start=max(word.start, (first + int(loud[0]) - 1) / HOPS)) if len(loud) else word


def _ending(heard: Audible, word: TimedWord, following: float) -> TimedWord:
    first, last = _hop(word.start), _hop(word.end)
    earliest = first + round((last - first) * SOUNDS)
    rests = following - word.end >= REST
    # The level at an edge is that of the next word, too.
    loud = heard.between(earliest + 1, last + 1 if rests else last - 1)
    if not len(loud):
        return word
    last_heard = (earliest + 2 + int(loud[-1])) / HOPS
    return replace(word, end=min(word.end, last_heard)) if rests or word.end - last_heard >= OWN_REST else word


def _lowest(level: np.ndarray) -> int:
    """Where it is quietest in the last of the long quiet stretches: a t that ends a word is silent before it bursts, too."""
    quiet = np.flatnonzero(level <= level.min() + QUIET)
    stretches = np.split(quiet, np.flatnonzero(np.diff(quiet) > 1) + 1)
    longest = max(map(len, stretches))
    last = next(each for each in reversed(stretches) if len(each) >= LONG * longest)
    return int(last[level[last].argmin()])


def _hissing(hiss: np.ndarray, lowest: int) -> np.ndarray:
    """Where on either side of the quietest place an s or f is heard."""
    floor = hiss[lowest]
    tops = np.repeat([np.percentile(side, 95) for side in (hiss[: lowest + 1], hiss[lowest:])], [lowest, len(hiss) - lowest])
    heard: np.ndarray = (tops - floor >= CLEAR_HISS) & (hiss >= floor + HEARD_HISS * (tops - floor))
    return heard


def _hop(second: float) -> int:
    return max(0, round(second * HOPS))


def _levels(sound: np.ndarray) -> np.ndarray:
    power = np.convolve(sound.astype(np.float64) ** 2, np.full(2 * HOP, 1 / (2 * HOP)), "same")[::HOP]
    return np.asarray(10 * np.log10(power + 1e-9))


@dataclass(frozen=True)
class Audible:
    """Where in the neighbourhood of a word something is heard: a truth value for each hop from ``begin`` on."""

    begin: int
    loud: np.ndarray

    def between(self, first: int, last: int) -> np.ndarray:
        """Hops in which something is heard, counted from ``first`` on, up to ``last``."""
        return np.flatnonzero(self.loud[first - self.begin : last - self.begin])


def _heard(levels: Sequence[np.ndarray], second: int) -> Audible | None:
    """Where something is heard about a second, as a voice or as a hiss; None where the room is too loud to tell."""
    begin, end = _hop(second - AROUND), _hop(second + 1 + AROUND)
    near = [each[begin:end] for each in levels]
    if not len(near[0]):
        return None
    room, voice = zip(*(np.percentile(each, [8, 92]) for each in near), strict=True)
    if voice[0] - room[0] < CLEAR:
        return None
    loud = near[0] >= room[0] + HEARD * (voice[0] - room[0])
    if voice[1] - room[1] >= CLEAR_HISS:
        loud |= near[1] >= room[1] + HEARD_HISS * (voice[1] - room[1])
    return Audible(begin, loud)
