"""What processors do to sounds with known places, loudness by another library than ours, and what it costs.

The speech is that of the talks beside this module, spoken by voices and in rooms that nothing was tuned to.
"""

from __future__ import annotations

import json
import math
import subprocess
import sys
import time
from collections.abc import Callable, Iterator
from itertools import pairwise
from pathlib import Path

import av
import numpy as np
import pyloudnorm
from scipy.signal import butter, fftconvolve, sosfilt

from bench.figure import Figure
from jaskel.core.marks.anchor import Beginning, End
from jaskel.core.marks.bed import Bed
from jaskel.core.plan.beds import AHEAD, ducked, spoken
from jaskel.core.sound.processor import Chain, Clicks, Hum, Noise, Plosives, Sibilants
from jaskel.core.sound.ride import changes_of_direction, level_at
from jaskel.core.timebase import RATE
from jaskel.media.conform import conform
from jaskel.media.conformed import ConformedSound, NewConformedSound
from jaskel.media.denoise import Denoiser
from jaskel.media.loudness import brought_to, setting_for
from jaskel.media.probe import probe
from jaskel.media.process import process, processed
from jaskel.media.render import write_sound
from jaskel.media.sound import Shelf
from jaskel.speech.measure import plain, word_error
from jaskel.speech.transcribe import transcribe
from jaskel.speech.weights import recogniser_for

TALKS = Path(__file__).parent / "talks"
QUIET = ("bright-and-quick", "bright-and-even")
SECONDS = 20


def figures(folder: Path) -> Iterator[Figure]:
    speech = [talk(name) for name in QUIET]
    yield from _noise(folder, speech)
    yield from _echo(folder, speech)
    yield from _memory(folder, speech)
    yield from _heard(folder)
    yield from _events(folder, speech)
    yield from _loudness(folder)
    yield from _ducking()


def talk(name: str) -> np.ndarray:
    """Twenty seconds of a talk, mono."""
    with av.open(str(TALKS / f"{name}.opus")) as file:
        resampler = av.AudioResampler("flt", "mono", RATE)
        frames = [made.to_ndarray().reshape(-1) for frame in file.decode(audio=0) for made in resampler.resample(frame)]
    sound = np.concatenate(frames)[5 * RATE : (5 + SECONDS) * RATE].astype(np.float32)
    return np.asarray(sound * (0.1 / np.sqrt((sound**2).mean())))


def after(folder: Path, sound: np.ndarray, *chain: object) -> np.ndarray:
    path = folder / "in.flac"
    with NewConformedSound(path, 1) as out:
        out.write(sound[:, None].astype(np.float32))
    with ConformedSound(path) as file:
        made: Chain = tuple(chain)  # type: ignore[assignment]
        return np.concatenate(list(processed(file, made)))[:, 0]


def sdr(clean: np.ndarray, sound: np.ndarray) -> float:
    """Scale-invariant signal-to-distortion ratio, in dB."""
    share = (sound @ clean) / (clean @ clean) * clean
    return float(10 * np.log10((share @ share) / ((sound - share) @ (sound - share))))


def at(clean: np.ndarray, noise: np.ndarray, decibels: float) -> np.ndarray:
    """Clean sound with noise so many decibels below it."""
    return np.asarray(clean + noise * np.sqrt((clean**2).mean() / (noise**2).mean()) * 10 ** (-decibels / 20))


def _noises() -> dict[str, np.ndarray]:
    chance = np.random.default_rng(5)
    length = SECONDS * RATE
    fan = sosfilt(butter(1, 400, fs=RATE, output="sos"), chance.standard_normal(length))
    hum = sum(np.sin(2 * np.pi * 50 * n * np.arange(length) / RATE) / n for n in (1, 2, 3, 4, 5, 7))
    return {"a fan": fan, "hum": np.asarray(hum), "both": fan / fan.std() + hum / np.std(hum)}


