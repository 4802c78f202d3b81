"""The limiter: what it promises of peaks, and that a part of a sound limited is a part of the limited sound."""

import numpy as np
import pytest
from conftest import RATE
from scipy.ndimage import correlate1d, minimum_filter1d
from scipy.signal import butter, resample_poly, sosfilt

from jaskel.core.marks.level import gain
from jaskel.core.sound.bus import AHEAD, DEEPEST, REACH, RELEASE
from jaskel.media.limiter import _GRAIN, _SMOOTH, held_under, limited, peaks_of


def loud(seconds: float, seed: int, channels: int = 2) -> np.ndarray:
    rng = np.random.default_rng(seed)
    swell = 0.2 + np.abs(np.sin(np.arange(round(seconds * RATE)) / 9000))
    noise = sosfilt(butter(6, 15_000, fs=RATE, output="sos"), rng.standard_normal((len(swell), channels)), axis=0)
    return (noise * 0.4 * swell[:, None]).astype(np.float32)


@pytest.mark.parametrize(("seed", "peak"), [(1, -1.0), (2, -3.0), (3, -9.0)])
def test_nothing_is_above_the_peak_between_samples_either(seed, peak):
    held = limited(loud(3, seed), peak)
    between = np.abs(resample_poly(held.astype(np.float64), 8, 1, axis=0)).max()
    assert 20 * np.log10(between) < peak + 0.3


def test_a_part_is_the_same_by_itself_to_the_last_bit():
    sound = loud(4, 4).astype(np.float64)
    whole = limited(sound, -2.0)
    for begin, end in ((60_000, 90_000), (61_234, 61_235), (100_001, 150_007)):
        part = limited(sound[begin - REACH : end + REACH], -2.0)[REACH:-REACH]
        assert np.array_equal(part, whole[begin:end])


@pytest.mark.parametrize("size", [777, 20_000, RATE])
def test_blocks_give_what_all_at_once_gives(size):
    sound = loud(2, 5, channels=1)
    blocks = (sound[start : start + size] for start in range(0, len(sound), size))
    assert np.array_equal(np.concatenate(list(held_under(blocks, 1, -4.0))), limited(sound, -4.0))


@pytest.mark.parametrize("seed", range(4))
def test_around_peaks_alone_it_gives_what_going_through_all_of_it_gives(seed):
    rng = np.random.default_rng(seed)
    sound = loud(3, seed, channels=1 + seed % 2) * np.float32(0.02)
    for at in rng.integers(0, len(sound), 12):  # some so near to one another that the gain has not come up between them
        sound[at : at + 40] *= np.float32(rng.uniform(20, 90))
    assert np.array_equal(limited(sound, -6.0), all_limited(sound, -6.0))


def all_limited(sound: np.ndarray, peak: float) -> np.ndarray:
    """The limiter by its definition, computed for every sample."""
    ceiling = gain(peak)
    needed = np.maximum(20 * np.log10(ceiling / np.maximum(peaks_of(sound), ceiling)), -DEEPEST)
    held = minimum_filter1d(needed, 2 * AHEAD + 1, mode="constant", cval=0.0)
    smooth = np.floor(correlate1d(held, _SMOOTH, mode="constant", cval=0.0) / _GRAIN) * _GRAIN
    climb = np.arange(len(sound)) * RELEASE
    down = np.minimum(np.minimum.accumulate(smooth - climb) + climb, 0.0)
    return np.asarray(sound * (10 ** (down / 20))[:, None], sound.dtype)


def test_what_is_soft_enough_is_not_touched():
    sound = loud(1, 6) * np.float32(0.05)
    assert limited(sound, -1.0) is sound
