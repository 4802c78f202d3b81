"""Syncing by sound: the demo's four files against their truth, and made-up pairs with bleed, rooms, noise and drift.

The made-up pairs are conversations put together at random from the piece to camera: one voice as it is, one lower and slower.
Each has a microphone of its own, with a room, a noise floor and a clock of its own, and the other's voice in it as bleed. In
the last cases the second file has another conversation in it, from other sentences: there the right answer is that nothing can
be told.
"""

from __future__ import annotations

import itertools
import json
from collections.abc import Iterator
from pathlib import Path

import numpy as np
from scipy.signal import fftconvolve, resample_poly

from bench.figure import Figure, timed
from jaskel.core.plan import Feed
from jaskel.demo.shipped import MEDIA
from jaskel.media.conform import conform
from jaskel.media.probe import probe
from jaskel.media.sound import Shelf
from jaskel.speech.recognise import RATE_16K
from jaskel.speech.sync import Fingerprint, Sync, listen, sync

CLOCK = 10_000
"""Drift is made by resampling at a ratio of whole numbers about as large as this: 100 ppm is one in ten thousand."""


def heard(sound: np.ndarray) -> Fingerprint:
    """A recording in memory."""

    def read(begin: float, end: float) -> np.ndarray:
        a, b = round(begin * RATE_16K), round(end * RATE_16K)
        out = np.zeros(b - a, np.float32)
        inside = sound[max(0, a) : max(0, b)]
        out[max(0, -a) : max(0, -a) + len(inside)] = inside
        return out

    return listen(read, len(sound) / RATE_16K)


def speech_of(path: Path, folder: Path) -> np.ndarray:
    """The sound of a file as float32 mono at 16 kHz."""
    shelf, length = _shelf(path, folder)
    return shelf.mono_16k("", 0, length)


def conformed(path: Path, folder: Path) -> np.ndarray:
    """The sound of a file as it is mixed: float32 of shape (samples, 2) at 48 kHz."""
    shelf, length = _shelf(path, folder)
    return shelf.read(Feed(""), 0, length)


def _shelf(path: Path, folder: Path) -> tuple[Shelf, int]:
    place = folder / f"{path.stem}.flac"
    done = conform(path, probe(path, path.name), place, folder / "peaks")
    return Shelf(lambda _: place), done.length


def conversation(voices: list[np.ndarray], seconds: float, chance: np.random.Generator) -> list[np.ndarray]:
    """Turns of 2 to 12 seconds cut from each voice at random, as one track for each."""
    tracks = [np.zeros(round(seconds * RATE_16K), np.float32) for _ in voices]
    at = 0
    for turn in itertools.count():
        voice = voices[turn % len(voices)]
        length = int(chance.uniform(2, 12) * RATE_16K)
        start = int(chance.integers(0, len(voice) - length))
        if at + length > len(tracks[0]):
            return tracks
        tracks[turn % len(voices)][at : at + length] = voice[start : start + length]
        at += length + int(chance.uniform(-0.3, 1.2) * RATE_16K)


def microphone(near: np.ndarray, far: np.ndarray, bleed: float, noise: float, chance: np.random.Generator) -> np.ndarray:
    """What a microphone hears: the near voice, the far one ``bleed`` decibels lower and some metres later, and noise."""
    rooms = chance.normal(0, 0.05, (2, 3200)).astype(np.float32) * np.exp(-np.arange(3200) / 600).astype(np.float32)
    rooms[:, 0] = 1.0
    delay = int(chance.uniform(0.002, 0.008) * RATE_16K)
    direct, across = (fftconvolve(voice, room)[: len(near)] for voice, room in zip((near, far), rooms, strict=True))
    sound = direct + 10 ** (-bleed / 20) * np.roll(across, delay)
    return (sound + 10 ** (-noise / 20) * chance.normal(0, 1, len(near)).astype(np.float32)).astype(np.float32)


