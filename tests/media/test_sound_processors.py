"""Processors of sound: each takes out what it is for, and leaves the rest alone, in time."""

from __future__ import annotations

from pathlib import Path

import numpy as np
import pytest
import soundfile
from conftest import DEMO, RATE
from scipy.signal import butter, sosfilt

from jaskel.core.sound.processor import (
    Clicks,
    Clipped,
    Compressor,
    Disguise,
    Equaliser,
    Gain,
    Hum,
    Limiter,
    LowCut,
    Noise,
    Plosives,
    Polarity,
    Sibilants,
)
from jaskel.media.conform import conform
from jaskel.media.conformed import ConformedSound, NewConformedSound
from jaskel.media.probe import probe
from jaskel.media.process import process, processed
from jaskel.media.processors import equaliser_curve, hum_of


def tone(seconds: float, hertz: float) -> np.ndarray:
    return (0.1 * np.sin(2 * np.pi * hertz * np.arange(round(seconds * RATE)) / RATE)).astype(np.float32)


def noise(seconds: float) -> np.ndarray:
    return (0.05 * np.random.default_rng(2).standard_normal(round(seconds * RATE))).astype(np.float32)


def conformed(path: Path, sound: np.ndarray) -> Path:
    sound = sound if sound.ndim == 2 else sound[:, None]
    with NewConformedSound(path, sound.shape[1]) as out:
        out.write(sound.astype(np.float32))
    return path


def after(tmp_path: Path, sound: np.ndarray, *chain) -> np.ndarray:
    source = conformed(tmp_path / "in.flac", sound)
    with ConformedSound(source) as file:
        made = np.concatenate(list(processed(file, chain)))
        assert len(made) == file.length
    return made[:, 0] if sound.ndim == 1 else made


def level(sound: np.ndarray, hertz: float) -> float:
    """In decibels, of one line of its spectrum."""
    spectrum = np.abs(np.fft.rfft(sound * np.hanning(len(sound)))) / len(sound) * 4
    line = round(hertz * len(sound) / RATE)
    return 20 * np.log10(spectrum[line - 2 : line + 3].max() + 1e-12)


@pytest.fixture(scope="module")
def spoken(tmp_path_factory) -> np.ndarray:
    """Twelve seconds of clear speech."""
    folder = tmp_path_factory.mktemp("spoken")
    path = DEMO / "interview-teo.ogg"
    conform(path, probe(path, path.name), folder / "a.flac", folder / "a.peaks")
    sound, _ = soundfile.read(folder / "a.flac", start=30 * RATE, frames=12 * RATE, dtype="float32")
    return sound * (0.1 / np.sqrt((sound**2).mean()))


def gain_in_sdr(clean: np.ndarray, noisy: np.ndarray, made: np.ndarray) -> float:
    def sdr(sound: np.ndarray) -> float:
        share = (sound @ clean) / (clean @ clean) * clean
        return 10 * np.log10((share @ share) / ((sound - share) @ (sound - share)))

    return sdr(made) - sdr(noisy)


ALL = (Gain(decibels=3), LowCut(), Hum(hertz=50), Noise(), Sibilants(), Compressor())


@pytest.mark.parametrize("each", ALL, ids=lambda each: each.kind)
@pytest.mark.parametrize("channels", [1, 2])
def test_sound_stays_as_long_and_in_time(tmp_path, spoken, each, channels):
    sound = np.repeat(spoken[: 3 * RATE, None], channels, axis=1)
    made = after(tmp_path, sound, each)
    assert made.shape == sound.shape
    # In time to the sample: where both are most alike.
    lags = range(-30, 31)
    a, b = made[RATE : 2 * RATE, 0], sound[:, 0]
    alike = [float(a @ b[RATE + lag : 2 * RATE + lag]) for lag in lags]
    assert abs(lags[int(np.argmax(alike))]) <= 2


@pytest.mark.parametrize("each", ALL, ids=lambda each: each.kind)
def test_an_amount_of_nothing_is_the_same_to_the_bit(tmp_path, spoken, each):
    source = conformed(tmp_path / "in.flac", spoken[:RATE])
    process(source, (type(each)(amount=0),), tmp_path / "out.flac")
    assert np.array_equal(soundfile.read(source, dtype="int32")[0], soundfile.read(tmp_path / "out.flac", dtype="int32")[0])


