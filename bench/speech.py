"""Transcription of the demo's recordings against the bare recogniser and against their truths."""

from __future__ import annotations

import json
from collections.abc import Iterator
from pathlib import Path

from bench.figure import Figure, timed
from jaskel.core.timebase import RATE
from jaskel.core.transcript import Word
from jaskel.demo.prepare import MEDIA
from jaskel.media.conform import conform
from jaskel.media.probe import probe
from jaskel.media.sound import Shelf, alone
from jaskel.speech.measure import edge_errors, plain, word_error
from jaskel.speech.recognise import packaged_weights, whisper
from jaskel.speech.transcribe import transcribe


def figures(folder: Path) -> Iterator[Figure]:
    """For the interview and the piece to camera."""
    recogniser = whisper(packaged_weights())
    for name in ("interview", "mending-a-sail"):
        path = MEDIA / f"{name}.mp4"
        info = probe(path, name)
        done = conform(path, info, folder / f"{name}.flac", folder / f"{name}.peaks")
        shelf = Shelf(lambda _, file=folder / f"{name}.flac": alone(file))
        heard = shelf.mono_16k("", 0, done.length)
        recogniser.utterances(heard[:160_000], "en", [(0, 10)])  # both are measured warm
        words: list[Word] = []
        ours = timed(
            lambda words=words, shelf=shelf, done=done: [
                words.extend(part.words) for part in transcribe(lambda a, b: shelf.mono_16k("", a, b), done.length, recogniser)
            ]
        )
        bare_text: list[str] = []
        bare = timed(
            lambda bare_text=bare_text, heard=heard: bare_text.extend(
                word for segment in recogniser._model.transcribe(heard, language="en")[0] for word in segment.text.split()
            )
        )
        truth = json.loads((MEDIA / f"{name}.truth.json").read_text())["words"]
        reference = [plain(word["text"]) for word in truth]
        ours_error = word_error(reference, [plain(word.text) for word in words])
        bare_error = word_error(reference, [w for w in map(plain, bare_text) if w])
        seconds = done.length / RATE
        edges = edge_errors(truth, [(w.text, w.start / RATE, w.end / RATE) for w in words])
        middle, most = max(edges.percentile(50)), max(edges.percentile(90))
        yield Figure(f"{name}: transcription, × real time", f"{ours / seconds:.3f}", "≤ 0.07", ours / seconds <= 0.07)
        yield Figure(f"{name}: transcription to bare recogniser", f"{ours / bare:.2f}", "≤ 1.4", ours / bare <= 1.4)
        yield Figure(
            f"{name}: word error, bare recogniser’s", f"{ours_error:.1%}, {bare_error:.1%}", "≤ bare + 0.5 points",
            ours_error <= bare_error + 0.005,
        )  # fmt: skip
        yield Figure(f"{name}: word edges, median of {len(edges.starts)}", f"{middle * 1e3:.0f} ms", "≤ 20 ms", middle <= 0.02)
        yield Figure(f"{name}: word edges, 90th percentile", f"{most * 1e3:.0f} ms", "≤ 50 ms", most <= 0.05)
