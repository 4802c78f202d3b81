"""Findings against what is known: on the demo as the recogniser heard it, and on generated talks; and how the result sounds."""

from __future__ import annotations

import json
from collections.abc import Iterator, Sequence
from dataclasses import dataclass
from itertools import pairwise
from pathlib import Path
from typing import Any

import numpy as np

from bench.breaths import breathing
from bench.figure import Figure, timed
from bench.tidy_cases import Talk, talk
from jaskel.core.edition import Edition
from jaskel.core.plan import compile_plan
from jaskel.core.tidy.find import find
from jaskel.core.tidy.finding import Finding, Kind, Stretch
from jaskel.core.tidy.heard import Heard, strung
from jaskel.core.tidy.script import follow
from jaskel.core.tidy.settings import Settings
from jaskel.core.timebase import RATE, Ticks, from_seconds
from jaskel.core.transcript import Word
from jaskel.demo.prepare import MEDIA
from jaskel.media.conform import conform
from jaskel.media.joins import WINDOW, Edge, edge_of, level_step
from jaskel.media.probe import probe
from jaskel.media.sound import Shelf, alone, mix
from jaskel.roughcut import NAME, cut
from jaskel.speech.activity import hear
from jaskel.speech.recognise import packaged_weights, whisper
from jaskel.speech.transcribe import transcribe

TALKS = 60
TALKS_ALOUD = Path(__file__).with_name("talks")
ROOM = 10.0
"""Up to so many decibels above the room's level there is no voice."""
KINDS = ("filler", "doubled", "empty word", "long rest", "retake", "chatter")


def figures(folder: Path) -> Iterator[Figure]:
    """Recall and precision by kind; then what the cuts did to the words beside them."""
    yield from _generated()
    yield from _spoken(folder)
    yield from _demo(folder)


def _generated() -> Iterator[Figure]:
    talks = [talk(seed) for seed in range(TALKS)]
    found = [find(each.words) for each in talks]
    for kind in KINDS:
        real = right = proposed = wrong = 0
        for each, findings in zip(talks, found, strict=True):
            truth = [(begin, end) for name, begin, end in each.faults if name == kind]
            mine = [part for finding in findings if finding.kind == kind for part in finding.gone()]
            # What lies within a larger fault goes with that.
            others = [part for finding in findings if finding.kind != kind for part in finding.gone()]
            real, proposed = real + len(truth), proposed + len(mine)
            right += sum(_covered(place, [*mine, *others]) > 0.6 for place in truth)
            faults = [(begin, end) for _, begin, end in each.faults]
            wrong += sum(_covered(part, truth) < 0.5 and _covered(part, faults) < 0.5 for part in mine)
        yield from _told(f"{TALKS} generated talks, {kind}s", real, right, proposed, wrong)
    yield from _scripted(talks)
    meant = [(place, index) for index, each in enumerate(talks) for place in each.meant]
    spoken = ("retake", "doubled", "empty word")
    gone = [[part for each in findings if each.kind in spoken for part in each.gone()] for findings in found]
    left = sum(_covered(place, gone[index]) == 0 for place, index in meant) / len(meant)
    yield Figure(f"meant repetitions and words left alone, of {len(meant)}", f"{left:.0%}", "≥ 95 %", left >= 0.95)