def test_half_an_amount_is_half_way(tmp_path, spoken):
    sound = spoken[: 2 * RATE]
    whole, half = after(tmp_path, sound, Noise()), after(tmp_path, sound, Noise(amount=50))
    dry = after(tmp_path, sound)
    assert np.abs(half - (dry + whole) / 2).max() < 1e-6


def test_noise_goes_and_speech_stays(tmp_path, spoken):
    rng = np.random.default_rng(3)
    hiss = rng.standard_normal(len(spoken)).astype(np.float32)
    noisy = spoken + hiss * np.sqrt((spoken**2).mean()) * 10 ** (-10 / 20)
    made = after(tmp_path, noisy, Noise())
    assert gain_in_sdr(spoken.astype(float), noisy.astype(float), made.astype(float)) > 4
    assert 0.6 < np.sqrt((made**2).mean() / (spoken**2).mean()) < 1.3


class TestHum:
    def hum(self, hertz: int, seconds: float = 8, decibels: float = -40) -> np.ndarray:
        return sum(tone(seconds, hertz * n) * 10 ** ((decibels + 20) / 20) / n for n in (1, 2, 3, 5))

    @pytest.mark.parametrize("hertz", [50, 60])
    def test_it_is_found_and_taken_out(self, tmp_path, spoken, hertz):
        sound = spoken[: 8 * RATE] + self.hum(hertz)[: 8 * RATE]
        with ConformedSound(conformed(tmp_path / "hum.flac", sound)) as file:
            assert hum_of(file)[0] == hertz
        made = after(tmp_path, sound, Hum())
        for line in (hertz, 2 * hertz, 3 * hertz):
            quiet = slice(2 * RATE, 8 * RATE)
            assert level(made[quiet], line) <= level(sound[quiet], line) - 6
        # Beside the notches nothing changes.
        assert level(made[RATE:], 700) == pytest.approx(level(sound[RATE:], 700), abs=0.5)

    def test_where_there_is_none_nothing_is_done(self, tmp_path, spoken):
        for sound in (spoken, noise(6), spoken * 0):
            with ConformedSound(conformed(tmp_path / "a.flac", sound)) as file:
                assert hum_of(file) == []
        assert np.array_equal(after(tmp_path, spoken, Hum()), after(tmp_path, spoken))


def test_a_low_cut_takes_rumble_and_leaves_the_voice(tmp_path):
    sound = tone(3, 30) + tone(3, 300)
    made = after(tmp_path, sound, LowCut(hertz=80))
    assert level(made[RATE:], 30) < level(sound[RATE:], 30) - 20
    assert level(made[RATE:], 300) == pytest.approx(level(sound[RATE:], 300), abs=0.5)


def test_a_compressor_makes_loud_and_soft_more_alike(tmp_path):
    loud, soft = tone(2, 440), tone(2, 440) * 0.1
    sound = np.concatenate([loud, soft]) / np.abs(loud).max() * 0.5
    made = after(tmp_path, sound, Compressor(threshold=-30, ratio=4))

    def apart(x: np.ndarray) -> float:
        return 20 * np.log10(np.sqrt((x[RATE : 2 * RATE] ** 2).mean()) / np.sqrt((x[3 * RATE :] ** 2).mean()))

    assert apart(made) < apart(sound) - 6


def test_blocks_of_any_size_give_the_same(tmp_path, spoken, monkeypatch):
    sound = spoken[: 2 * RATE]
    chain = (LowCut(), Noise(), Sibilants(), Compressor())
    whole = after(tmp_path, sound, *chain)
    monkeypatch.setattr("jaskel.media.process.BLOCK", 7001)
    assert np.abs(after(tmp_path, sound, *chain) - whole).max() < 1e-5


