"""Findings against what is known: on the demo as the recogniser heard it, and on generated talks; and how the result sounds."""

from __future__ import annotations

import json
from collections.abc import Iterable, Iterator, Sequence
from dataclasses import dataclass
from itertools import pairwise
from pathlib import Path
from typing import Any

import numpy as np

from bench.breaths import breathing
from bench.figure import Figure, timed
from bench.tidy_cases import Talk, talk
from jaskel.core.edition import Edition
from jaskel.core.plan import Feed, compile_plan
from jaskel.core.tidy.find import find
from jaskel.core.tidy.finding import Finding, Kind, Stretch
from jaskel.core.tidy.heard import Heard, strung
from jaskel.core.tidy.script import follow
from jaskel.core.tidy.settings import TidySettings, rests_of, rhythm_of, thresholds
from jaskel.core.timebase import RATE, Ticks, from_seconds, to_seconds
from jaskel.core.transcript import Word
from jaskel.demo.shipped import MEDIA
from jaskel.media.conform import conform
from jaskel.media.joins import WINDOW, Edge, edge_of, level_step
from jaskel.media.probe import probe
from jaskel.media.sound import Shelf, mix
from jaskel.roughcut import NAME, cut
from jaskel.speech.activity import hear
from jaskel.speech.transcribe import transcribe
from jaskel.speech.weights import recogniser_for

TALKS = 60
TALKS_ALOUD = Path(__file__).with_name("talks")
ROOM = 10.0
"""Up to so many decibels above the room's level there is no voice."""
EDGES = RATE // 20
"""Both edges of a rest are known to 25 ms."""
BESIDE = 0.15
"""A word is beside a rest of so many seconds."""
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
            mine = [finding for finding in findings if finding.kind == kind]
            # What lies within a larger fault goes with that.
            gone = [part for finding in findings for part in finding.gone()]
            faults = [(begin, end) for _, begin, end in each.faults]
            sound = _without_fault(((word.start, word.end) for word in each.words), faults)
            real, proposed = real + len(truth), proposed + len(mine)
            right += sum(_covered(place, gone) > 0.6 for place in truth)
            wrong += sum(_is_wrong(finding, faults, sound) for finding in mine)
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
    if real:
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
    shelf = Shelf(lambda _: folder / f"{path.stem}.flac")
    parts = transcribe(lambda a, b: shelf.mono_16k("", a, b), done.length, recogniser_for("en"))
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
    for each in recordings:
        each.truth["faults"] += _long_rests(each)
    kinds = {kind: (kind,) for kind in KINDS} | {"chatter": ("chatter", "note to the editor")}
    yield from _judged("demo", recordings, kinds)
    yield from _unwritten("demo", recordings)
    yield from _sounding("demo", recordings)
    hour = sum(each.seconds for each in recordings) / (sum(each.length for each in recordings) / RATE) * 3600
    yield Figure("all findings for an hour of speech", f"{hour:.1f} s", "< 20 s", hour < 20)


