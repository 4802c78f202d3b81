"""Telling voices apart: the demo's mixed interview, and made-up talks of one to four voices.

The made-up talks are turns of whole words, cut at random from the demo's separate voices and from one of them lowered by a
fifth, in noise, at uneven levels. The error is the share of the time of words that is given to the wrong voice under the best
naming, as in the usual diarisation error without its share for missed speech. (Two of the voices come from one synthesiser.)
"""

from __future__ import annotations

import json
import statistics
from collections.abc import Iterator, Sequence
from pathlib import Path

import numpy as np
from scipy.optimize import linear_sum_assignment
from scipy.signal import resample_poly

from bench.figure import Figure
from bench.sync import speech_of
from jaskel.core.timebase import RATE
from jaskel.core.transcript import Word
from jaskel.demo.shipped import MEDIA
from jaskel.speech.recognise import RATE_16K
from jaskel.speech.voices import voices_of

Speaker = tuple[np.ndarray, list[tuple[str, float, float]]]


def error(words: Sequence[Word], told: Sequence[int]) -> float:
    """Share of the words' time given to the wrong voice."""
    names = sorted({word.voice or "" for word in words})
    shared = np.zeros((len(names), max(told) + 1))
    for word, number in zip(words, told, strict=True):
        shared[names.index(word.voice or ""), number] += word.end - word.start
    rows, columns = linear_sum_assignment(-shared)
    return float(1 - shared[rows, columns].sum() / shared.sum())


def speakers(folder: Path) -> dict[str, Speaker]:
    """Four voices: their sound at 16 kHz, and their words with times in seconds."""
    found: dict[str, Speaker] = {}
    for voice, file, truth in (
        ("orla", "interview-orla.ogg", "interview"),
        ("teo", "interview-teo.ogg", "interview"),
        ("ines", "mending-a-sail.mp4", "mending-a-sail"),
    ):
        words = json.loads((MEDIA / f"{truth}.truth.json").read_text())["words"]
        mine = sorted((w["start"], w["end"], w["text"]) for w in words if w["voice"] == voice)
        found[voice] = speech_of(MEDIA / file, folder), [(text, start, end) for start, end, text in mine]
    sound, words = found["ines"]
    found["lower"] = resample_poly(sound, 6, 5).astype(np.float32), [(t, a * 1.2, b * 1.2) for t, a, b in words]
    return found


def talk(people: dict[str, Speaker], seconds: float, noise: float, seed: int) -> tuple[np.ndarray, list[Word]]:
    """A made-up talk with its true words."""
    chance = np.random.default_rng(seed)
    sound, words, at = [], [], 0.0
    names = list(people)
    levels = {name: 10 ** (chance.uniform(-8, 0) / 20) for name in names}
    turn = 0
    while at < seconds:
        voice = names[turn % len(names)] if chance.random() < 0.85 else names[int(chance.integers(len(names)))]
        turn += 1
        source, known = people[voice]
        first = int(chance.integers(0, len(known) - 30))
        last = first + int(chance.integers(4, 28))
        begin, end = known[first][1] - 0.02, known[last - 1][2] + 0.02
        if end - begin > 20:
            continue
        gap = float(chance.uniform(0.15, 0.8))
        sound.append(np.zeros(round(gap * RATE_16K), np.float32))
        sound.append(source[round(begin * RATE_16K) : round(end * RATE_16K)] * levels[voice])
        at += gap
        for text, start, stop in known[first:last]:
            place = round((at + start - begin) * RATE), round((at + stop - begin) * RATE)
            if words and place[0] < words[-1].end:
                continue
            words.append(Word(text, *place, 1.0, voice))
        at += end - begin
    whole = np.concatenate(sound)
    return (whole + 10 ** (-noise / 20) * chance.normal(0, 1, len(whole))).astype(np.float32), words


def figures(folder: Path) -> Iterator[Figure]:
    """Errors with the number of voices given and found."""
    mixed = speech_of(MEDIA / "interview.mp4", folder)
    words: list[Word] = []
    for w in sorted(json.loads((MEDIA / "interview.truth.json").read_text())["words"], key=lambda w: w["start"]):
        if not words or round(w["start"] * RATE) >= words[-1].end:
            words.append(Word(w["text"], round(w["start"] * RATE), round(w["end"] * RATE), 1.0, w["voice"]))
    told = voices_of(lambda a, b: mixed[a // 3 : b // 3], words)
    wrong = error(words, told)
    yield Figure(f"the demo's mixed interview, {max(told) + 1} voices found", f"{wrong:.1%}", "≤ 3 %, 2", wrong <= 0.03)
    everyone = speakers(folder)
    casts = {
        1: [["orla"], ["teo"], ["ines"]],
        2: [["orla", "teo"], ["ines", "teo"], ["orla", "ines"], ["ines", "lower"]],
        3: [["orla", "teo", "ines"], ["orla", "teo", "lower"]],
        4: [["orla", "teo", "ines", "lower"]],
    }
    for count, sets in casts.items():
        given, found, right = [], [], 0
        for index, cast in enumerate(sets * 2):
            sound, said = talk({name: everyone[name] for name in cast}, 240, 42 + 6 * (index % 3), 10 * count + index)

            def read(a: int, b: int, sound: np.ndarray = sound) -> np.ndarray:
                return sound[a // 3 : b // 3]

            given.append(error(said, voices_of(read, said, count)))
            alone = voices_of(read, said)
            found.append(error(said, alone))
            right += max(alone) + 1 == count
        reach = {1: 0.0, 2: 0.03, 3: 0.05, 4: 0.08}[count]
        name = f"{len(given)} talks of {count}, mean error, number given"
        yield Figure(name, f"{statistics.mean(given):.1%}", f"≤ {reach:.0%}", statistics.mean(given) <= reach)
        yield Figure(
            "the same, number found", f"{statistics.mean(found):.1%}", f"≤ {reach:.0%}", statistics.mean(found) <= reach
        )
        yield Figure("number right", f"{right} of {len(found)}", "90 %", right >= 0.9 * len(found))