class TestPlosives:
    def test_blasts_go_down_and_nothing_else_changes(self, tmp_path, spoken):
        rng = np.random.default_rng(4)
        sound, places = spoken.copy(), [RATE * each for each in (2, 4, 6, 8)]
        blast = sosfilt(butter(2, [25, 90], "bandpass", fs=RATE, output="sos"), rng.standard_normal(3840)) * np.hanning(3840)
        for place in places:
            sound[place : place + 3840] += (0.4 * blast / np.abs(blast).max()).astype(np.float32)
        made = after(tmp_path, sound, Plosives())
        low = butter(4, 110, fs=RATE, output="sos")
        before, now = (sosfilt(low, each) for each in (sound, made))
        for place in places:
            part = slice(place + 400, place + 3600)
            assert 10 * np.log10((now[part] ** 2).mean() / (before[part] ** 2).mean()) < -6
        assert np.abs(made[round(2.6 * RATE) : round(3.6 * RATE)] - sound[round(2.6 * RATE) : round(3.6 * RATE)]).max() < 1e-4


def test_clicks_go_down(tmp_path, spoken):
    rng = np.random.default_rng(5)
    places = rng.choice(np.arange(RATE // 2, len(spoken) - RATE, 9000), 40, replace=False)
    clicked = spoken.copy()
    for place in places:
        clicked[place : place + 6] += rng.choice([-1, 1]) * 0.4 * np.exp(-np.arange(6) / 2)
    made = after(tmp_path, clicked, Clicks())

    def left(sound: np.ndarray, place: int) -> float:
        return float(np.sqrt(((sound - spoken)[place : place + 12] ** 2).mean()))

    lowered = [20 * np.log10(left(made, place) / left(clicked, place)) < -6 for place in places]
    assert np.mean(lowered) >= 0.9


def test_what_was_cut_off_is_drawn_in(tmp_path, spoken):
    loud = spoken[: 4 * RATE] * np.float32(0.9 / np.abs(spoken[: 4 * RATE]).max())
    top = 0.5
    cut = np.clip(loud, -top, top)
    made = after(tmp_path, cut, Clipped())
    gone = np.abs(loud) > top
    assert gone.sum() > 100
    assert np.abs(made - loud)[gone].mean() < 0.7 * np.abs(cut - loud)[gone].mean()
    rest = np.abs(cut) < 0.4
    assert np.abs(made[rest] - cut[rest]).max() < 1e-6


def test_polarity_is_turned(tmp_path, spoken):
    assert np.array_equal(after(tmp_path, spoken[:RATE], Polarity()), -after(tmp_path, spoken[:RATE]))


def test_an_equaliser_does_what_its_curve_says(tmp_path):
    settings = Equaliser(shelf_low_gain=-6, bell_high_gain=5, shelf_high_gain=-4, bell_low=300, bell_low_gain=3)
    for hertz in (60, 300, 3000, 14_000):
        sound = tone(2, hertz)
        made = after(tmp_path, sound, settings)
        wanted = float(equaliser_curve(settings, np.array([float(hertz)]))[0])
        assert level(made[RATE:], hertz) - level(sound[RATE:], hertz) == pytest.approx(wanted, abs=0.1)


def test_a_limiter_holds_peaks_and_leaves_the_rest(tmp_path, spoken):
    sound = spoken[: 3 * RATE] * 0.5
    sound[RATE : RATE + 200] *= 20
    made = after(tmp_path, sound, Limiter(peak=-12))
    assert np.abs(made).max() <= 10 ** (-12 / 20) * 1.01
    assert np.array_equal(made[2 * RATE :], after(tmp_path, sound)[2 * RATE :])


def test_a_disguised_voice_is_lower_and_in_time(tmp_path):
    sound = np.concatenate([np.zeros(RATE, np.float32), tone(2, 440), np.zeros(RATE, np.float32)])
    made = after(tmp_path, sound, Disguise(semitones=-12 + 4))
    loud = np.flatnonzero(np.abs(made) > 0.02)
    assert abs(loud[0] - RATE) < 0.05 * RATE and abs(loud[-1] - 3 * RATE) < 0.05 * RATE
    line = np.argmax(np.abs(np.fft.rfft(made[round(1.5 * RATE) : round(2.5 * RATE)])))
    assert line == pytest.approx(440 * 2 ** (-8 / 12), rel=0.03)