def _long_rests(recording: Recording) -> list[dict[str, Any]]:
    """The rests that are longer than what is taken for long there, told from where the words truly lie.

    Those of about that length may be proposed or not.
    """
    limit = thresholds(rhythm_of(recording.words), TidySettings())[None]
    words = [Word(word["text"], *_ticks(word["start"], word["end"])) for word in recording.truth["words"]]
    words.sort(key=lambda word: word.start)
    return [
        {
            "kind": "long rest" if rest > limit.longer + EDGES else "rest of about that length",
            "start": to_seconds(before.end),
            "end": to_seconds(after.start),
        }
        for before, after, rest in rests_of(words)
        if rest > limit.longer - EDGES
    ]


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
    """What was found of the faults, and what was proposed wrongly; ``kinds`` tells which faults belong to a kind of finding.

    A finding is wrong where there is no fault of any kind, and where it takes a word along that has nothing wrong about it.
    """
    for kind, named in kinds.items():
        real = right = proposed = wrong = 0
        for each in recordings:
            places, faults, sound = _faults(each.truth, *named), _faults(each.truth), _sound_words(each.truth)
            listed = [f for f in each.findings if f.kind == kind or (kind == "filler" and f.kind == "voice without words")]
            # What lies within something larger goes with that; that something was shortened is not enough for a hesitation.
            mine = [part for f in each.findings if f.kind != "long rest" or kind == "long rest" for part in f.gone()]
            real, proposed = real + len(places), proposed + len(listed)
            # A hesitation is mostly heard as a part of what is there, and of a rest something stays.
            enough = 0.0 if kind in ("filler", "long rest") else 0.5
            right += sum(_covered(place, mine) > enough for place in places)
            wrong += sum(_is_wrong(finding, faults, sound) for finding in listed)
        yield from _told(f"{name}, {kind}s", real, right, proposed, wrong)


def _is_wrong(finding: Finding, faults: Sequence[Stretch], sound: Sequence[Stretch]) -> bool:
    nothing = any(_covered(part, faults) == 0 for part in finding.gone())
    return nothing or any(_covered(word, finding.gone()) > 0.5 for word in sound)


def _unwritten(name: str, recordings: Sequence[Recording]) -> Iterator[Figure]:
    """Voice without words by itself: of the hesitations that the transcript does not have as fillers."""
    real = right = proposed = wrong = 0
    for each in recordings:
        written = [part for f in each.findings if f.kind not in ("voice without words", "long rest") for part in f.gone()]
        voice = [finding for finding in each.findings if finding.kind == "voice without words"]
        hidden = [place for place in _faults(each.truth, "filler") if not _covered(place, written)]
        faults, sound = _faults(each.truth), _sound_words(each.truth)
        real, proposed = real + len(hidden), proposed + len(voice)
        right += sum(_covered(place, [(f.start, f.end) for f in voice]) > 0 for place in hidden)
        wrong += sum(_is_wrong(finding, faults, sound) for finding in voice)
    yield from _told(f"{name}, of the fillers not written as such, voice without words", real, right, proposed, wrong)


