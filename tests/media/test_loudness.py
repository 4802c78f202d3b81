"""Loudness as the standard has it, and a limiter that holds what it promises."""

from __future__ import annotations

import numpy as np
import pyloudnorm
import pytest
from conftest import RATE
from scipy.signal import butter, resample_poly, sosfilt

from jaskel.media.loudness import Meter, Setting, brought_to, measured, setting_for


def sine(seconds: float, hertz: float, decibels: float, channels: int = 2) -> np.ndarray:
    tone = np.sin(2 * np.pi * hertz * np.arange(round(seconds * RATE)) / RATE) * 10 ** (decibels / 20)
    return np.repeat(tone[:, None], channels, axis=1).astype(np.float32)


def blocks(sound: np.ndarray, size: int = RATE):
    return (sound[start : start + size] for start in range(0, len(sound), size))


def speech_like(seconds: float, seed: int = 1) -> np.ndarray:
    rng = np.random.default_rng(seed)
    noise = rng.standard_normal(round(seconds * RATE))
    syllables = np.repeat(rng.uniform(0.02, 1, round(seconds * 5) + 1), RATE // 5)[: len(noise)] ** 2
    # What a microphone hears of a voice is below 10 kHz.
    spoken = sosfilt(butter(4, 9000, fs=RATE, output="sos"), 0.12 * noise * syllables)
    return spoken[:, None].astype(np.float32)


@pytest.mark.parametrize(("decibels", "lufs"), [(-23, -23.0), (-33, -33.0)])
def test_the_tones_of_the_standard(decibels, lufs):
    """EBU Tech 3341, cases 1 and 2: a stereo sine of 1 kHz at so many dBFS has as many LUFS, within 0.1."""
    told = measured(blocks(sine(20, 1000, decibels)), 2)
    assert told.integrated == pytest.approx(lufs, abs=0.1)
    assert told.range < 0.5


def test_a_peak_between_samples_is_seen():
    """EBU Tech 3341, case 16: a quarter of the rate, 45 degrees off, has its peaks between samples."""
    t = np.arange(RATE * 4) / RATE
    swell = np.minimum(1, np.minimum(t, t[::-1]) / 0.1)
    sound = (swell * 0.5 * np.sin(2 * np.pi * RATE / 4 * t + np.pi / 4))[:, None].astype(np.float32)
    assert 20 * np.log10(np.abs(sound).max()) == pytest.approx(-9.0, abs=0.1)
    assert measured(blocks(sound), 1).peak == pytest.approx(-6.0, abs=0.4)


def test_silence_has_no_loudness():
    told = measured(blocks(np.zeros((5 * RATE, 1), np.float32)), 1)
    assert told.is_silent and told.peak == -np.inf


@pytest.mark.parametrize("size", [RATE, 4801, 977])
def test_the_limiter_is_in_time_and_as_long(size):
    sound = speech_like(6)
    held = np.concatenate(list(brought_to(blocks(sound, size), 1, Setting(12, -1))))
    assert held.shape == sound.shape
    # Where nothing is near the ceiling, it is the same sound, only softer.
    quiet = np.concatenate(list(brought_to(blocks(sound, size), 1, Setting(-6, -1))))
    assert np.abs(quiet - sound * 10 ** (-6 / 20))[2000:-2000].max() < 3e-3


@pytest.mark.parametrize("target", [-16.0, -23.0, -14.0])
@pytest.mark.parametrize("seed", [1, 2])
def test_a_loudness_is_reached_and_its_peak_is_held(target, seed):
    sound = speech_like(12, seed)
    setting, told = setting_for(lambda: blocks(sound), 1, target, -1)
    assert told.integrated == pytest.approx(target, abs=0.2) and told.peak <= -1
    made = np.concatenate(list(brought_to(blocks(sound), 1, setting)))
    # Another meter than the one it was set by.
    assert pyloudnorm.Meter(RATE).integrated_loudness(made.astype(float)) == pytest.approx(target, abs=0.3)
    finer = np.abs(resample_poly(made[:, 0], 8, 1))
    assert 20 * np.log10(finer.max()) <= -1 + 0.15


def test_nothing_is_done_where_nothing_is_to_be_done():
    sound = speech_like(6)
    assert setting_for(lambda: blocks(sound * 0.1), 1, None, -1)[0] is None
    assert setting_for(lambda: blocks(sound * 0), 1, -16, -1)[0] is None


def test_the_limiter_forgets():
    sound = sine(4, 440, -30, 1)
    sound[RATE : RATE + 2400] *= 40
    held = np.concatenate(list(brought_to(blocks(sound), 1, Setting(0, -6))))
    assert np.array_equal(held[2 * RATE :], sound[2 * RATE :])


def test_a_meter_says_the_same_however_its_blocks_are_cut():
    sound = speech_like(8)
    whole, small = Meter(1), Meter(1)
    whole.add(sound)
    for block in blocks(sound, 777):
        small.add(block)
    one, other = whole.loudness(), small.loudness()
    assert one.integrated == pytest.approx(other.integrated, abs=0.05)
    assert one.peak == pytest.approx(other.peak, abs=0.05)
