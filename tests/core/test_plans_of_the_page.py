"""The page looks up in plans by functions of its own; this keeps them the same as the core's.

The cases are written to ``frontend/tests/plans.json``, against which the page's tests hold its functions. Where the core has
come to say something else, write them anew: ``JASKEL_WRITE_CASES=1 ./run test tests/core/test_plans_of_the_page.py``.
"""

from __future__ import annotations

import json
import os
import random
from fractions import Fraction
from itertools import pairwise
from pathlib import Path

from jaskel.core.edition import Edition, Piece
from jaskel.core.marks.anchor import Meeting
from jaskel.core.marks.splice import Splice, set_splices
from jaskel.core.operations import SetMarks, apply
from jaskel.core.plan import Material, Plan, compile_plan
from jaskel.core.session import Picture, Session, Track
from jaskel.core.source import CLOSING, OPENING, SILENCE, Drawn, Recorded, RoomTone
from jaskel.web.listening import plan_out

CASES = Path(__file__).resolve().parents[2] / "frontend" / "tests" / "plans.json"
PICTURE = Picture(640, 360, Fraction(25))
MATERIAL = Material(
    {
        "a": Session((Track("mic", 900_000), Track("camera", 900_000, 4_800, 60e-6, sounds=False, picture=PICTURE))),
        "b": Session((Track("b", 900_000, picture=PICTURE),)),
    }
)


def an_edition(chance: random.Random) -> Edition:
    """Stretches of a session and a recording, some struck or lifted, with rests and cards among them, and splices by hand."""
    pieces, reached = [], {"a": 0, "b": 0}
    for _ in range(chance.randint(1, 14)):
        name = chance.choice("aaab")
        start = reached[name] + chance.choice((0, 0, 0, chance.randint(1, 90_000)))
        end = reached[name] = start + chance.randint(400, 200_000)
        kept = chance.random() < 0.6
        lifted = not kept and chance.random() < 0.3
        pieces.append(Piece(Recorded(name), start, end, kept, "" if kept else "by hand", lifted=lifted))
        if chance.random() < 0.2:
            made = chance.choice((SILENCE, OPENING, CLOSING, Drawn("Part two"), RoomTone(name)))
            pieces.append(Piece(made, 0, chance.randint(1_000, 60_000)))
    edition = Edition.of(pieces)
    by_hand = [
        (
            Meeting(before.source, before.end, after.source, after.start),
            Splice(chance.randint(0, 3_000), before=chance.randint(0, 2_000), lead=chance.randint(-9_000, 9_000)),
        )
        for before, after in pairwise(edition.kept_runs)
        if chance.random() < 0.3
    ]
    return apply(edition, SetMarks.of(set_splices(edition.marks, by_hand)))[0] if by_hand else edition


def sounding(plan: Plan, laid: int) -> int:
    """Where in the programme a laid time sounds; where it does not, where the next that does begins.

    A span that reaches into what was taken out after it does not sound for what is laid there: the next one does.
    """
    begun = [span for span in plan.spans if span.laid <= laid]
    if begun and laid < begun[-1].laid + begun[-1].clear_to - begun[-1].clear_from:
        return begun[-1].clear_from + laid - begun[-1].laid
    return next((span.clear_from for span in plan.spans[len(begun) :]), plan.length)


def seen(plan: Plan, at: int) -> list:
    layer = plan.layer_at(at)
    if layer.camera:
        return [at, layer.camera.recording, layer.camera.after(at - layer.begin)]
    return [at, None, None]


def case(seed: int) -> dict:
    """A plan as the page gets it, and what the core says of places in it."""
    chance = random.Random(seed)
    edition = an_edition(chance)
    plan = compile_plan(edition, MATERIAL)
    edges = [place for span in plan.spans for place in (span.at, span.handover, span.clear_from, span.clear_to)]
    edges += [layer.begin for layer in plan.layers]
    places = sorted({*edges, *(chance.randint(0, max(0, plan.length - 1)) for _ in range(12))})
    laid = sorted({chance.randint(0, edition.length) for _ in range(16)})
    leading = [place for place in places if plan.span_at(place)]
    return {
        "plan": plan_out(plan, seed).model_dump(),
        "leads": [[place, plan.spans.index(plan.span_at(place))] for place in leading],
        "seen": [seen(plan, place) for place in leading],
        "sounds": [[place, sounding(plan, place)] for place in laid],
    }


def test_the_page_is_held_against_what_the_core_says_now():
    cases = [case(seed) for seed in range(40)]
    assert sum(len(each["seen"]) for each in cases) > 500
    if os.environ.get("JASKEL_WRITE_CASES"):
        CASES.write_text(json.dumps(cases, separators=(",", ":")) + "\n")
    assert json.loads(CASES.read_text()) == cases


def test_layers_cover_the_programme():
    for seed in range(40):
        plan = compile_plan(an_edition(random.Random(seed)), MATERIAL)
        if plan.length:
            assert (plan.layers[0].begin, plan.layers[-1].until) == (0, plan.length)
        assert all(a.until == b.begin for a, b in pairwise(plan.layers))