def _breaths(name: str, recordings: Sequence[Recording]) -> Iterator[Figure]:
    """Breaths laid into the rests of recordings that have none."""
    real = right = proposed = wrong = 0
    for each in recordings:
        spoken = [(word["start"], word["end"]) for word in each.truth["words"]]
        sound, taken = breathing(each.shelf.mono_16k("", 0, each.length), spoken)
        heard = strung(hear(lambda a, b, sound=sound: sound[a // 3 : b // 3], each.length))
        findings = find(each.words, heard, TidySettings(soften_breaths=True), ("breath",))
        mine, places = [(f.start, f.end) for f in findings], [_ticks(*place) for place in taken]
        real, proposed = real + len(places), proposed + len(mine)
        right += sum(_covered(place, mine) > 0.5 for place in places)
        wrong += sum(_covered(part, places) == 0 for part in mine)
    yield from _told(f"{name}, made-up breaths", real, right, proposed, wrong)


def _sounding(name: str, recordings: Sequence[Recording]) -> Iterator[Figure]:
    """What the cuts did to the words beside them, and to the level."""
    sound, struck = (sum(counts) for counts in zip(*(_struck(each) for each in recordings), strict=True))
    share = struck / sound
    yield Figure(f"{name}, of {sound} words with nothing wrong about them, struck", f"{share:.1%}", "≤ 1 %", share <= 0.01)
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
    for among, beside_rest in (("within speech", False), ("of a rest with a voice", True)):
        here = [step.more for step in steps if step.beside_rest == beside_rest]
        loud = sum(more > 3 for more in here)
        than = "words by themselves" if beside_rest else "was recorded"
        yield Figure(f"{name}, joins {among} that step over 3 dB more than {than}, of {len(here)}", f"{loud}", "0", loud == 0)


def _ticks(start: float, end: float) -> tuple[Ticks, Ticks]:
    return from_seconds(start), from_seconds(end)


def _faults(truth: dict[str, Any], *kinds: str) -> list[tuple[Ticks, Ticks]]:
    """From-to of the faults of some kinds, or of all."""
    wanted = kinds or {fault["kind"] for fault in truth["faults"]} - {"good take", "rest"}
    return [_ticks(fault["start"], fault["end"]) for fault in truth["faults"] if fault["kind"] in wanted]


def _sound_words(truth: dict[str, Any]) -> list[tuple[Ticks, Ticks]]:
    """From-to of the words with nothing wrong about them."""
    return _without_fault((_ticks(word["start"], word["end"]) for word in truth["words"]), _faults(truth))


def _without_fault(words: Iterable[Stretch], faults: Sequence[Stretch]) -> list[Stretch]:
    return [word for word in words if _covered(word, faults) < 0.3]


def _struck(recording: Recording) -> tuple[int, int]:
    """How many words have nothing wrong about them, and how many of those go nevertheless."""
    gone = [part for finding in recording.findings for part in finding.gone()]
    sound = _sound_words(recording.truth)
    return len(sound), sum(_covered(word, gone) > 0.5 for word in sound)


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


@dataclass(frozen=True)
class Step:
    """A join: by how many decibels the level steps more than where its two sides were cut, as recorded.

    Where a rest and a voice meet, by how many it steps more than that recording's words do that begin after a rest, or end
    before one, over the same time: then ``beside_rest`` is true.
    """

    more: float
    beside_rest: bool


def _steps(recording: Recording) -> list[Step]:
    plan, shelf = compile_plan(recording.edition), recording.shelf
    room = _room(shelf, recording.length) + ROOM
    out: list[Step] = []
    for before, after in pairwise(plan.spans):
        first, last = _sides(mix(plan, after.at - WINDOW, before.until + WINDOW, shelf.read))
        fade, step = after.fade_in, level_step(first, last)
        if (first.level < room) == (last.level < room):
            recorded = [_step_at(shelf, at, fade) for at in (before.end - fade // 2, after.start + fade // 2)]
            out.append(Step(step - max(map(abs, recorded)), beside_rest=False))
        else:
            out.append(Step(step - _usual_step(recording, fade, begins=last.level > first.level), beside_rest=True))
    return out


def _usual_step(recording: Recording, fade: Ticks, *, begins: bool) -> float:
    """By how much the level rises where words begin after a rest, or falls where they end before one: 95 of 100 at most."""
    words = sorted(recording.truth["words"], key=lambda word: word["start"])
    pairs = [(a, b) for a, b in pairwise(words) if b["start"] - a["end"] > BESIDE]
    places = [from_seconds(b["start"] if begins else a["end"]) for a, b in pairs]
    rises = [_step_at(recording.shelf, place, fade) for place in places]
    return float(np.percentile(rises if begins else np.negative(rises), 95))


def _step_at(shelf: Shelf, at: Ticks, fade: Ticks) -> float:
    """By how many decibels the level rises over ``fade`` around a place of the recording."""
    first, last = _sides(shelf.read(Feed(NAME), at - fade // 2 - WINDOW, at + fade - fade // 2 + WINDOW))
    return last.level - first.level


def _sides(sound: np.ndarray) -> tuple[Edge, Edge]:
    return edge_of(sound[:WINDOW]), edge_of(sound[-WINDOW:])


def _room(shelf: Shelf, length: Ticks) -> float:
    """The level of the room in decibels: that of the quietest tenth of the recording."""
    sound = shelf.mono_16k("", 0, length)
    hops = sound[: len(sound) // 320 * 320].reshape(-1, 320)
    return float(np.percentile(10 * np.log10(np.mean(hops**2, axis=1) + 1e-9), 10))
