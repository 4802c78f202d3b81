"""Fitting a known text to a recording that was not transcribed before: how long it takes, and where the words lie."""

from __future__ import annotations

import json
from collections.abc import Iterator
from pathlib import Path

from bench.bare import bare_recogniser
from bench.figure import Figure, timed
from jaskel.core.timebase import RATE
from jaskel.demo.prepare import MEDIA
from jaskel.media.conform import conform
from jaskel.media.probe import probe
from jaskel.media.sound import Shelf, alone
from jaskel.speech.measure import edge_errors
from jaskel.speech.recognise import packaged_weights, whisper
from jaskel.speech.script import Script, fit_text


def figures(folder: Path) -> Iterator[Figure]:
    """For the interview and the piece to camera, against the bare recogniser on the same file."""
    recogniser = whisper(packaged_weights())
    for name in ("interview", "mending-a-sail"):
        path = MEDIA / f"{name}.mp4"
        done = conform(path, probe(path, name), folder / f"{name}.flac", folder / "peaks")
        shelf = Shelf(lambda _, file=folder / f"{name}.flac": alone(file))
        sound = shelf.mono_16k("", 0, done.length)
        truth = sorted(json.loads((MEDIA / f"{name}.truth.json").read_text())["words"], key=lambda word: word["start"])
        text = [word["text"] for word in truth]
        recogniser.heard([sound[:160_000]], "en")
        bare_recogniser()  # both are measured warm
        bare = timed(lambda sound=sound: list(bare_recogniser().transcribe(sound, language="en")[0]))
        fitted: list[Script] = []
        took = timed(
            lambda shelf=shelf, done=done, text=text, fitted=fitted: fitted.append(
                fit_text(lambda a, b: shelf.mono_16k("", a, b), done.length, text, recogniser)
            )
        )
        seconds = done.length / RATE
        edges = edge_errors(truth, [(w.text, w.start / RATE, w.end / RATE) for _, w in fitted[0].words])
        middle, most = max(edges.percentile(50)), max(edges.percentile(90))
        yield Figure(f"{name}: a text fitted, × real time", f"{took / seconds:.3f}", "≤ 0.05", took <= 0.05 * seconds)
        yield Figure(f"{name}: a text fitted, to bare recogniser", f"{took / bare:.2f}", "", True)
        yield Figure(f"{name}: its edges, median of {len(edges.starts)}", f"{middle * 1e3:.0f} ms", "≤ 20 ms", middle <= 0.02)
        yield Figure(f"{name}: its edges, 90th percentile", f"{most * 1e3:.0f} ms", "≤ 50 ms", most <= 0.05)