def _scripted(talks: Sequence[Talk]) -> Iterator[Figure]:
    """With the script at hand: the retakes, the sentences that were never said, and what was said beside it."""
    real = right = proposed = wrong = unsaid = missed = called = off = told = 0
    for each in talks:
        script = [word for text in each.script for word in text.split()]
        findings = find(each.words, script=script)
        followed = follow(each.words, script)
        truth = [(begin, end) for name, begin, end in each.faults if name == "retake"]
        mine = [part for finding in findings if finding.kind == "retake" for part in finding.gone()]
        gone = [part for finding in findings for part in finding.gone()]
        faults = [(begin, end) for _, begin, end in each.faults]
        real, proposed = real + len(truth), proposed + len(mine)
        right += sum(_covered(place, gone) > 0.6 for place in truth)
        wrong += sum(_covered(part, [*faults, *each.again]) < 0.5 for part in mine)
        silent = [line.text for line in followed.lines if not line.takes]
        unsaid, called = unsaid + len(each.unsaid), called + len(silent)
        missed += sum(text not in silent for text in each.unsaid)
        beside = [(take.start, take.end) for take in followed.off]
        off, told = off + len(each.off), told + sum(_covered(place, beside) > 0.6 for place in each.off)
    yield from _told("with the script, retakes", real, right, proposed, wrong)
    yield from _told("lines never said", unsaid, unsaid - missed, called, called - unsaid + missed)
    yield Figure(f"said off the script, found, of {off}", f"{told / off:.0%}", "≥ 90 %", told >= 0.9 * off)


def _told(name: str, real: int, right: int, proposed: int, wrong: int) -> Iterator[Figure]:
    yield Figure(f"{name} found, of {real}", f"{right / real:.0%}", "≥ 90 %", right >= 0.9 * real)
    yield Figure(f"{name} wrong, of {proposed} proposed", f"{wrong}", "≤ 5 %", wrong <= 0.05 * proposed)


def _covered(place: tuple[Ticks, Ticks], by: Sequence[Stretch]) -> float:
    shared = sum(max(0, min(place[1], end) - max(place[0], begin)) for begin, end in by)
    return shared / max(1, place[1] - place[0])


@dataclass
class Recording:
    """One recording whose truth is known, as it was transcribed, searched and cut at the default settings."""

    truth: dict[str, Any]
    length: Ticks
    words: list[Word]
    findings: list[Finding]
    edition: Edition
    shelf: Shelf
    seconds: float


def _tidied(path: Path, folder: Path) -> Recording:
    done = conform(path, probe(path, path.stem), folder / f"{path.stem}.flac", folder / "peaks")
    shelf = Shelf(lambda _: alone(folder / f"{path.stem}.flac"))
    parts = transcribe(lambda a, b: shelf.mono_16k("", a, b), done.length, whisper(packaged_weights()))
    words = [word for part in parts for word in part.words]
    minutes: list[Heard] = []
    seconds = timed(lambda: minutes.extend(hear(lambda a, b: shelf.mono_16k("", a, b), done.length)))
    heard = strung(minutes)
    findings: list[Finding] = []
    seconds += timed(lambda: findings.extend(find(words, heard)))
    truth = json.loads(path.with_suffix(".truth.json").read_text())
    return Recording(truth, done.length, words, findings, cut(findings, words, heard, shelf, done.length), shelf, seconds)


def _demo(folder: Path) -> Iterator[Figure]:
    recordings = [_tidied(MEDIA / f"{name}.mp4", folder) for name in ("interview", "mending-a-sail")]
    yield from _judged(
        "demo", recordings, {"retake": ("retake",), "filler": ("filler",), "chatter": ("chatter", "note to the editor")}
    )
    yield from _unwritten("demo", recordings)
    yield from _sounding("demo", recordings)
    hour = sum(each.seconds for each in recordings) / (sum(each.length for each in recordings) / RATE) * 3600
    yield Figure("all findings for an hour of speech", f"{hour:.1f} s", "< 20 s", hour < 20)


def _spoken(folder: Path) -> Iterator[Figure]:
    """Generated talks as sound: other voices, speeds, rooms and noise."""
    recordings = [_tidied(path, folder) for path in sorted(TALKS_ALOUD.glob("*.opus"))]
    yield from _judged(f"{len(recordings)} spoken talks", recordings, {kind: (kind,) for kind in KINDS})
    yield from _unwritten("spoken talks", recordings)
    yield from _breaths("spoken talks", recordings)
    yield from _sounding("spoken talks", recordings)
    spoken = ("retake", "doubled", "empty word")
    gone = [[part for f in each.findings if f.kind in spoken for part in f.gone()] for each in recordings]
    meant = [(place, parts) for each, parts in zip(recordings, gone, strict=True) for place in each.truth["meant"]]
    left = sum(_covered(_ticks(*place), parts) < 0.1 for place, parts in meant) / len(meant)
    yield Figure(f"spoken talks, meant and left alone, of {len(meant)}", f"{left:.0%}", "≥ 95 %", left >= 0.95)


