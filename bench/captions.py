"""Captions: whether they break where a captioner would break them, how quickly they are there, and what burning them in costs.

The texts in ``bench/texts`` are of three kinds: talk, explanation, story. A break is one a captioner would accept unless it
parts what belongs together by :func:`accepted`, a list that knows nothing of how breaks are chosen.
"""

from __future__ import annotations

import random
import re
import statistics
from collections.abc import Iterator
from dataclasses import replace
from fractions import Fraction
from itertools import pairwise
from pathlib import Path

import av
import numpy as np

from bench.figure import Figure, timed
from bench.plan import long_edition
from jaskel.core.captions.check import checked
from jaskel.core.captions.cues import Cue, cues
from jaskel.core.captions.look import LOOKS
from jaskel.core.captions.rules import Rules
from jaskel.core.captions.screens import screens
from jaskel.core.captions.words import ProgrammeWord
from jaskel.core.operations import Strike, apply
from jaskel.core.plan import Plan, compile_plan
from jaskel.core.timebase import RATE
from jaskel.core.transcript import Transcript, Word
from jaskel.media.captions.drawn import Overlay, Renderer
from jaskel.media.picture import stamped
from jaskel.media.render import H264

TEXTS = sorted((Path(__file__).parent / "texts").glob("*.txt"))

ARTICLES = "a an the my your his her its our their this these those every each no any some another"
PREPOSITIONS = (
    "of in on at by for from with without to into onto over under between behind beside beyond through across after before "
    "until since along near about above below than as like within"
)
CONJUNCTIONS = "and or but nor because that which who whose if when while where whether although so unless though"
HELPERS = (
    "is are was were be been am do does did have has had will would can could may might shall should must not never very "
    "quite too i you he she we they there"
)
TIED = frozenset(" ".join((ARTICLES, PREPOSITIONS, CONJUNCTIONS, HELPERS)).split())
"""Words that belong to the next one."""

HARD = ("too wide", "too many lines", "overlapping", "too long")


def accepted(before: str, after: str) -> bool:
    """Whether captions may break between two words.

    They may after punctuation. They may not after an article or what stands for one, a preposition, a conjunction or a
    relative pronoun, a helping verb, a subject pronoun or "not"; nor within a name or a title with its name, nor between a
    number and what it counts.
    """
    if re.search(r"[.,;:?!…]$", before) and before not in ("Mrs.", "Mr.", "Dr."):
        return True
    bare = before.lower().strip("“”\"'")
    if bare in TIED or before in ("Mrs.", "Mr.", "Dr."):
        return False
    if re.fullmatch(r"[\d.,]+", before):
        return False
    return not (before[0].isupper() and after[0].isupper() and bare != "i" and after not in ("I", "I’d", "I’m"))


def spoken(text: str, seed: int) -> list[ProgrammeWord]:
    """A text said at the pace of talk, with rests where there is punctuation."""
    chance, at, found = random.Random(seed), float(RATE), []
    for word in text.split():
        length = RATE * (0.09 + 0.055 * len(word.strip(".,;:?!")) * chance.uniform(0.8, 1.2))
        found.append(ProgrammeWord(Word(word, round(at), round(at + length)), round(at), round(at + length)))
        at += length + RATE * (0.45 if word[-1] in ".?!" else 0.18 if word[-1] in ",;:" else 0.02) * chance.uniform(0.6, 1.5)
    return found


def breaks(made: tuple[Cue, ...]) -> Iterator[tuple[str, str]]:
    """The words before and after each break of a line or a caption."""
    lines = [line.split() for cue in made for line in cue.lines]
    for one, other in pairwise(lines):
        yield one[-1], other[0]


def figures(folder: Path) -> Iterator[Figure]:
    """Breaks, times, and the cost of burning in."""
    yield from _broken()
    yield from _quick()
    yield from _burned(folder)