def pair(
    voices: list[np.ndarray], seconds: float, bleed: float, drift: float, seed: int
) -> tuple[Fingerprint, Fingerprint, float]:
    """Two microphones of one conversation; gives where the second began in the first."""
    chance = np.random.default_rng(seed)
    one, two = conversation(voices, seconds, chance)
    a, b = microphone(one, two, bleed, 60, chance), microphone(two, one, bleed, 64, chance)
    offset = float(chance.uniform(-0.3, 0.3) * seconds)
    shift = round(abs(offset) * RATE_16K)
    a, b = (a, b[shift:]) if offset > 0 else (a[shift:], b)
    if drift:
        b = resample_poly(b, CLOCK, round(CLOCK * (1 + drift))).astype(np.float32)
    return heard(a), heard(b), float(np.copysign(shift / RATE_16K, offset))


def figures(folder: Path) -> Iterator[Figure]:
    """Errors of the offsets, of drift, and of saying that nothing can be told."""
    offsets = json.loads((MEDIA / "interview.truth.json").read_text())["camera_offsets"]
    truth = {"orla.ogg": 0.0, "teo.ogg": 0.0, "camera-orla.mp4": -offsets["orla"], "camera-teo.mp4": -offsets["teo"]}
    files = {name: heard(speech_of(MEDIA / f"interview-{name}", folder)) for name in truth}
    errors = [
        abs(sync(files[a], files[b]).offset - (truth[b] - truth[a])) for a, b in itertools.combinations(files, 2)
    ]  # fmt: skip
    yield Figure("sync of the demo's 4 files, worst of 6 pairs", f"{max(errors) * 1e3:.1f} ms", "≤ 10 ms", max(errors) <= 0.01)

    quarters = np.array_split(speech_of(MEDIA / "mending-a-sail.mp4", folder), 4)
    lower = [resample_poly(quarter, 6, 5).astype(np.float32) for quarter in quarters]
    voices = [np.concatenate(quarters[:2]), np.concatenate(lower[2:])]
    off, told, cases = [], 0, [(bleed, seed) for bleed in (18, 26, 34) for seed in range(6)]
    for bleed, seed in cases:
        a, b, offset = pair(voices, 420, bleed, 0, 100 * bleed + seed)
        found = sync(a, b)
        told += found.known
        off.append(abs(found.offset - offset) if found.known else np.inf)
    worst = max(e for e in off if np.isfinite(e))
    yield Figure(f"made-up pairs with bleed, told of {len(cases)}", f"{told}", f"{len(cases)}", told == len(cases))
    yield Figure("the same, worst offset of those told", f"{worst * 1e3:.1f} ms", "≤ 10 ms", worst <= 0.01)

    late, rates = [], []
    for drift, seed in itertools.product((-100e-6, 100e-6), range(2)):
        a, b, offset = pair(voices, 3600, 24, drift, seed)
        found = sync(a, b)
        ends = [abs(_place(found, t) - (offset + t * (1 + drift))) for t in (10.0, b.length - 10)]
        late.append(max(ends) if found.known else np.inf)
        rates.append(abs(found.drift - drift))
    yield Figure("an hour with 100 ppm drift, worst anywhere of 4", f"{max(late) * 1e3:.1f} ms", "≤ 10 ms", max(late) <= 0.01)
    yield Figure("the drift itself, worst of 4", f"{max(rates) * 1e6:.1f} ppm", "≤ 3 ppm", max(rates) <= 3e-6)
    taken = timed(lambda: sync(a, b))
    yield Figure("two hours-long recordings synced", f"{taken:.1f} s", "≤ 30 s", taken <= 30)

    wrong = 0
    for seed in range(12):
        a, _, _ = pair([quarters[0], lower[1]], 420, 26, 0, 900 + seed)
        b, _, _ = pair([quarters[2], lower[3]], 420, 26, 0, 950 + seed)
        wrong += sync(a, b).known
    yield Figure("unlike conversations taken for one, of 12", f"{wrong}", "0", wrong == 0)


def _place(found: Sync, at: float) -> float:
    return found.offset + at * (1 + found.drift)
