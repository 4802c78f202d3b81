"""Breaths and laughter in what real recordings leave between their words."""

from __future__ import annotations

import numpy as np
import pytest
from conftest import DEMO
from scipy.signal import resample_poly

from bench.breaths import breathing
from jaskel.media.conform import decoded
from jaskel.speech.activity import voiced
from jaskel.speech.breath import breaths, bursts
from jaskel.speech.recognise import RATE_16K


@pytest.fixture(scope="module", params=["mending-a-sail.mp4", "interview-teo.ogg"])
def minute(request) -> tuple[np.ndarray, float]:
    """A minute, and how many of the breaths laid into it can be heard: the other voice bleeds into the quiet microphone."""
    whole = np.concatenate(list(decoded(DEMO / request.param, 1)))[: 60 * 48_000, 0]
    return resample_poly(whole, 1, 3).astype(np.float32), 0.8 if "sail" in request.param else 0.6


def test_breaths_are_found_and_little_else(minute):
    minute, audible = minute
    voice = voiced(minute)
    by_itself = breaths(minute, voice)
    breathed, taken = breathing(minute, voice)
    assert len(taken) >= 6
    found = breaths(breathed, voiced(breathed))
    right = [any(min(b, d) - max(a, c) > 0.6 * (b - a) for c, d in found) for a, b in taken]
    assert sum(right) >= audible * len(taken)
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