def _noise(folder: Path, speech: list[np.ndarray]) -> Iterator[Figure]:
    for name, noise in _noises().items():
        ours, bare = [], []
        for clean in speech:
            noisy = at(clean, noise, 10)
            ours.append(sdr(clean, after(folder, noisy, Noise())) - sdr(clean, noisy))
            network = Denoiser(1)
            made = np.concatenate([network(noisy[i : i + RATE, None].astype(np.float32)) for i in range(0, len(noisy), RATE)])
            lag = network.late
            bare.append(sdr(clean[: len(noisy) - lag], made[lag:, 0]) - sdr(clean, noisy))
        mine, theirs = float(np.mean(ours)), float(np.mean(bare))
        yield Figure(
            f"noise, 10 dB under {name}: SI-SDR", f"{mine:+.1f} dB", f"bare network {theirs:+.1f} dB", mine >= theirs - 0.2
        )
    clean = speech[0]
    noisy = at(clean, _noises()["a fan"], 10)
    same = np.array_equal(after(folder, noisy, Noise(amount=0)), after(folder, noisy))
    yield Figure("noise at 0 %: the same to the bit", "yes" if same else "no", "yes", same)
    network = Denoiser(1)
    bare_time = _seconds(lambda: [network(noisy[i : i + RATE, None].astype(np.float32)) for i in range(0, len(noisy), RATE)])
    ours_time = _seconds(lambda: after(folder, noisy, Noise()))
    ratio = ours_time / bare_time
    yield Figure("noise: cost against the bare library", f"{ratio:.2f} ×", "at most 1.2 ×", ratio <= 1.2)


NOISY = ("beside-a-fan", "low-beside-a-road", "low-in-a-kitchen", "northern-in-a-church", "slow-with-hum", "deep-in-an-office")
HEARD = 45
"""Of each, so many seconds are recognised."""


def _heard(folder: Path) -> Iterator[Figure]:
    """Whether words are lost by noise reduction: word error of talks in noise, before and after."""
    recogniser = recogniser_for("en")
    errors: dict[int, list[float]] = {0: [], 60: [], 100: []}
    words = 0
    for name in NOISY:
        path = TALKS / f"{name}.opus"
        conform(path, probe(path, name), folder / "whole.flac", folder / "whole.peaks")
        with ConformedSound(folder / "whole.flac") as whole, NewConformedSound(folder / "talk.flac", whole.channels) as talk:
            talk.write(whole.read(0, min(whole.length, (HEARD + 2) * RATE)))
        truth = json.loads(path.with_suffix(".truth.json").read_text())["words"]
        said = [plain(word["text"]) for word in truth if word["end"] < HEARD]
        until = round(max(word["end"] for word in truth if word["end"] < HEARD) * RATE) + RATE // 10
        words += len(said)
        for amount, found in errors.items():
            file = folder / f"{name} {amount}.flac"
            process(folder / "talk.flac", (Noise(amount=amount),), file)
            shelf = Shelf(lambda _, file=file: file)  # type: ignore[misc]
            parts = transcribe(lambda a, b, shelf=shelf: shelf.mono_16k("", a, b), until, recogniser)  # type: ignore[misc]
            found.append(len(said) * word_error(said, [plain(w.text) for part in parts for w in part.words if not w.is_sound]))
    before = sum(errors[0]) / words
    for amount in (60, 100):
        now = sum(errors[amount]) / words
        reach = f"at most {before + 0.005:.1%} ({before:.1%} before)"
        yield Figure(f"noise at {amount} %: word error of six talks in noise", f"{now:.1%}", reach, now <= before + 0.005)


def _seconds(work: Callable[[], object]) -> float:
    begun = time.perf_counter()
    work()
    return time.perf_counter() - begun


def _echo(folder: Path, speech: list[np.ndarray]) -> Iterator[Figure]:
    """In a made room of 0.6 s, by how much the half second after the last word falls more than before."""
    chance = np.random.default_rng(6)
    length = round(0.7 * RATE)
    room = chance.standard_normal(length) * 10 ** (-3 * np.arange(length) / (0.6 * RATE))
    room[0] = 8.0
    found, under = [], []
    for clean in speech:
        cut = clean.copy()
        cut[10 * RATE :] = 0
        wet = fftconvolve(cut, room)[: len(cut)]
        wet *= 0.1 / np.sqrt((wet[: 10 * RATE] ** 2).mean())
        wet += chance.standard_normal(len(wet)) * 1e-5
        made = after(folder, wet, Noise())

        def tail(sound: np.ndarray) -> float:
            part = sound[round(10.08 * RATE) : round(10.4 * RATE)]
            return float(10 * np.log10((part**2).mean() / (sound[: 10 * RATE] ** 2).mean()))

        found.append(tail(wet) - tail(made))
        # Under the words: how near to the dry voice, by its best fitting level.
        under.append(sdr(cut[: 10 * RATE], made[: 10 * RATE]) - sdr(cut[: 10 * RATE], wet[: 10 * RATE]))
    value = float(np.mean(found))
    yield Figure("echo: tails after words fall more, room of 0.6 s", f"{value:.1f} dB", "at least 12 dB", value >= 12)
    nearer = float(np.mean(under))
    yield Figure("echo: under words, nearer to the dry voice (SI-SDR)", f"{nearer:+.1f} dB", "nearer than before", nearer > 0)


