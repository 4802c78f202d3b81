"""Compiling a plan of three hours with 3,000 cuts and 6,000 levels, cold and after edits; one large operation on many cuts."""

from __future__ import annotations

import json
import random
import statistics
from collections.abc import Callable, Iterator
from fractions import Fraction
from itertools import count, pairwise
from pathlib import Path

from bench.figure import Figure, timed
from jaskel.core.codec import to_json
from jaskel.core.edition import Edition, Piece
from jaskel.core.marks.anchor import Meeting, Stretch
from jaskel.core.marks.level import Level, Setting, set_levels
from jaskel.core.marks.mark import Marks
from jaskel.core.marks.splice import Splice, SpliceMark, id_of
from jaskel.core.operations import SetMarks, Strike, apply
from jaskel.core.plan import Material, Plan, compile_plan
from jaskel.core.session import Picture, Session, Track
from jaskel.core.source import Recorded
from jaskel.core.timebase import RATE, Ticks

HOURS, CUTS, LEVELS = 3, 3_000, 6_000
TIMES = 7
AHEAD: Ticks = 90 * RATE


def long_edition(cuts: int = CUTS, levels: int = LEVELS) -> tuple[Edition, Material]:
    """Three hours of two voices and a camera, cut all over, most joins settled, with levels on both tracks."""
    length, chance, source = HOURS * 3600 * RATE, random.Random(1), Recorded("s")
    tracks = (
        Track("one", length), Track("other", length, 4_800, 20e-6),
        Track("camera", length, 9_600, 50e-6, sounds=False, picture=Picture(1280, 720, Fraction(25))),
    )  # fmt: skip
    step = length // cuts
    struck = tuple((n * step + chance.randrange(step // 2), (n + 1) * step - step // 4) for n in range(cuts))
    edition = apply(Edition.of([Piece(source, 0, length)]), Strike(struck))[0]
    marks: list[Level | SpliceMark] = []
    for number in range(levels):
        at = number * (length // levels)
        marks.append(Level(f"level{number}", (Stretch("s", at, at + RATE),), ("one", "other")[number % 2], -6.0))
    for before, after in pairwise(edition.kept_runs):
        meeting = Meeting(before.source, before.end, after.source, after.start)
        marks.append(SpliceMark(id_of(meeting), (meeting,), Splice(600, before=240, settled=True)))
    return apply(edition, SetMarks(tuple(marks)))[0], Material({"s": Session(tracks)})


def _anew(edition: Edition) -> Edition:
    """The same without anything that was worked out from it."""
    return Edition(edition.pieces, edition.crossfade, Marks.of([*edition.marks]), edition.shape)


def _listened(plan: Plan, at: Ticks) -> None:
    """What is asked after an edit: all blocks, the sound of the next 90 seconds, what is seen."""
    for block in plan.blocks:
        if at <= block.at < at + AHEAD:
            _ = plan.sound(block.at, block.until).digest
    _ = plan.layers


def _median(work: Callable[[], object]) -> float:
    return statistics.median(timed(work) for _ in range(TIMES))


def figures(_folder: Path) -> Iterator[Figure]:
    """Cold, after edits, and one operation of many ranges."""
    edition, material = long_edition()
    cold = _median(lambda: _listened(compile_plan(_anew(edition), material), 0))
    yield Figure("plan of 3 h, 3,000 cuts, 6,000 levels, cold", f"{cold * 1e3:.0f} ms", "≤ 500 ms", cold <= 0.5)
    turns = count(1)

    def somewhere() -> Ticks:
        run = edition.kept_runs[next(turns) * 379 % len(edition.kept_runs)]
        return run.laid + (run.end - run.start) // 3

    def struck() -> None:
        nonlocal edition
        place = somewhere()
        edition = apply(edition, Strike(((place, place + RATE // 20),)))[0]
        _listened(compile_plan(edition, material), place // 2)

    def levelled() -> None:
        nonlocal edition
        place = somewhere()
        changes = set_levels(edition.marks, [Setting("s", "one", place, place + RATE // 2, -3.0)])
        edition = apply(edition, SetMarks.of(changes))[0]
        _listened(compile_plan(edition, material), place // 2)

    for name, work in (("a strike", struck), ("a level", levelled)):
        seconds = _median(work)
        yield Figure(f"the same plan after {name}", f"{seconds * 1e3:.0f} ms", "≤ 50 ms", seconds <= 0.05)
    many, _ = long_edition(2_000, 0)
    step = many.length // 2_000
    strike = Strike(tuple((n * step + step // 16, n * step + step // 8) for n in range(2_000)))

    def large() -> None:
        after, inverse = apply(many, strike)
        json.dumps([to_json(strike), to_json(inverse)])
        _ = compile_plan(after, material).length

    seconds = _median(large)
    yield Figure("2,000 ranges struck on 2,000 cuts, in the core", f"{seconds * 1e3:.0f} ms", "≤ 50 ms", seconds <= 0.05)
