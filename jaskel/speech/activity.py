"""Where there is voice and what else is to be heard, and where a long recording can be parted between two breaths."""

from __future__ import annotations

from collections.abc import Callable, Iterator
from concurrent.futures import ThreadPoolExecutor
from dataclasses import dataclass
from itertools import pairwise

import numpy as np

from jaskel.core.tidy.heard import Heard
from jaskel.core.timebase import RATE, Ticks, from_seconds
from jaskel.speech.breath import breaths, bursts
from jaskel.speech.recognise import RATE_16K

Sound16k = Callable[[Ticks, Ticks], np.ndarray]

LONGEST_PART = 29.0
"""The recogniser hears 30 s at a time."""

SHORTEST_PART = 14.0
"""Parting earlier would waste the recogniser's window for little gain in where the part ends."""


SHORTEST_SILENCE = 0.16
"""In seconds: within speech, what is shorter is the closing of a plosive or a slip of the detector."""


def voiced(sound: np.ndarray) -> list[tuple[float, float]]:
    """From-to in seconds of the voice in ``sound`` (float32 mono at 16 kHz), by the Silero detector."""
    from faster_whisper.vad import VadOptions, get_speech_timestamps

    options = VadOptions(min_silence_duration_ms=round(SHORTEST_SILENCE * 1000), speech_pad_ms=60, threshold=0.4)
    return [(t["start"] / RATE_16K, t["end"] / RATE_16K) for t in get_speech_timestamps(sound, options)]


MINUTE: Ticks = 60 * RATE
"""Long recordings are listened to minute by minute, so that memory does not grow with length."""


def hear(sound: Sound16k, length: Ticks) -> Iterator[Heard]:
    """What there is besides words in each minute of a recording of ``length``; two minutes are listened to at a time.

    ``sound`` gives float32 mono at 16 kHz between two ticks.
    """

    def minute(start: Ticks) -> Heard:
        part = sound(start, min(length, start + MINUTE))
        voice = voiced(part)
        kinds = voice, breaths(part, voice), bursts(part, voice)
        return Heard(*([(start + from_seconds(a), start + from_seconds(b)) for a, b in kind] for kind in kinds))

    with ThreadPoolExecutor(2) as pool:
        yield from pool.map(minute, range(0, length, MINUTE))


SPAN: Ticks = 600 * RATE
"""About so long are the spans that long recordings are heard in, each for itself."""

AROUND: Ticks = round(LONGEST_PART / 2 * RATE)
"""So far before and after it the silence is looked for in which a span ends."""


def spans(sound: Sound16k, length: Ticks) -> list[tuple[Ticks, Ticks]]:
    """A recording of ``length`` in spans that border on each other in silences.

    Where a border lies depends on nothing but the sound around it, so spans can be heard in any order and place.
    """
    borders = [0]
    for about in range(SPAN, length - SPAN // 2, SPAN):
        begin, end = about - AROUND, min(length, about + AROUND)
        found = voiced(sound(begin, end))
        borders.append(begin + from_seconds(_longest_silence(found, 0.0, (end - begin) / RATE)))
    return [*pairwise([*borders, length])]


@dataclass(frozen=True)
class Window:
    """A part of a recording that is heard as one: from-to in ticks, its sound, and its voice in seconds from ``start`` on."""

    start: Ticks
    end: Ticks
    sound: np.ndarray
    voice: list[tuple[float, float]]


def windows(sound: Sound16k, length: Ticks, start: Ticks = 0) -> Iterator[Window]:
    """A recording of ``length`` from ``start`` on, parted in silences, without gaps."""
    at, known = start, start // MINUTE * MINUTE  # the same minutes wherever one begins, so that the same is heard
    voice: list[tuple[Ticks, Ticks]] = []
    while at < length:
        reach = min(length, at + from_seconds(LONGEST_PART))
        while known < reach:
            following = min(length, known + MINUTE)
            found = voiced(sound(known, following))
            voice = _strung(voice, [(known + from_seconds(a), known + from_seconds(b)) for a, b in found])
            known = following
        end = min(reach, at + from_seconds(part_end(_within(voice, at, reach), (reach - at) / RATE)))
        yield Window(at, end, sound(at, end), _within(voice, at, end))
        voice = [stretch for stretch in voice if stretch[1] > end]
        at = end


def _strung(before: list[tuple[Ticks, Ticks]], after: list[tuple[Ticks, Ticks]]) -> list[tuple[Ticks, Ticks]]:
    """Voice of two minutes, one after the other; who speaks on from the one into the other is not parted there."""
    if before and after and after[0][0] - before[-1][1] < from_seconds(SHORTEST_SILENCE):
        return [*before[:-1], (before[-1][0], after[0][1]), *after[1:]]
    return before + after


def _within(voice: list[tuple[Ticks, Ticks]], start: Ticks, end: Ticks) -> list[tuple[float, float]]:
    """The voice between two places, in seconds from the first of them on."""
    return [((max(a, start) - start) / RATE, (min(b, end) - start) / RATE) for a, b in voice if a < end and b > start]


def part_end(stretches: list[tuple[float, float]], length: float) -> float:
    """Where to end the next part of a recording.

    ``stretches`` is the voice in the next ``length`` seconds. The part ends in the middle of the longest silence that
    lies between :data:`SHORTEST_PART` and the end; where there is none, at the end. (The last one of any length would need
    fewer parts, but costs a point of word error.)
    """
    if length < LONGEST_PART:
        return length
    return _longest_silence(stretches, SHORTEST_PART, length)


def _longest_silence(stretches: list[tuple[float, float]], least: float, length: float) -> float:
    """The middle of the longest silence from ``least`` on; where there is none, the end."""
    edges = [0.0, *(edge for stretch in stretches for edge in stretch), length]
    gaps = [(max(a, least), b) for a, b in zip(edges[::2], edges[1::2], strict=True) if b > least]
    begin, end = max(gaps, key=lambda gap: gap[1] - gap[0], default=(length, length))
    return (begin + end) / 2 if end > begin else length
