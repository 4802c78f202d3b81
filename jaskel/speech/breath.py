"""Breaths between phrases, and bursts of voice that come as regularly as in laughter."""

from __future__ import annotations

from collections.abc import Iterator, Sequence

import numpy as np

from jaskel.speech.recognise import RATE_16K

Stretches = Sequence[tuple[float, float]]
"""From-to in seconds."""

HOP = RATE_16K // 100
"""Levels are taken every 10 ms."""

BREATHS = (0.1, 1.0)
"""A breath taken between phrases lasts 0.1 to 1 s (Ruinskiy and Lavner, 2007)."""

ABOVE_FLOOR, BELOW_VOICE = 8.0, 8.0
"""In decibels: a breath stands out of the room, and is softer than the louder parts of speech."""

SILENCE = -90.0
"""In decibels: what is softer is heard by nobody."""

UNVOICED = 0.45
"""Up to this share of a sound repeats with the period of a voice by chance; a voice reaches 0.7 and more."""

BURST_RATES = (3.5, 7.5)
"""Laughter comes in about five bursts a second (Bickley and Hunnicutt, 1992)."""

FEWEST_BURSTS = 3
DEEP = 6.0
"""Between two bursts the level falls by so many decibels."""


def breaths(sound: np.ndarray, voice: Stretches) -> list[tuple[float, float]]:
    """From-to in seconds of what sounds like a breath: noise out of the silence between stretches of ``voice``.

    ``sound`` is float32 mono at 16 kHz.
    """
    bright, level = _levels(np.diff(sound, prepend=sound[:1])), _levels(sound)
    silent = _outside(voice, len(level))
    if not silent.any() or silent.all():
        return []
    # What stands out of the room is told without its rumble and hum: the difference of neighbours weakens what is low.
    floor, spoken = max(np.percentile(bright[silent], 20), SILENCE), np.percentile(level[~silent], 80)
    rises = silent & (bright > floor + ABOVE_FLOOR)
    found = []
    for first, last in _runs(rises, join=3):
        start, end = first / 100, last / 100
        part = sound[first * HOP : last * HOP]
        if (
            BREATHS[0] <= end - start <= BREATHS[1]
            and np.percentile(level[first:last], 90) < spoken - BELOW_VOICE
            and _periodic(part) < UNVOICED
        ):
            found.append((start, end))
    return found


def bursts(sound: np.ndarray, voice: Stretches) -> list[tuple[float, float]]:
    """From-to in seconds of three or more bursts of voice in a row that follow one another as regularly as laughter.

    Much of what is said has that rhythm, too: only where no words are recognised does it tell something.
    """
    level = _levels(sound)
    found = []
    for start, end in voice:
        first, last = round(start * 100), min(len(level), round(end * 100))
        if last - first < 3:
            continue
        tops = _tops(np.convolve(np.pad(level[first:last], 1, "edge"), np.ones(3) / 3, "valid"))
        chain: list[int] = []
        for top in [*tops, 2**31]:
            if chain and not 100 / BURST_RATES[1] <= top - chain[-1] <= 100 / BURST_RATES[0]:
                if len(chain) >= FEWEST_BURSTS:
                    found.append(((first + chain[0] - 8) / 100, (first + chain[-1] + 8) / 100))
                chain = []
            chain.append(top)
    return [(max(0.0, a), b) for a, b in found]


def _levels(sound: np.ndarray) -> np.ndarray:
    """Decibels of each 10 ms."""
    whole = sound[: len(sound) // HOP * HOP].reshape(-1, HOP)
    return 10 * np.log10((whole.astype(np.float64) ** 2).mean(axis=1) + 1e-12)


def _outside(stretches: Stretches, count: int) -> np.ndarray:
    outside = np.ones(count, bool)
    for start, end in stretches:
        outside[round(start * 100) : round(end * 100)] = False
    return outside


def _runs(marked: np.ndarray, join: int) -> Iterator[tuple[int, int]]:
    """From-to of the runs of true values; gaps of up to ``join`` values are part of them."""
    places = np.flatnonzero(marked)
    if not len(places):
        return
    parts = np.split(places, np.flatnonzero(np.diff(places) > join + 1) + 1)
    yield from ((int(part[0]), int(part[-1]) + 1) for part in parts)


def _periodic(sound: np.ndarray) -> float:
    """The share of a sound that repeats with the period of a voice (70 to 400 Hz), by its autocorrelation."""
    if len(sound) < RATE_16K // 20:
        return 0.0
    size = 2 * len(sound)
    spectrum = np.fft.rfft(sound - sound.mean(), size)
    same = np.fft.irfft(np.abs(spectrum) ** 2, size)[: RATE_16K // 70 + 1]
    return float(same[RATE_16K // 400 :].max() / (same[0] + 1e-12))


def _tops(level: np.ndarray) -> list[int]:
    """Where the level is highest between two falls of at least :data:`DEEP`."""
    tops: list[int] = []
    high = low = 0
    rising = True
    for index in range(len(level)):
        if rising:
            high = index if level[index] > level[high] else high
            if level[index] < level[high] - DEEP:
                tops.append(high)
                rising, low = False, index
        else:
            low = index if level[index] < level[low] else low
            if level[index] > level[low] + DEEP:
                rising, high = True, index
    return tops