def _judged(name: str, recordings: Sequence[Recording], kinds: dict[Kind, tuple[str, ...]]) -> Iterator[Figure]:
    """What was found of the faults, and what else was proposed; ``kinds`` tells which faults belong to a kind of finding."""
    for kind, named in kinds.items():
        real = right = proposed = wrong = 0
        for each in recordings:
            faults = each.truth["faults"]
            places = [_ticks(fault["start"], fault["end"]) for fault in faults if fault["kind"] in named]
            listed = [f for f in each.findings if f.kind == kind or (kind == "filler" and f.kind == "voice without words")]
            # What lies within something larger goes with that; that something was shortened is not enough for a hesitation.
            mine = [part for f in each.findings if f.kind != "long rest" or kind == "long rest" for part in f.gone()]
            # Coughs and voices under others are voice without words, too, and rightly pointed at.
            allowed = [_ticks(f["start"], f["end"]) for f in faults if f["kind"] in (*named, "cough", "crosstalk")]
            real, proposed = real + len(places), proposed + len(listed)
            # Something proposed at its place finds a hesitation, for it is mostly heard as a part of what is there.
            enough = 0.0 if kind == "filler" else 0.5
            right += sum(_covered(place, mine) > enough for place in places)
            wrong += sum(all(_covered(part, allowed) == 0 for part in f.gone()) for f in listed)
        yield from _told(f"{name}, {kind}s", real, right, proposed, wrong)


def _unwritten(name: str, recordings: Sequence[Recording]) -> Iterator[Figure]:
    """Voice without words by itself: of the hesitations that the transcript does not have as fillers."""
    real = right = proposed = wrong = 0
    for each in recordings:
        faults = each.truth["faults"]
        written = [part for f in each.findings if f.kind not in ("voice without words", "long rest") for part in f.gone()]
        voice = [(f.start, f.end) for f in each.findings if f.kind == "voice without words"]
        places = [_ticks(fault["start"], fault["end"]) for fault in faults if fault["kind"] == "filler"]
        hidden = [place for place in places if not _covered(place, written)]
        allowed = [*places, *(_ticks(f["start"], f["end"]) for f in faults if f["kind"] in ("cough", "crosstalk"))]
        real, proposed = real + len(hidden), proposed + len(voice)
        right += sum(_covered(place, voice) > 0 for place in hidden)
        wrong += sum(_covered(part, allowed) == 0 for part in voice)
    yield from _told(f"{name}, of the fillers not written as such, voice without words", real, right, proposed, wrong)


