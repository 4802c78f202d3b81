"""What a recording needs: its noise, hum, echo, level, sharpness, blasts and clipping, measured from a sample of it."""

from __future__ import annotations

from collections.abc import Callable, Iterable, Sequence
from itertools import pairwise

import numpy as np
from scipy.signal import butter

from jaskel.core.sound.suggest import Found
from jaskel.core.timebase import RATE, Ticks
from jaskel.media.conformed import ConformedSound
from jaskel.media.processor import About, sections_of
from jaskel.media.processors import hum_lines

SAMPLE: Ticks = 4 * RATE
SAMPLES = 30
"""Two minutes of a recording are looked at, spread over all of it."""

FRAME: Ticks = RATE // 100

FALL = 20.0
"""In decibels: over so much of a fall the echo of a room is measured."""


def analyse(file: ConformedSound) -> Found:
    """Measure a conformed recording."""
    stretches = [*_samples(file)]
    sound = np.concatenate(stretches) if stretches else np.zeros((FRAME, 1), np.float32)
    mono = sound.mean(axis=1)
    levels = _levels(mono)
    if not len(levels) or levels.max() < -70:
        return Found(silent=True)
    speech = float(np.percentile(levels, 90))
    noise = float(np.percentile(levels[levels > -100], 8)) if (levels > -100).any() else -100.0
    return Found(
        speech=speech,
        noise=noise,
        hum=tuple(hum_lines(About(file.channels, file.length, file.read))),
        echo=_echo([_levels(each.mean(axis=1)) for each in stretches], noise),
        clipped=_clipped(sound),
        sharp=_band(mono, 5000, 10_000) - _band(mono, 300, 4000),
        blasts=_blasts(mono),
        highest=_highest(mono),
        against=file.channels == 2 and _against(sound),
        one_side=_one_side(sound) if file.channels == 2 else 0,
        spread=float(np.percentile(levels, 95) - np.percentile(levels, 70)),
    )


