"""Transcription against the bare recogniser and against known truths: the demo's recordings, and talks by voices whose edges
are known to the sample.

The demo's voices are networks that plan how long their sounds are to be. What sounds lies beside that: words that begin with a
hiss are heard some 40 ms before their planned place (:mod:`bench.hisses`), and so their edges are no measure for an error of
50 ms. The talks' voices are put together from recorded sounds, where hisses are heard within 5 ms of their place; nothing in
the product was chosen by them.
"""

from __future__ import annotations

import json
from collections.abc import Iterator
from pathlib import Path

import numpy as np

from bench.bare import bare_recogniser
from bench.figure import Figure, timed
from bench.hisses import beginnings
from jaskel.core.timebase import RATE
from jaskel.core.transcript import Word
from jaskel.demo.shipped import MEDIA
from jaskel.media.conform import conform
from jaskel.media.probe import probe
from jaskel.media.sound import Shelf
from jaskel.speech.measure import EdgeErrors, edge_errors, plain, word_error
from jaskel.speech.transcribe import transcribe
from jaskel.speech.weights import recogniser_for

TALKS = Path(__file__).with_name("talks")
EXACT = ("light-and-dry", "low-beside-a-road", "northern-in-a-room")


def figures(folder: Path) -> Iterator[Figure]:
    """For the interview and the piece to camera, then for the talks."""
    yield from _demo(folder)
    yield from _talks(folder)


def _talks(folder: Path) -> Iterator[Figure]:
    recogniser = recogniser_for("en")
    found: list[EdgeErrors] = []
    hisses: list[np.ndarray] = []
    for name in EXACT:
        path = TALKS / f"{name}.opus"
        done = conform(path, probe(path, name), folder / f"{name}.flac", folder / f"{name}.peaks")
        shelf = Shelf(lambda _, file=folder / f"{name}.flac": file)
        parts = transcribe(lambda a, b, shelf=shelf: shelf.mono_16k("", a, b), done.length, recogniser)
        words = [(w.text, w.start / RATE, w.end / RATE) for part in parts for w in part.words if not w.is_sound]
        truth = json.loads(path.with_suffix(".truth.json").read_text())["words"]
        found.append(edge_errors(truth, words))
        hisses.append(beginnings(shelf.mono_16k("", 0, done.length), truth))
        error = word_error([plain(word["text"]) for word in truth], [plain(text) for text, _, _ in words])
        yield Figure(f"{name}: word error", f"{error:.1%}", "", True)
    together = EdgeErrors(np.concatenate([e.starts for e in found]), np.concatenate([e.ends for e in found]))
    middle, most = max(together.percentile(50)), max(together.percentile(90))
    name = "three talks by other voices"
    yield _hisses(name, np.concatenate(hisses))
    yield Figure(f"{name}: word edges, median of {len(together.starts)}", f"{middle * 1e3:.0f} ms", "≤ 20 ms", middle <= 0.02)
    yield Figure(f"{name}: word edges, 90th percentile", f"{most * 1e3:.0f} ms", "≤ 50 ms", most <= 0.05)


def _hisses(name: str, beginnings: np.ndarray) -> Figure:
    """How true the truth is."""
    value = f"{np.median(beginnings) * 1e3:+.0f} ms"
    return Figure(f"{name}: hisses heard, to their true place, median of {len(beginnings)}", value, "", True)


def _demo(folder: Path) -> Iterator[Figure]:
    recogniser = recogniser_for("en")
    for name in ("interview", "mending-a-sail"):
        path = MEDIA / f"{name}.mp4"
        info = probe(path, name)
        done = conform(path, info, folder / f"{name}.flac", folder / f"{name}.peaks")
        shelf = Shelf(lambda _, file=folder / f"{name}.flac": file)
        heard = shelf.mono_16k("", 0, done.length)
        recogniser.utterances([heard[:160_000]], "en", [[(0, 10)]])
        bare_recogniser()  # both are measured warm
        words: list[Word] = []
        ours = timed(
            lambda words=words, shelf=shelf, done=done: [
                words.extend(part.words) for part in transcribe(lambda a, b: shelf.mono_16k("", a, b), done.length, recogniser)
            ]
        )
        bare_text: list[str] = []
        bare = timed(
            lambda bare_text=bare_text, heard=heard: bare_text.extend(
                word for segment in bare_recogniser().transcribe(heard, language="en")[0] for word in segment.text.split()
            )
        )
        truth = json.loads((MEDIA / f"{name}.truth.json").read_text())["words"]
        reference = [plain(word["text"]) for word in truth]
        ours_error = word_error(reference, [plain(word.text) for word in words if not word.is_sound])
        bare_error = word_error(reference, [w for w in map(plain, bare_text) if w])
        seconds = done.length / RATE
        edges = edge_errors(truth, [(w.text, w.start / RATE, w.end / RATE) for w in words if not w.is_sound])
        yield Figure(f"{name}: transcription, × real time", f"{ours / seconds:.3f}", "≤ 0.07", ours / seconds <= 0.07)
        yield Figure(f"{name}: transcription to bare recogniser", f"{ours / bare:.2f}", "≤ 1.4", ours / bare <= 1.4)
        yield Figure(
            f"{name}: word error, bare recogniser’s", f"{ours_error:.1%}, {bare_error:.1%}", "≤ bare + 0.5 points",
            ours_error <= bare_error + 0.005,
        )  # fmt: skip
        yield _hisses(name, beginnings(heard, truth))
        for share, told in ((50, "median"), (90, "90th percentile")):
            most = max(edges.percentile(share))
            yield Figure(f"{name}: word edges to their planned places, {told}", f"{most * 1e3:.0f} ms", "", True)
