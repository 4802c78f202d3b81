"""The page finds its way in a plan by rules of its own; this keeps them the same as the core's.

The cases are written to ``frontend/tests/plans.json``, against which the page's tests hold its functions. Where the core has
come to say something else, write them anew: ``JASKEL_WRITE_CASES=1 ./run test tests/core/test_plans_of_the_page.py``.
"""

from __future__ import annotations

import json
import os
import random
from itertools import pairwise
from pathlib import Path

from jaskel.core.edition import CARD, ROOM_TONE, SILENCE, Edition, Piece
from jaskel.core.operations import SetSplices, apply
from jaskel.core.plan import Plan, compile_plan
from jaskel.core.splice import Meeting, Splice

CASES = Path(__file__).resolve().parents[2] / "frontend" / "tests" / "plans.json"
NAMES = ("recording", "start", "end", "at", "laid", "fade_in", "fade_out", "lead")


def an_edition(chance: random.Random) -> Edition:
    """Stretches of two recordings, some struck or lifted, with rests and cards among them, and splices set by hand."""
    pieces, reached = [], {"a": 0, "b": 0}
    for _ in range(chance.randint(1, 14)):
        name = chance.choice("aaab")
        start = reached[name] + chance.choice((0, 0, 0, chance.randint(1, 90_000)))
        end = reached[name] = start + chance.randint(400, 200_000)
        kept = chance.random() < 0.6
        pieces.append(Piece(name, start, end, kept, "" if kept else "by hand", lifted=not kept and chance.random() < 0.3))
        if chance.random() < 0.2:
            pieces.append(Piece(chance.choice((SILENCE, CARD, ROOM_TONE + name)), 0, chance.randint(1_000, 60_000)))
    edition = Edition.of(pieces)
    runs = edition.kept_runs
    by_hand = tuple(
        (
            Meeting(before.recording, before.end, after.recording, after.start),
            Splice(chance.randint(0, 3_000), before=chance.randint(0, 2_000), lead=chance.randint(-9_000, 9_000)),
        )
        for before, after in pairwise(runs)
        if chance.random() < 0.3
    )
    return apply(edition, SetSplices(by_hand))[0] if by_hand else edition


def sounding(plan: Plan, laid: int) -> int:
    """Where in the programme a laid time sounds; where it does not, where the next that does begins.

    A span that reaches into what was taken out after it does not sound for what is laid there: the next one does.
    """
    begun = [span for span in plan.spans if span.laid <= laid]
    if begun and laid < begun[-1].laid + begun[-1].clear_to - begun[-1].clear_from:
        return begun[-1].clear_from + laid - begun[-1].laid
    return next((span.clear_from for span in plan.spans[len(begun) :]), plan.length)


def case(seed: int) -> dict:
    """A plan as the page gets it, and what the core says of places in it."""
    chance = random.Random(seed)
    edition = an_edition(chance)
    plan = compile_plan(edition)
    edges = [place for span in plan.spans for place in (span.at, span.handover, span.clear_from, span.clear_to)]
    places = sorted({*edges, *(chance.randint(0, max(0, plan.length - 1)) for _ in range(12))})
    laid = sorted({chance.randint(0, edition.length) for _ in range(16)})
    leading = [place for place in places if plan.span_at(place)]
    return {
        "plan": {"length": plan.length, "spans": [{name: getattr(span, name) for name in NAMES} for span in plan.spans]},
        "leads": [[place, plan.spans.index(plan.span_at(place))] for place in leading],
        "seen": [[place, *(plan.picture_at(place) or (CARD, None))] for place in leading],
        "sounds": [[place, sounding(plan, place)] for place in laid],
    }


def test_the_page_is_held_against_what_the_core_says_now():
    cases = [case(seed) for seed in range(40)]
    assert sum(len(each["seen"]) for each in cases) > 500
    if os.environ.get("JASKEL_WRITE_CASES"):
        CASES.write_text(json.dumps(cases, separators=(",", ":")) + "\n")
    assert json.loads(CASES.read_text()) == cases