def _samples(file: ConformedSound) -> list[np.ndarray]:
    every = max(SAMPLE, file.length // SAMPLES)
    found = [file.read(at, at + SAMPLE) for at in range(0, max(1, file.length - SAMPLE // 2), every)]
    return [each for each in found if len(each) >= FRAME]


def _levels(mono: np.ndarray) -> np.ndarray:
    """In dBFS, of every 10 ms."""
    frames = mono[: len(mono) // FRAME * FRAME].reshape(-1, FRAME).astype(np.float64)
    return np.asarray(10 * np.log10((frames**2).mean(axis=1) + 1e-13))


def _band(mono: np.ndarray, low: float, high: float) -> float:
    """The level of a band in its loudest twentieth of frames, in dBFS."""
    inside = sections_of(butter(4, [low, high], "bandpass", fs=RATE, output="sos"), 1)(mono[:, None])[:, 0]
    return float(np.percentile(_levels(inside), 95))


def _echo(levels: Sequence[np.ndarray], noise: float) -> float:
    """The reverberation time of the room in seconds (for a fall of 60 dB), 0 where it cannot be told.

    After words the sound falls as fast as the room lets it, or slower where the voice itself fades. So of the straight falls of
    20 dB the faster ones tell the room (after the maximum-likelihood estimators of Ratnam et al., 2003, much simplified).
    """
    found = []
    for each in levels:
        smooth = np.convolve(each, np.ones(3) / 3, "same")
        index = 0
        while index < len(smooth) - 8:
            top = smooth[index]
            if top < noise + FALL + 15 or smooth[index + 1] > top:
                index += 1
                continue
            end = index + 1
            while end + 1 < len(smooth) and smooth[end + 1] <= smooth[end] + 0.5 and smooth[end] > top - FALL - 5:
                end += 1
            part = smooth[index : end + 1]
            inside = np.flatnonzero((part <= top - 5) & (part >= top - 5 - FALL))
            if len(inside) >= 4 and part[inside[0]] - part[inside[-1]] >= 0.6 * FALL:
                slope = np.polyfit(inside, part[inside], 1)[0]
                if slope < 0:
                    found.append(60 / -slope * FRAME / RATE)
            index = end + 1
    return float(np.percentile(found, 30)) if len(found) >= 5 else 0.0


def _clipped(sound: np.ndarray) -> float:
    """The share of a thousand samples that stand at the top in a row of three."""
    top = np.abs(sound).max()
    if top < 0.2:
        return 0.0
    flat = np.abs(sound) >= 0.997 * top
    rows = flat[:-2] & flat[1:-1] & flat[2:]
    return float(1000 * rows.mean())


STANDS_OUT, HEARD = 12.0, -40.0
"""A blast is so many decibels louder than the voice there, and louder than that (dBFS)."""


def _blasts(mono: np.ndarray) -> float:
    """Blasts of air in a minute: what is below 120 Hz and far louder than the voice is there."""
    low = _levels(sections_of(butter(4, 120, fs=RATE, output="sos"), 1)(mono[:, None])[:, 0])
    loud = (low > np.percentile(low, 90) + STANDS_OUT) & (low > HEARD)
    starts = np.flatnonzero(loud[1:] & ~loud[:-1])
    return float(len(starts) / max(1e-9, len(mono) / RATE / 60))


def _highest(mono: np.ndarray) -> float:
    """The highest frequency in hertz at which a voice is still heard: that of a telephone ends at 3400 Hz."""
    hertz, power = spectrum(lambda a, b: mono[a:b, None], [(a, a + RATE) for a in range(0, len(mono) - RATE, RATE)])
    if not len(power):
        return 0.0
    top = power.max()
    heard = hertz[power > top - 65]
    return float(heard.max()) if len(heard) else 0.0


def _against(sound: np.ndarray) -> bool:
    """Whether left and right work against each other."""
    left, right = sound[:, 0].astype(np.float64), sound[:, 1].astype(np.float64)
    power = np.sqrt((left**2).sum() * (right**2).sum())
    return bool(power > 0 and (left * right).sum() / power < -0.5)


LEAK: Ticks = RATE // 50
"""What is heard in one microphone arrives in another within 20 ms, for they are less than seven metres apart."""

TOLD_BY, LEAST_LEAK = 1.5, 0.02


def turned(blocks: Iterable[tuple[np.ndarray, np.ndarray]]) -> bool:
    """Whether one of two microphones in a room is the other way round: what leaks into it comes with the other sign.

    ``blocks`` are mono stretches of both at the same times. Their cross-correlation is summed up, and its highest place is held
    against its lowest; where next to nothing leaks, nothing is told.
    """
    size = 8 * LEAK
    cross, powers = np.zeros(size + 1, complex), np.zeros(2)
    for one, other in blocks:
        for at in range(0, min(len(one), len(other)) - size + 1, size):
            a, b = (each[at : at + size].astype(np.float64) for each in (one, other))
            cross += np.fft.rfft(a, 2 * size) * np.conj(np.fft.rfft(b, 2 * size))
            powers += (a**2).sum(), (b**2).sum()
    found = np.fft.irfft(cross)
    near = np.concatenate([found[: LEAK + 1], found[-LEAK:]]) / max(1e-12, float(np.sqrt(powers.prod())))
    return bool(-near.min() > LEAST_LEAK and -near.min() > TOLD_BY * near.max())


def _one_side(sound: np.ndarray) -> int:
    """-1 where all is on the left, 1 where all is on the right, 0 else."""
    left, right = (float((sound[:, side].astype(np.float64) ** 2).mean()) for side in (0, 1))
    if max(left, right) < 1e-9:
        return 0
    return -1 if right < left / 1000 else 1 if left < right / 1000 else 0


BANDS = 48


def spectrum(
    read: Callable[[Ticks, Ticks], np.ndarray], stretches: Sequence[tuple[Ticks, Ticks]]
) -> tuple[np.ndarray, np.ndarray]:
    """The average spectrum of stretches: frequencies in hertz, 48 from 50 Hz to 16 kHz, and decibels of each."""
    size = 8192
    window = np.hanning(size)
    total, count = np.zeros(size // 2 + 1), 0
    for start, end in stretches:
        mono = read(start, end).mean(axis=1)
        for at in range(0, len(mono) - size + 1, size):
            total += np.abs(np.fft.rfft(mono[at : at + size] * window)) ** 2
            count += 1
    hertz = np.geomspace(50, 16_000, BANDS)
    if not count:
        return hertz, np.zeros(0)
    edges = np.geomspace(50 / 1.06, 16_000 * 1.06, BANDS + 1)
    line = RATE / size
    power = [total[round(a / line) : max(round(a / line) + 1, round(b / line))].mean() / count for a, b in pairwise(edges)]
    return hertz, np.asarray(10 * np.log10(np.array(power) + 1e-12))
