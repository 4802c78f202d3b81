"""Edges of words drawn in to where their sound begins and ends.

Alignment gives the silence between two words to one of them as often as not, and lets a word end in the room's echo. So where a
word begins quietly, its edge moves to where it is first heard; and before a rest, to where it was last heard.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import replace

import numpy as np

from jaskel.speech.align import TimedWord
from jaskel.speech.recognise import RATE_16K

HOP = RATE_16K // 200
"""Levels are taken every 5 ms, over 10 ms."""

HEARD = 0.25
"""A word is heard from this share of the way up from the level of the room to that of the voice, in decibels."""

FURTHEST = 0.12
"""No edge moves further than this, in seconds, nor past the middle of its word."""

CLEAR = 25.0
"""With less than so many decibels between room and voice, levels do not tell where a word ends."""

AROUND = 6.0
"""Room and voice are judged by so many seconds on either side."""

REST = 0.03
"""Only before a silence of so many seconds does a word's end move."""


def drawn_in(sound: np.ndarray, words: Sequence[TimedWord]) -> list[TimedWord]:
    """Words aligned with ``sound`` (float32 mono at 16 kHz), their edges drawn in."""
    levels = _levels(sound)
    out: list[TimedWord] = []
    for index, word in enumerate(words):
        first, last = (min(len(levels) - 1, max(0, round(edge * RATE_16K / HOP))) for edge in (word.start, word.end))
        heard = _heard(levels, word)
        if heard is None or not word.fitted or last - first < 4:
            out.append(word)
            continue
        reach = min(round(FURTHEST * RATE_16K / HOP), (last - first) // 2)
        start, end = word.start, word.end
        loud = np.flatnonzero(levels[first : first + reach] >= heard)
        if len(loud):
            start = max(start, (first + int(loud[0]) - 1) * HOP / RATE_16K)
        following = words[index + 1].start if index + 1 < len(words) else len(sound) / RATE_16K
        loud = np.flatnonzero(levels[last - reach + 1 : last + 1] >= heard)
        if following - end >= REST and len(loud):
            end = min(end, (last - reach + 2 + int(loud[-1])) * HOP / RATE_16K)
        out.append(replace(word, start=start, end=end))
    return out


def _levels(sound: np.ndarray) -> np.ndarray:
    power = np.convolve(sound.astype(np.float64) ** 2, np.full(2 * HOP, 1 / (2 * HOP)), "same")[::HOP]
    return np.asarray(10 * np.log10(power + 1e-9))


def _heard(levels: np.ndarray, word: TimedWord) -> float | None:
    """The level from which on a word is heard, or None where the room is too loud to tell."""
    begin, end = (max(0, round((edge) * RATE_16K / HOP)) for edge in (word.start - AROUND, word.end + AROUND))
    near = levels[begin:end]
    if not len(near):
        return None
    room, voice = np.percentile(near, [8, 92])
    return float(room + HEARD * (voice - room)) if voice - room >= CLEAR else None