def _memory(folder: Path, speech: list[np.ndarray]) -> Iterator[Figure]:
    """Two tracks of three minutes side by side through the network, as the job does it, in a process of its own."""
    for number, clean in enumerate(speech):
        with NewConformedSound(folder / f"{number}.flac", 1) as out:
            for _ in range(9):
                out.write(clean[:, None].astype(np.float32))
    code = (
        "import sys, resource; from concurrent.futures import ThreadPoolExecutor; from pathlib import Path\n"
        "from jaskel.core.sound.processor import Noise; from jaskel.media.process import process\n"
        "folder = Path(sys.argv[1])\n"
        "with ThreadPoolExecutor(2) as two:\n"
        "    [*two.map(lambda n: process(folder / f'{n}.flac', (Noise(),), folder / f'{n}.made.flac'), range(2))]\n"
        "print(resource.getrusage(resource.RUSAGE_SELF).ru_maxrss // 1000)"
    )
    told = subprocess.run([sys.executable, "-c", code, str(folder)], capture_output=True, text=True, check=True)
    most = int(told.stdout)
    yield Figure("noise: memory of two tracks side by side", f"{most} MB", "at most 800 MB", most <= 800)


Event = Callable[[np.random.Generator], np.ndarray]


def _blast(chance: np.random.Generator) -> np.ndarray:
    sound = sosfilt(butter(2, [25, 90], "bandpass", fs=RATE, output="sos"), chance.standard_normal(3840)) * np.hanning(3840)
    return np.asarray(0.4 * sound / np.abs(sound).max())


def _click(chance: np.random.Generator) -> np.ndarray:
    length = int(chance.integers(3, 20))
    return np.asarray(chance.choice([-1, 1]) * chance.uniform(0.1, 0.5) * np.exp(-np.arange(length) / 4))


def _hiss(chance: np.random.Generator) -> np.ndarray:
    sound = sosfilt(butter(2, [5500, 9500], "bandpass", fs=RATE, output="sos"), chance.standard_normal(5760)) * np.hanning(5760)
    return np.asarray(0.35 * sound / np.abs(sound).max())


