"""Two voices at once: who breaks in on somebody else's talk is found, and nobody is found in a talk by one.

Each of the bench's talks is broken into five times by another one, for one to three seconds, at levels from as loud down to
half of it. The second voice counts where both talks have voice by themselves. (The talks are made of
recorded sounds.)
"""

from __future__ import annotations

import time
from collections.abc import Iterator
from pathlib import Path

import numpy as np
import soundfile
import soxr

from bench.figure import Figure
from jaskel.core.timebase import RATE
from jaskel.speech.activity import voiced
from jaskel.speech.recognise import RATE_16K
from jaskel.speech.together import together

TALKS = Path(__file__).with_name("talks")
SECONDS, TIMES = 60, 5


def figures(_folder: Path) -> Iterator[Figure]:
    """How much of it is found, how much of what is found is right, and how much is found where one speaks alone."""
    talks = [_heard(path) for path in sorted(TALKS.glob("*.opus"))]
    chance = np.random.default_rng(16)
    right = wanted = told = 0
    for number, talk in enumerate(talks):
        other = talks[(number + 7) % len(talks)]
        mixed, both = talk.copy(), np.zeros(SECONDS * 100, bool)
        voice, second = _hundredths(voiced(talk)), _hundredths(voiced(other))
        for at in np.linspace(5, SECONDS - 8, TIMES):
            length, begin = float(chance.uniform(1, 3)), float(chance.uniform(0, SECONDS - 4))
            level = np.float32(10 ** (chance.uniform(-6, 0) / 20))
            one, their = round(at * RATE_16K), round(begin * RATE_16K)
            count = round(length * RATE_16K)
            mixed[one : one + count] += level * other[their : their + count]
            here, there, most = round(at * 100), round(begin * 100), round(length * 100)
            both[here : here + most] = voice[here : here + most] & second[there : there + most]
        found = _hundredths(_found(mixed))
        right, wanted, told = right + int((found & both).sum()), wanted + int(both.sum()), told + int(found.sum())
    alone = sum(int(_hundredths(_found(talk)).sum()) for talk in talks)
    begun = time.process_time()
    _found(talks[0])
    took = (time.process_time() - begun) / SECONDS
    name = f"{len(talks) * TIMES} times two voices at once"
    yield Figure(f"{name}, found", f"{right / wanted:.0%}", "≥ 40 %", right >= 0.4 * wanted)
    yield Figure("of what is found, right", f"{right / told:.0%}", "≥ 80 %", right >= 0.8 * told)
    share = alone / (len(talks) * SECONDS * 100)
    yield Figure(f"found in {len(talks)} talks by one voice", f"{share:.2%}", "≤ 0.5 %", share <= 0.005)
    yield Figure("processor time to the length", f"{took:.3f} ×", "≤ 0.03 ×", took <= 0.03)


def _heard(path: Path) -> np.ndarray:
    """A minute of a talk, as loud as all others."""
    sound, rate = soundfile.read(path, frames=SECONDS * RATE, dtype="float32")
    one = soxr.resample(sound if sound.ndim == 1 else sound.mean(axis=1), rate, RATE_16K).astype(np.float32)
    one = np.pad(one, (0, max(0, SECONDS * RATE_16K - len(one))))
    return one * np.float32(0.05 / np.sqrt(np.mean(one**2)))


def _found(sound: np.ndarray) -> list[tuple[float, float]]:
    return [(a / RATE, b / RATE) for a, b in together(lambda a, b: sound[a // 3 : b // 3], len(sound) * 3)]


def _hundredths(ranges: list[tuple[float, float]]) -> np.ndarray:
    """Which hundredths of a second lie in ranges of seconds."""
    at = np.zeros(SECONDS * 100, bool)
    for begin, end in ranges:
        at[round(begin * 100) : round(end * 100)] = True
    return at
