"""Fitting a known text to a long recording that was not transcribed before: how long it takes, and where the words lie.

The recording is the demo's two and all talks one after the other: an hour by many voices.
"""

from __future__ import annotations

import json
from collections.abc import Iterator
from pathlib import Path
from typing import Any

import numpy as np

from bench.bare import bare_recogniser
from bench.figure import Figure, timed
from bench.speech import EXACT, TALKS
from bench.sync import speech_of
from jaskel.core.timebase import RATE
from jaskel.demo.shipped import MEDIA
from jaskel.speech.measure import edge_errors
from jaskel.speech.recognise import RATE_16K
from jaskel.speech.script import Script, fit_text
from jaskel.speech.weights import recogniser_for


def figures(folder: Path) -> Iterator[Figure]:
    """How long it takes, by itself and against the bare recogniser, and the edges where they are known to the sample."""
    sound, truth = _strung(folder)
    recogniser = recogniser_for("en")
    recogniser.heard([sound[: 10 * RATE_16K]], "en")  # both are measured warm
    bare = timed(lambda: list(bare_recogniser().transcribe(sound, language="en")[0]))
    fitted: list[Script] = []
    text = [word["text"] for word in truth]
    took = timed(lambda: fitted.append(fit_text(lambda a, b: sound[a // 3 : b // 3], len(sound) * 3, text, recogniser)))
    seconds = len(sound) / RATE_16K
    yield Figure(
        f"a text fitted to {seconds / 60:.0f} minutes, × real time", f"{took / seconds:.3f}", "≤ 0.05", took <= 0.05 * seconds
    )
    yield Figure("a text fitted, to bare recogniser", f"{took / bare:.2f}", "", True)
    edges = edge_errors(truth, [(w.text, w.start / RATE, w.end / RATE) for _, w in fitted[0].words])
    middle, most = max(edges.percentile(50)), max(edges.percentile(90))
    yield Figure(f"its edges in the talks, median of {len(edges.starts)}", f"{middle * 1e3:.0f} ms", "≤ 20 ms", middle <= 0.02)
    yield Figure("its edges in the talks, 90th percentile", f"{most * 1e3:.0f} ms", "≤ 50 ms", most <= 0.05)


def _strung(folder: Path) -> tuple[np.ndarray, list[dict[str, Any]]]:
    """Sound at 16 kHz, and its words in order; they are exact only where edges are known to the sample."""
    sounds: list[np.ndarray] = []
    words: list[dict[str, Any]] = []
    at = 0.0
    for path in [*sorted(MEDIA.glob("*.mp4")), *sorted(TALKS.glob("*.opus"))]:
        if not path.with_suffix(".truth.json").exists():
            continue
        said = json.loads(path.with_suffix(".truth.json").read_text())["words"]
        exact = path.stem in EXACT
        words += [
            {**word, "start": word["start"] + at, "end": word["end"] + at, "exact": exact and word["exact"]}
            for word in sorted(said, key=lambda word: word["start"])
        ]
        sounds.append(speech_of(path, folder))
        at += len(sounds[-1]) / RATE_16K
    return np.concatenate(sounds), words
