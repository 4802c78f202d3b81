"""Findings against the demo's truth, on what the recogniser heard: how many are found, and how many are wrong."""

from __future__ import annotations

import json
from collections.abc import Iterator, Sequence
from pathlib import Path

from bench.figure import Figure
from jaskel.core.tidy.fillers import fillers, unspoken
from jaskel.core.tidy.finding import Finding
from jaskel.core.tidy.retakes import retakes
from jaskel.core.timebase import RATE, from_seconds
from jaskel.demo.prepare import MEDIA
from jaskel.media.conform import conform
from jaskel.media.probe import probe
from jaskel.media.sound import Shelf, alone
from jaskel.speech.activity import voiced
from jaskel.speech.recognise import packaged_weights, whisper
from jaskel.speech.transcribe import transcribe


def figures(folder: Path) -> Iterator[Figure]:
    """For the mixed interview and the piece to camera together."""
    found: dict[str, int] = {"retake": 0, "filler": 0}
    real, proposed, wrong = dict(found), dict(found), dict(found)
    for name in ("interview", "mending-a-sail"):
        path = MEDIA / f"{name}.mp4"
        done = conform(path, probe(path, name), folder / f"{name}.flac", folder / "peaks")
        shelf = Shelf(lambda _, file=folder / f"{name}.flac": alone(file))
        parts = transcribe(lambda a, b, s=shelf: s.mono_16k("", a, b), done.length, whisper(packaged_weights()))
        words = [word for part in parts for word in part.words]
        voice = [
            (at + from_seconds(a), at + from_seconds(b))
            for at in range(0, done.length, 60 * RATE)
            for a, b in voiced(shelf.mono_16k("", at, min(done.length, at + 60 * RATE)))
        ]
        faults = json.loads((MEDIA / f"{name}.truth.json").read_text())["faults"]
        for kind, findings in (
            ("retake", list(retakes(words))),
            ("filler", [*fillers(words), *unspoken(words, voice)]),
        ):
            truth = [(fault["start"], fault["end"]) for fault in faults if fault["kind"] == kind]
            real[kind] += len(truth)
            proposed[kind] += len(findings)
            found[kind] += sum(any(_touch(finding, *place) for finding in findings) for place in truth)
            # Coughs and voices under others are voice without words, too, and rightly pointed at.
            places = [(fault["start"], fault["end"]) for fault in faults if fault["kind"] in (kind, "cough", "crosstalk")]
            wrong[kind] += _wrong(findings, places)
    for kind in found:
        share = found[kind] / real[kind]
        yield Figure(f"{kind}s found, of {real[kind]}", f"{share:.0%}", "≥ 90 %", share >= 0.9)
        yield Figure(
            f"{kind}s wrong, of {proposed[kind]} proposed", f"{wrong[kind]}", "≤ 5 %", wrong[kind] <= 0.05 * proposed[kind]
        )


def _touch(finding: Finding, begin: float, end: float) -> bool:
    return finding.start / RATE < end and finding.end / RATE > begin


def _wrong(findings: Sequence[Finding], places: Sequence[tuple[float, float]]) -> int:
    return sum(not any(_touch(finding, *place) for place in places) for finding in findings)
