"""What each kind of processor does to samples.

To add one, write a function here that makes its state for a file and gives what processes blocks of sound, and register it with
:func:`~jaskel.media.processor.processes`.
"""

from __future__ import annotations

from collections.abc import Callable

import numpy as np
from scipy.ndimage import maximum_filter1d, uniform_filter1d
from scipy.signal import butter, firwin, iirnotch, sosfreqz, tf2sos

from jaskel.core.marks.level import gain
from jaskel.core.sound.bus import REACH
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
from jaskel.core.timebase import RATE
from jaskel.media import mending
from jaskel.media.conformed import ConformedSound
from jaskel.media.limiter import limited
from jaskel.media.mending import with_peaks, without_clicks
from jaskel.media.processor import About, ByHand, Filter, Process, processes, sections_of


@processes(Gain)
def _gain(settings: Gain, _about: About) -> Process:
    factor = np.float32(gain(settings.decibels))
    return ByHand(lambda sound: sound * factor)


@processes(LowCut)
def _low_cut(settings: LowCut, about: About) -> Process:
    return sections_of(butter(4, settings.hertz, "highpass", fs=RATE, output="sos"), about.channels)


@processes(Hum)
def _hum(settings: Hum, about: About) -> Process:
    """Notches at the mains and those of its harmonics that stand out, narrow enough to leave a voice alone."""
    lines = hum_lines(about, settings.hertz)
    if not lines:
        return ByHand(lambda sound: sound)
    return sections_of(np.concatenate([tf2sos(*iirnotch(line, line / NOTCH, fs=RATE)) for line in lines]), about.channels)


@processes(Noise)
def _noise(settings: Noise, about: About) -> Process:
    from jaskel.media.denoise import Denoiser

    return Denoiser(about.channels, settings.most)


SHARP = (4500.0, 12_000.0)
"""In hertz: there a sharp s is, and little of a vowel."""

VOWELS = 65.0
"""Two thirds of the time there is no s: what is loud there then is usual for the voice."""

SHARP_TAPS = 257
SHARP_STANDS_OUT, SHARP_MOST = 6.0, 24.0
"""In decibels: by how much one is louder than the voice usually is there, and by how much it is lowered at most."""


