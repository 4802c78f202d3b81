"""Breaths and laughter in what real recordings leave between their words."""

from __future__ import annotations

import itertools

import numpy as np
import pytest
from conftest import DEMO
from scipy.signal import butter, resample_poly, sosfilt

from jaskel.media.conform import decoded
from jaskel.speech.activity import voiced
from jaskel.speech.breath import breaths, bursts
from jaskel.speech.recognise import RATE_16K


@pytest.fixture(scope="module", params=["mending-a-sail.mp4", "interview-teo.ogg"])
def minute(request) -> np.ndarray:
    whole = np.concatenate(list(decoded(DEMO / request.param, 1)))[: 60 * 48_000, 0]
    return resample_poly(whole, 1, 3).astype(np.float32)


def breath(seconds: float, level: float, seed: int) -> np.ndarray:
    """Air: noise from 400 to 5,000 Hz that swells and dies away."""
    noise = np.random.default_rng(seed).standard_normal(round(seconds * RATE_16K))
    shaped = sosfilt(butter(2, (400, 5000), "bandpass", fs=RATE_16K, output="sos"), noise) * np.hanning(len(noise)) ** 0.5
    return (level * shaped / np.sqrt((shaped**2).mean())).astype(np.float32)


def test_breaths_are_found_and_little_else(minute):
    voice = voiced(minute)
    spoken = np.concatenate([minute[round(a * RATE_16K) : round(b * RATE_16K)] for a, b in voice])
    level = float(np.sqrt((spoken**2).mean()))
    by_itself = breaths(minute, voice)
    breathed, taken = minute.copy(), []
    for number, (before, after) in enumerate(itertools.pairwise(voice)):
        length = 0.2 + 0.05 * (number % 5)
        if after[0] - before[1] < length + 0.15:
            continue
        start = after[0] - 0.05 - length
        air = breath(length, level * 10 ** (-(16 + number % 3 * 4) / 20), number)
        breathed[round(start * RATE_16K) :][: len(air)] += air
        taken.append((start, start + length))
    assert len(taken) >= 6
    found = breaths(breathed, voiced(breathed))
    right = [any(min(b, d) - max(a, c) > 0.6 * (b - a) for c, d in found) for a, b in taken]
    assert sum(right) >= 0.8 * len(taken)
    assert len(by_itself) <= 3
    assert len(found) <= len(taken) + 3


def voice_of(bursts_a_second: float, count: int) -> np.ndarray:
    """A voice of 160 Hz in bursts."""
    t = np.arange(round(count / bursts_a_second * RATE_16K)) / RATE_16K
    pulses = sum(np.sin(2 * np.pi * 160 * k * t) / k for k in range(1, 20))
    envelope = np.clip(np.sin(2 * np.pi * bursts_a_second * t), 0, 1) ** 0.5
    return (0.1 * pulses * envelope).astype(np.float32)


@pytest.mark.parametrize(("rate", "count", "laughs"), [(5, 5, True), (4.2, 4, True), (5, 2, False), (1.5, 4, False)])
def test_laughter_comes_in_bursts(rate, count, laughs):
    sound = np.concatenate([np.zeros(RATE_16K, np.float32), voice_of(rate, count), np.zeros(RATE_16K, np.float32)])
    sound += np.random.default_rng(1).normal(0, 1e-4, len(sound)).astype(np.float32)
    length = count / rate
    assert [a == pytest.approx(1, abs=0.2) for a, _ in bursts(sound, [(1.0, 1.0 + length)])] == ([True] if laughs else [])


def test_silence_holds_nothing():
    silence = np.zeros(5 * RATE_16K, np.float32)
    assert breaths(silence, []) == [] == bursts(silence, [])