def _breaths(name: str, recordings: Sequence[Recording]) -> Iterator[Figure]:
    """Breaths laid into the rests of recordings that have none."""
    real = right = proposed = wrong = 0
    for each in recordings:
        spoken = [(word["start"], word["end"]) for word in each.truth["words"]]
        sound, taken = breathing(each.shelf.mono_16k("", 0, each.length), spoken)
        heard = strung(hear(lambda a, b, sound=sound: sound[a // 3 : b // 3], each.length))
        findings = find(each.words, heard, Settings(soften_breaths=True), ("breath",))
        mine, places = [(f.start, f.end) for f in findings], [_ticks(*place) for place in taken]
        real, proposed = real + len(places), proposed + len(mine)
        right += sum(_covered(place, mine) > 0.5 for place in places)
        wrong += sum(_covered(part, places) == 0 for part in mine)
    yield from _told(f"{name}, made-up breaths", real, right, proposed, wrong)


def _sounding(name: str, recordings: Sequence[Recording]) -> Iterator[Figure]:
    """What the cuts did to the words beside them, and to the level."""
    lost = [seconds for each in recordings for seconds in _lost(each.edition, each.truth)]
    steps = [step for each in recordings for step in _steps(each)]
    yield Figure(
        f"{name}, sound lost by the {len(lost)} words beside cuts, most",
        f"{max(lost) * 1000:.0f} ms",
        "≤ 10 ms",
        max(lost) <= 0.01,
    )
    harmed = sum(each > 0.01 for each in lost)
    yield Figure("of these words, with more than 10 ms lost", f"{harmed}", "0", harmed == 0)
    spoken = [step for step, beside_rest in steps if not beside_rest]
    loud = sum(each > 3 for each in spoken)
    yield Figure(f"{name}, joins that step over 3 dB more than was recorded, of {len(spoken)}", f"{loud}", "0", loud == 0)
    onsets = sum(beside_rest and each > 3 for each, beside_rest in steps)
    yield Figure(f"{name}, besides: joins of a rest with a voice, of {len(steps) - len(spoken)}", f"{onsets}", "", True)


def _ticks(start: float, end: float) -> tuple[Ticks, Ticks]:
    return from_seconds(start), from_seconds(end)


def _lost(edition: Edition, truth: dict[str, Any]) -> list[float]:
    """Seconds of their sound that words lost in the result which stand beside a cut and are kept, as they should be.

    Where one side fades out, half of the fade is counted as lost.
    """
    gone_as_well = [_ticks(fault["start"], fault["end"]) for fault in truth["faults"]]
    spans = compile_plan(edition).spans
    fades = [after.fade_in for after in spans[1:]]
    kept = [
        (span.start + (fades[number - 1] // 2 if number else 0), span.end - (fades[number] // 2 if number < len(fades) else 0))
        for number, span in enumerate(spans)
    ]
    gone = [(a, b) for (_, a), (b, _) in pairwise(kept)]
    out: list[float] = []
    for word in truth["words"]:
        begin, end = _ticks(word["start"], word["end"])
        if not word["exact"] or _covered((begin, end), gone_as_well) > 0.5:
            continue
        near = [(a, b) for a, b in gone if a < end + RATE // 5 and b > begin - RATE // 5]
        lost = sum(max(0, min(b, end) - max(a, begin)) for a, b in near)
        if near and lost < 0.5 * (end - begin):
            out.append(lost / RATE)
    return out


def _steps(recording: Recording) -> list[tuple[float, bool]]:
    """By how many decibels the level steps more at each join than where its two sides were cut, as recorded.

    And whether a rest meets a voice there: that is how words begin and end, and no step within them.
    """
    plan, shelf = compile_plan(recording.edition), recording.shelf
    room = _room(shelf, recording.length) + ROOM

    def sides(sound: np.ndarray) -> tuple[Edge, Edge]:
        return edge_of(sound[:WINDOW]), edge_of(sound[-WINDOW:])

    out: list[tuple[float, bool]] = []
    for before, after in pairwise(plan.spans):
        first, last = sides(mix(plan, after.at - WINDOW, before.until + WINDOW, shelf.read))
        fade = after.fade_in
        recorded = [sides(shelf.read(NAME, end - fade - WINDOW, end + WINDOW)) for end in (before.end, after.start + fade)]
        more = level_step(first, last) - max(level_step(*each) for each in recorded)
        out.append((more, (first.level < room) != (last.level < room)))
    return out


def _room(shelf: Shelf, length: Ticks) -> float:
    """The level of the room in decibels: that of the quietest tenth of the recording."""
    sound = shelf.mono_16k("", 0, length)
    hops = sound[: len(sound) // 320 * 320].reshape(-1, 320)
    return float(np.percentile(10 * np.log10(np.mean(hops**2, axis=1) + 1e-9), 10))