@processes(Sibilants)
def _sibilants(settings: Sibilants, about: About) -> Process:
    """What lies between 4.5 and 12 kHz is lowered to its usual level where it stands out, and only there."""
    usual = _usual(about, butter(4, SHARP, "bandpass", fs=RATE, output="sos"), VOWELS)
    most = settings.strength * SHARP_MOST
    return _held_down(about, firwin(SHARP_TAPS, SHARP, fs=RATE, pass_zero=False), usual, SHARP_STANDS_OUT, most, RATE // 200)


@processes(Compressor)
def _compressor(settings: Compressor, about: About) -> Process:
    threshold = gain(settings.threshold)
    return Filter(
        f"acompressor=threshold={threshold:.6f}:ratio={settings.ratio:g}:attack={settings.attack:g}:release={settings.release:g}",
        about.channels,
    )


NOTCH = 1.5
"""Width of a notch in hertz: hum stays where it is, and a voice is never there for long."""

HUM_STANDS_OUT = 12.0
"""A line is hum where its level is so many decibels above that of its neighbourhood, in what is quiet of a recording."""

HARMONICS = 12


def hum_lines(about: About, hertz: int = 0) -> list[float]:
    """Frequencies of the hum in a recording: of 50 or 60 Hz, whichever stands out more, unless one is given; else none.

    By the average spectrum of the quieter half of its seconds, in which little is said.
    """
    spectra, loud = [], []
    for start in range(0, max(1, about.length - RATE), max(RATE, about.length // 120)):
        block = about.read(start, start + RATE).mean(axis=1)
        if len(block) == RATE:
            spectra.append(np.abs(np.fft.rfft(block * np.hanning(RATE))) ** 2)
            loud.append(float((block**2).mean()))
    if not spectra:
        return []
    power = np.mean([spectra[i] for i in np.argsort(loud)[: max(1, len(loud) // 2)]], axis=0) + 1e-20

    def standing_out(base: int) -> dict[float, float]:
        found = {}
        for line in range(base, base * (HARMONICS + 1), base):
            here = 10 * np.log10(power[line - 1 : line + 2].max())
            beside = 10 * np.log10(np.median(np.concatenate([power[line - 20 : line - 4], power[line + 5 : line + 21]])))
            found[float(line)] = float(here - beside)
        return found

    found = {base: standing_out(base) for base in ((hertz,) if hertz else (50, 60))}
    sure = {base: [line for line, over in lines.items() if over > HUM_STANDS_OUT] for base, lines in found.items()}
    best = max(found, key=lambda base: sum(found[base][line] for line in sure[base]))
    # One harmonic may be a note; the mains have several, or their own line. Then fainter ones are theirs, too.
    if len(sure[best]) < 2 and float(best) not in sure[best]:
        return []
    return [line for line, over in found[best].items() if over > FAINTER]


FAINTER = HUM_STANDS_OUT / 2


def hum_of(file: ConformedSound) -> list[float]:
    """Frequencies of the hum in a conformed file, in hertz."""
    return hum_lines(About(file.channels, file.length, file.read))


@processes(Polarity)
def _polarity(_settings: Polarity, _about: About) -> Process:
    return ByHand(lambda sound: -sound)


@processes(Clipped)
def _clipped(settings: Clipped, about: About) -> Process:
    top = settings.share / 100 * _highest_sample(about)
    return _mended(about.channels, lambda wave: with_peaks(wave, top))


@processes(Clicks)
def _clicks(settings: Clicks, about: About) -> Process:
    return _mended(about.channels, lambda wave: without_clicks(wave, settings.threshold))


def _mended(channels: int, mend: Callable[[np.ndarray], np.ndarray]) -> Process:
    """What mends each channel by itself, from as much of its neighbourhood as it needs."""
    around = mending.REACH
    kept = np.zeros((2 * around, channels), np.float32)

    def work(sound: np.ndarray) -> np.ndarray:
        nonlocal kept
        given = np.concatenate([kept, sound])
        kept = given[len(sound) :]
        out = np.stack([mend(given[:, channel]) for channel in range(channels)], axis=1)
        return np.asarray(out[around : around + len(sound)], np.float32)

    return ByHand(work, around)


def _highest_sample(about: About) -> float:
    return max((float(np.abs(about.read(at, at + RATE)).max(initial=0)) for at in range(0, about.length, RATE)), default=0.0)


@processes(Equaliser)
def _equaliser(settings: Equaliser, about: About) -> Process:
    bands = equaliser_bands(settings)
    return sections_of(bands, about.channels) if len(bands) else ByHand(lambda sound: sound)


def equaliser_bands(settings: Equaliser) -> np.ndarray:
    """Second-order sections of an equaliser, shape (bands, 6), without those at 0 dB.

    By R. Bristow-Johnson's "Cookbook formulae for audio equalizer biquad coefficients": shelves of slope 1, and bells.
    """
    made = []
    for kind, hertz, decibels, q in (
        ("low", settings.shelf_low, settings.shelf_low_gain, 0.0),
        ("bell", settings.bell_low, settings.bell_low_gain, settings.bell_low_q),
        ("bell", settings.bell_high, settings.bell_high_gain, settings.bell_high_q),
        ("high", settings.shelf_high, settings.shelf_high_gain, 0.0),
    ):
        if not decibels:
            continue
        a, w = 10 ** (decibels / 40), 2 * np.pi * hertz / RATE
        cos, sin = np.cos(w), np.sin(w)
        if kind == "bell":
            alpha = sin / (2 * q)
            b = [1 + alpha * a, -2 * cos, 1 - alpha * a]
            d = [1 + alpha / a, -2 * cos, 1 - alpha / a]
        else:
            side = 1.0 if kind == "low" else -1.0
            beta = 2 * np.sqrt(a) * sin / 2 * np.sqrt(2)
            b = [
                a * ((a + 1) - side * (a - 1) * cos + beta),
                side * 2 * a * ((a - 1) - side * (a + 1) * cos),
                a * ((a + 1) - side * (a - 1) * cos - beta),
            ]
            d = [
                (a + 1) + side * (a - 1) * cos + beta,
                -side * 2 * ((a - 1) + side * (a + 1) * cos),
                (a + 1) + side * (a - 1) * cos - beta,
            ]
        made.append([*(each / d[0] for each in b), 1.0, d[1] / d[0], d[2] / d[0]])
    return np.array(made).reshape(-1, 6)


def equaliser_curve(settings: Equaliser, hertz: np.ndarray) -> np.ndarray:
    """By how many decibels an equaliser raises each of some frequencies."""
    bands = equaliser_bands(settings)
    if not len(bands):
        return np.zeros(len(hertz))
    _, response = sosfreqz(bands, worN=hertz, fs=RATE)
    return np.asarray(20 * np.log10(np.abs(response) + 1e-12))


@processes(Limiter)
def _limiter(settings: Limiter, about: About) -> Process:
    kept = np.zeros((2 * REACH, about.channels), np.float32)

    def work(sound: np.ndarray) -> np.ndarray:
        nonlocal kept
        given = np.concatenate([kept, sound])
        kept = given[len(sound) :]
        return limited(given, settings.peak)[REACH : REACH + len(sound)]

    return ByHand(work, REACH)


BLAST = 120.0
"""In hertz: a blast of air lies below it, and little of a voice does."""

BLAST_TAPS = 4801
"""Of the filter that takes the blast out: 0.1 s, or it would reach into the voice."""

FRAME = RATE // 50

STANDS_OUT = 9.0
"""By how many decibels a blast is louder than the voice is there in its louder tenth."""


@processes(Plosives)
def _plosives(settings: Plosives, about: About) -> Process:
    """What lies below 120 Hz is lowered to its usual level where it suddenly stands out."""
    usual = _usual(about, butter(4, BLAST, fs=RATE, output="sos"))
    return _held_down(about, firwin(BLAST_TAPS, BLAST, fs=RATE), usual, STANDS_OUT, settings.most, FRAME)


def _held_down(about: About, band: np.ndarray, usual: float, stands_out: float, most: float, frame: int) -> Process:
    """A band (of a filter of linear phase) is lowered to its ``usual`` level where it stands out; the rest is not touched.

    ``frame`` is over how many samples its level is taken, and how quickly it goes down and up.
    """
    half = len(band) // 2
    margin = half + 3 * frame
    kept = np.zeros((2 * margin, about.channels), np.float32)

    def work(sound: np.ndarray) -> np.ndarray:
        nonlocal kept
        given = np.concatenate([kept, sound])
        kept = given[len(sound) :]
        inside = _filtered(given, band)
        power = uniform_filter1d((inside**2).mean(axis=1), frame)
        level = 10 * np.log10(np.maximum(maximum_filter1d(power, frame), 1e-12))
        over = np.where(level > usual + stands_out, np.minimum(level - usual, most), 0.0)
        down = uniform_filter1d(maximum_filter1d(over, frame), frame)
        out = given - inside * (1 - 10 ** (-down / 20))[:, None]
        return np.asarray(out[margin : margin + len(sound)], np.float32)

    return ByHand(work, margin)


def _filtered(sound: np.ndarray, taps: np.ndarray) -> np.ndarray:
    from scipy.signal import oaconvolve

    return np.asarray(oaconvolve(sound, taps[:, None], mode="same", axes=0))


def _usual(about: About, band: np.ndarray, percentile: float = 90.0) -> float:
    """How loud a recording is in a band (second-order sections), by a percentile of its frames, in dBFS."""
    levels = []
    for start in range(0, max(1, about.length - 2 * RATE), max(2 * RATE, about.length // 60)):
        inside = sections_of(band, about.channels)(about.read(start, start + 2 * RATE))[RATE // 10 :]
        frames = (inside[: len(inside) // FRAME * FRAME].mean(axis=1) ** 2).reshape(-1, FRAME).mean(axis=1)
        levels += [*(10 * np.log10(frames + 1e-12))]
    return float(np.percentile(levels, percentile)) if levels else 0.0


@processes(Disguise)
def _disguise(settings: Disguise, about: About) -> Process:
    """Played slower or faster, which moves pitch and formants together, and brought back to its length."""
    factor = 2 ** (settings.semitones / 12)
    steps = f"asetrate={round(RATE * factor)};aresample={RATE};atempo={1 / (round(RATE * factor) / RATE):.9f}"
    return Filter(steps, about.channels, RATE // 4)
