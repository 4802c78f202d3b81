"""Splices that settle against splices at word edges: level step and spectral jump at the join, over cuts in the demo's speech.

Every spoken filler is struck, and 120 single words drawn at random, by their true edges; what lies 20 ms before and after the
join is compared. The cuts are made in the voices as they are, and in noise 20 dB below them.
"""

from __future__ import annotations

import json
from collections.abc import Iterator
from pathlib import Path

import numpy as np

from bench.figure import Figure
from bench.sync import conformed
from jaskel.core.marks.splice import CROSSFADE
from jaskel.core.source import SILENCE
from jaskel.core.timebase import RATE
from jaskel.demo.shipped import MEDIA
from jaskel.media.joins import Join, best_join, edge_of, level_step, spectral_jump

FILLERS = {"um", "uh", "er", "hmm", "mm"}
EDGE = RATE // 50


def figures(folder: Path) -> Iterator[Figure]:
    """Means over all cuts."""
    for name in ("interview", "mending-a-sail"):
        sound = conformed(MEDIA / f"{name}.mp4", folder)
        words = sorted(json.loads((MEDIA / f"{name}.truth.json").read_text())["words"], key=lambda word: word["start"])
        for told, noise in ((name, 0.0), (f"{name}, noisy", 0.1)):
            chance = np.random.default_rng(1)
            loud = sound + noise * np.sqrt(np.mean(sound**2)) * chance.normal(0, 1, sound.shape).astype(np.float32)
            cuts = _cuts(words, chance)
            joins = [_join(loud, a, b) for a, b in cuts]
            plain = np.array([_step(loud, *cut) for cut in cuts]).T
            settled = np.array([_step(loud, a + j.before, b - j.after) for (a, b), j in zip(cuts, joins, strict=True)]).T
            left = np.mean([join.before + join.after for join in joins]) * 1000 / RATE
            yield Figure(f"{told}: struck sound still heard, mean", f"{left:.0f} ms", "≤ 20 ms", bool(left <= 20))
            for index, what in enumerate(("level step", "spectral jump")):
                before, after = plain[index].mean(), settled[index].mean()
                value = f"{after:.1f}, edges {before:.1f} dB"
                yield Figure(f"{told}: {what}, {plain.shape[1]} splices", value, "less", bool(after < before))


def _join(sound: np.ndarray, begin: int, end: int) -> Join:
    return best_join(lambda _, a, b: sound[max(0, a) : b], SILENCE, begin, SILENCE, end, CROSSFADE, end - begin)


def _cuts(words: list[dict], chance: np.random.Generator) -> list[tuple[int, int]]:
    spoken = [i for i, word in enumerate(words) if word["text"].strip(".,?! ").lower() in FILLERS]
    drawn = chance.choice(np.arange(1, len(words) - 1), 120, replace=False)
    cuts = [(round(words[i]["start"] * RATE), round(words[i]["end"] * RATE)) for i in dict.fromkeys([*spoken, *drawn])]
    return [(begin, end) for begin, end in cuts if begin > RATE and end - begin > 2 * CROSSFADE]


def _step(sound: np.ndarray, begin: int, end: int) -> tuple[float, float]:
    left, right = edge_of(sound[begin - EDGE : begin]), edge_of(sound[end : end + EDGE])
    return level_step(left, right), spectral_jump(left, right)
