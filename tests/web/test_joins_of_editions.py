"""Joins of pictures through the API: judged before they are made, made at several places at once, seen on the monitor."""

# ruff: noqa: F811

from __future__ import annotations

import io

import av
import numpy as np
from conftest import RATE
from test_exports import exported
from test_retyping import operate
from test_shots_of_editions import talk  # noqa: F401 (a fixture)


def head(jaskel, talk):
    return jaskel.get(f"/api/editions/{talk['edition']}")


def struck(jaskel, talk):
    """The laid place of a splice behind two seconds that were struck."""
    operate(jaskel, talk["edition"], kind="strike", ranges=[{"begin": 3 * RATE, "end": 5 * RATE}], why="by hand")
    return head(jaskel, talk)["splices"][0]


def joined(jaskel, talk, at, **join):
    operate(jaskel, talk["edition"], kind="picture join", ats=[at], join=join or None)


def ben_is_shown(jaskel, talk):
    """From the sixth second to the ninth, where he begins to speak."""
    ranges, voices = [{"begin": 6 * RATE, "end": 9 * RATE}], [talk["voices"]["Ben"]]
    operate(jaskel, talk["edition"], kind="shot", ranges=ranges, framing="single", voices=voices)


def test_a_bridge_is_judged_made_and_taken_off(jaskel, talk):
    at = struck(jaskel, talk)
    judged = jaskel.get(f"/api/editions/{talk['edition']}/bridge?at={at}")
    assert (judged["quality"], judged["instead"]) == ("good", "")  # one colour before and after it
    assert head(jaskel, talk)["joins"] == []
    joined(jaskel, talk, at, kind="bridge")
    (join,) = head(jaskel, talk)["joins"]
    assert (join["kind"], join["at"], join["seen"]) == ("bridge", at, True)
    layers = jaskel.get(f"/api/editions/{talk['edition']}/plan")["layers"]
    (stretch,) = [layer["stretch"] for layer in layers if layer["stretch"]]
    film = jaskel.client.get(f"/api/editions/{talk['edition']}/stretches/{stretch}")
    with av.open(io.BytesIO(film.data)) as opened:
        assert len([*opened.decode(video=0)]) == 8
    assert jaskel.client.get(f"/api/editions/{talk['edition']}/stretches/unknown").json["code"] == "no-stretch"
    joined(jaskel, talk, at)
    assert head(jaskel, talk)["joins"] == []


def test_two_that_differ_are_called_poor_and_told_what_would_do(jaskel, talk):
    operate(
        jaskel,
        talk["edition"],
        kind="shot",
        ranges=[{"begin": 6 * RATE, "end": 9 * RATE}],
        framing="single",
        voices=[talk["voices"]["Ben"]],
    )
    judged = jaskel.get(f"/api/editions/{talk['edition']}/bridge?at={6 * RATE}&better=true")
    assert (judged["quality"], judged["instead"]) == ("poor", "cutaway")
    assert judged["smears"]
    nothing = jaskel.get(f"/api/editions/{talk['edition']}/bridge?at={RATE}")
    assert nothing["quality"] == "none"


def test_the_film_fades_from_one_shot_to_the_other(jaskel, talk):
    operate(
        jaskel,
        talk["edition"],
        kind="shot",
        ranges=[{"begin": 6 * RATE, "end": 9 * RATE}],
        framing="single",
        voices=[talk["voices"]["Ben"]],
    )
    joined(jaskel, talk, 6 * RATE, kind="dissolve", length=RATE)
    with av.open(io.BytesIO(exported(jaskel, talk["episode"], "mp4"))) as opened:
        frames = [frame.to_ndarray(format="rgb24")[90, 160].astype(int) for frame in opened.decode(video=0)]
    before, middle, after = (frames[round(at * 25)] for at in (5, 6, 7))
    assert np.abs(middle - (before + after) / 2).max() < 25
    assert np.abs(before - after).max() > 150
    revision = head(jaskel, talk)["revision"]
    again = {
        "revision": revision,
        "operation": {"kind": "picture join", "ats": [6 * RATE], "join": {"kind": "dissolve", "length": RATE}},
    }
    assert jaskel.client.post(f"/api/editions/{talk['edition']}/operations", json=again).json["code"] == "nothing-changed"