def _events(folder: Path, speech: list[np.ndarray]) -> Iterator[Figure]:
    """Sounds laid into speech at known places: how many are lowered by 6 dB, and what else changes."""
    cases: tuple[tuple[str, Event, object, tuple[float, float] | None], ...] = (
        ("plosives", _blast, Plosives(), (20, 110)),
        ("clicks", _click, Clicks(), None),
        ("sibilants", _hiss, Sibilants(strength=1.0), (5500, 9500)),
    )
    for name, make, processor, band in cases:
        chance = np.random.default_rng(7)
        lowered, changed = [], []
        for clean in speech:
            sound = clean.copy()
            places = [int(place + chance.integers(0, RATE // 4)) for place in range(RATE, len(clean) - RATE, RATE * 3 // 4)]
            laid = []
            for place in places:
                event = make(chance)
                sound[place : place + len(event)] += event.astype(np.float32)
                laid.append((place, place + len(event)))
            made = after(folder, sound, processor)
            known = after(folder, clean, processor)
            for a, b in laid:
                left, right = a - 4, b + 8
                before, now = (_in(band, each, left, right) for each in (sound - clean, made - known))
                lowered.append(10 * math.log10(max(now, 1e-12) / max(before, 1e-12)) <= -6)
            changed.append(_elsewhere(_below(known, band), _below(clean, band)))
        share = float(np.mean(lowered))
        yield Figure(f"{name}: lowered by 6 dB", f"{share:.0%}", "at least 90 %", share >= 0.9)
        most = max(changed)
        yield Figure(f"{name}: nothing else changed by more", f"{most:.2f} dB", "at most 0.5 dB", most <= 0.5)
    hum = 0.02 * sum(np.sin(2 * np.pi * 50 * n * np.arange(SECONDS * RATE) / RATE) / n for n in (1, 2, 3, 5))
    down = []
    for clean in speech:
        made = after(folder, clean + hum, Hum()) - clean
        for line in (50, 100, 150):
            before, now = (_in((line - 1, line + 1), each, RATE, len(clean)) for each in (hum, made))
            down.append(10 * math.log10(now / before) <= -6)
    share = float(np.mean(down))
    yield Figure("hum: lines lowered by 6 dB", f"{share:.0%}", "at least 90 %", share >= 0.9)


def _below(sound: np.ndarray, band: tuple[float, float] | None) -> np.ndarray:
    """Without what a processor of hisses is for: the voices have hisses of their own."""
    return np.asarray(sosfilt(butter(8, 4000, fs=RATE, output="sos"), sound)) if band and band[0] > 4000 else sound


def _in(band: tuple[float, float] | None, sound: np.ndarray, begin: int, end: int) -> float:
    """The power of a stretch, or of a band of it."""
    if band is None:
        return float((sound[begin:end] ** 2).mean())
    part = sound[begin:end] * np.hanning(end - begin)
    power, lines = np.abs(np.fft.rfft(part)) ** 2, np.fft.rfftfreq(end - begin, 1 / RATE)
    return float(power[(lines >= band[0]) & (lines <= band[1])].sum())


def _elsewhere(made: np.ndarray, clean: np.ndarray) -> float:
    """By how many decibels the level of 50 ms changes at most, in 99 of 100 of them that are heard."""
    size = RATE // 20
    whole = len(clean) // size * size
    before, now = ((each[:whole].reshape(-1, size) ** 2).mean(axis=1) for each in (clean, made))
    heard = before > (clean**2).mean() / 100
    return float(np.percentile(np.abs(10 * np.log10(now[heard] / before[heard])), 99))


def _loudness(folder: Path) -> Iterator[Figure]:
    """Ten made mixes brought to four targets, measured by pyloudnorm; peaks before and after two encoders."""
    off, over, encoded = [], [], []
    meter = pyloudnorm.Meter(RATE)
    for seed in range(10):
        chance = np.random.default_rng(seed)
        sound = talk(QUIET[seed % 2]) * chance.uniform(0.05, 2)
        sound = np.stack([sound, sound * chance.uniform(0.7, 1)], axis=1).astype(np.float32)
        sound[chance.integers(0, len(sound), 30)] *= 8
        target = (-16, -19, -14, -23)[seed % 4]

        def blocks(whole: np.ndarray = sound) -> Iterator[np.ndarray]:
            return (whole[start : start + RATE] for start in range(0, len(whole), RATE))

        setting, _ = setting_for(blocks, 2, target, -1.0)
        made = np.concatenate(list(brought_to(blocks(), 2, setting))) if setting else sound
        off.append(abs(meter.integrated_loudness(made) - target))
        over.append(_peak(made) + 1)
        for ending in (".mp3", ".m4a"):
            path = folder / f"mix{ending}"
            write_sound(path, ending, iter([made]), 2)
            encoded.append(_peak(_decoded(path)) + 1)
    yield Figure("loudness of ten mixes, off by at most", f"{max(off):.2f} LU", "at most 0.2 LU", max(off) <= 0.2)
    yield Figure("true peak above its limit, before encoding", f"{max(over):+.2f} dB", "at most 0.1 dB", max(over) <= 0.1)
    yield Figure(
        "true peak above its limit, MP3 and AAC decoded", f"{max(encoded):+.2f} dB", "at most 0.5 dB", max(encoded) <= 0.5
    )


def _peak(sound: np.ndarray) -> float:
    from scipy.signal import resample_poly

    return float(20 * np.log10(np.abs(resample_poly(sound.astype(float), 4, 1, axis=0, window=("kaiser", 8.0))).max()))


def _decoded(path: Path) -> np.ndarray:
    with av.open(str(path)) as file:
        frames = [frame.to_ndarray().reshape(2, -1) for frame in file.decode(audio=0)]
    return np.concatenate(frames, axis=1).T


def _ducking() -> Iterator[Figure]:
    chance = np.random.default_rng(9)
    bed = Bed("b", (Beginning(), End()), "music")
    late = turns = 0
    for _ in range(200):
        at_, words = 0, []
        for _ in range(60):
            at_ += int(chance.choice([chance.integers(0, RATE // 2), chance.integers(RATE // 2, 6 * RATE)]))
            words.append((at_, at_ + int(chance.integers(RATE // 10, RATE))))
            at_ = words[-1][1]
        said = spoken(words)
        ride = ducked(said, bed)
        late += sum(level_at(ride, start - RATE // 20) > -bed.duck + 0.01 for start, _ in words if start > AHEAD)
        turns += sum(changes_of_direction(ride, a[1], b[0]) > 1 for a, b in pairwise(words) if b[0] - a[1] < RATE)
    yield Figure("music is down 50 ms before each of 12,000 words", str(late), "0 late", late == 0)
    yield Figure("it turns more than once in rests under a second", str(turns), "0", turns == 0)