def _broken() -> Iterator[Figure]:
    for rules, told in ((Rules(), "42 characters, 2 lines"), (Rules(characters=22, lines=2), "22 characters, 2 lines")):
        good = count = hard = 0
        early = 0.0
        for number, path in enumerate(TEXTS):
            words = spoken(path.read_text(), number)
            made = cues(words, words[-1].end + RATE, rules)
            found = [accepted(*each) for each in breaks(made)]
            good, count = good + sum(found), count + len(found)
            hard += sum(each.fault in HARD for each in checked(made, rules))
            early = max(early, *((cue.words[0].start - cue.start) / RATE for cue in made))
        share = good / count
        narrow = rules.characters < 30
        reach = "no goal" if narrow else "≥ 95 %"
        yield Figure(f"ten texts, {told}: breaks one would accept", f"{share:.1%} of {count}", reach, narrow or share >= 0.95)
        yield Figure(f"ten texts, {told}: hard rules broken", str(hard), "0", hard == 0)
        yield Figure(f"ten texts, {told}: earliest before its word", f"{early * 1e3:.0f} ms", "≤ 80 ms", early <= 0.08)


def long_plan() -> Plan:
    """Three hours of talk with 3,000 cuts."""
    edition, material = long_edition()
    texts = [word for path in TEXTS for word in path.read_text().split()]
    length = edition.length
    count = 30_000
    step = length // count
    words = tuple(
        Word(texts[n % len(texts)], n * step, n * step + step * 4 // 5, 0.9, ("one", "other")[n // 90 % 2])
        for n in range(count)
    )
    return compile_plan(edition, replace(material, transcripts={"s": Transcript(length, words)}))


def _quick() -> Iterator[Figure]:
    plan = long_plan()
    cold = timed(lambda: plan.captions())
    yield Figure(f"captions of 3 h, 3,000 cuts ({len(plan.captions())}), cold", f"{cold * 1e3:.0f} ms", "≤ 3 s", cold <= 3)
    times = []
    for number in range(7):
        run = plan.edition.kept_runs[number * 379 % len(plan.edition.kept_runs)]
        at = run.laid + (run.end - run.start) // 3
        edition = apply(plan.edition, Strike(((at, at + RATE // 2),)))[0]
        changed = compile_plan(edition, plan.material)
        _ = changed.spans, changed.edition.kept_runs
        times.append(timed(lambda changed=changed: changed.captions()))
    after = statistics.median(times)
    yield Figure("the same after an edit", f"{after * 1e3:.0f} ms", "≤ 50 ms", after <= 0.05)
    ruled = statistics.median(timed(lambda n=n: cues(plan.words, plan.length, Rules(characters=30 + n))) for n in range(3))
    yield Figure("the same after a change of a rule", f"{ruled:.1f} s", "≤ 3 s", ruled <= 3)


def _burned(folder: Path) -> Iterator[Figure]:
    """A minute of moving picture at 720p, decoded and encoded with captions in word-by-word looks and without."""
    source, rng = folder / "plain.mp4", np.random.default_rng(2)
    grain = rng.integers(0, 40, (720, 1280, 3), np.uint8)
    with av.open(str(source), "w") as out:
        video = out.add_stream("libx264", rate=25, options=H264["good"])
        video.width, video.height, video.pix_fmt = 1280, 720, "yuv420p"
        for number in range(25 * 40):
            picture = np.roll(grain, number * 3, axis=1) + np.uint8(90)
            out.mux(video.encode(av.VideoFrame.from_ndarray(picture, "rgb24").reformat(format="yuv420p")))
        out.mux(video.encode())

    def written(overlay: Overlay | None) -> None:
        with av.open(str(source)) as old, av.open(str(folder / "new.mp4"), "w") as new:
            video = new.add_stream("libx264", rate=25, options=H264["good"])
            video.width, video.height, video.pix_fmt = 1280, 720, "yuv420p"
            old.streams.video[0].thread_type = video.thread_type = "AUTO"
            for number, frame in enumerate(old.decode(video=0)):
                shown = overlay.over(frame, number * RATE // 25) if overlay else frame
                shown = stamped(shown, number, Fraction(25))
                new.mux(video.encode(shown))
            new.mux(video.encode())

    words = [word for number, path in enumerate(TEXTS[:2]) for word in spoken(path.read_text(), number)][:130]
    for look in LOOKS[3:]:
        moments = tuple(screens(cues(words, 40 * RATE, usual=look)))
        ratios = []
        for _ in range(2):
            bare = timed(lambda: written(None))
            ratios.append(timed(lambda moments=moments: written(Overlay(moments, Renderer(1280, 720)))) / bare)
        ratio = statistics.median(ratios)
        yield Figure(f"“{look.name}” burned in, to the same without", f"{ratio:.2f}", "≤ 1.25", ratio <= 1.25)
