"""Where cameras look, levels and covers, through the API and in films."""

# ruff: noqa: F811

from __future__ import annotations

import io

import av
import numpy as np
from conftest import RATE
from test_exports import exported
from test_retyping import operate
from test_shots_of_editions import talk  # noqa: F401 (a fixture)

RANGE = {"begin": 2 * RATE, "end": 5 * RATE}


def head(jaskel, talk):
    return jaskel.get(f"/api/editions/{talk['edition']}")


def frames(jaskel, talk):
    with av.open(io.BytesIO(exported(jaskel, talk["episode"], "mp4"))) as opened:
        return [frame.to_ndarray(format="rgb24").astype(int) for frame in opened.decode(video=0)]


def refused(jaskel, talk, **operation):
    body = {"revision": head(jaskel, talk)["revision"], "operation": operation}
    return jaskel.client.post(f"/api/editions/{talk['edition']}/operations", json=body).json["code"]


def test_levels_are_set_matched_and_seen(jaskel, talk):
    ada, ben = talk["cameras"]
    operate(jaskel, talk["edition"], kind="levels of picture", camera=ada, grade={"saturation": 0})
    cameras = {each["recording"]: each["grade"]["saturation"] for each in head(jaskel, talk)["cameras"]}
    assert cameras == {ada: 0, ben: 100}
    assert np.ptp(frames(jaskel, talk)[50][90, 160]) < 6
    views = jaskel.get(f"/api/editions/{talk['edition']}/plan")["layers"][0]["views"]
    assert len(views[0]["colours"]) == 20
    grade = jaskel.get(f"/api/recordings/{ada}/match?to={ben}")
    assert grade["warmth"] < 0  # from red to blue
    assert refused(jaskel, talk, kind="levels of picture", camera="nobody", grade={}) == "no-camera"
    operate(jaskel, talk["edition"], kind="levels of picture", camera=ada, grade={})
    views = jaskel.get(f"/api/editions/{talk['edition']}/plan")["layers"][0]["views"]
    assert views[0]["colours"] is None


def test_a_part_is_covered_on_the_monitor_and_in_the_film(jaskel, talk):
    ada = talk["cameras"][0]
    cover = {"kind": "cover", **RANGE, "at": 3 * RATE, "camera": ada, "box": [0.25, 0.25, 0.5, 0.5], "form": "solid"}
    operate(jaskel, talk["edition"], **cover, follows=False)
    (known,) = head(jaskel, talk)["covers"]
    assert (known["begin"], known["end"], known["form"]) == (2 * RATE, 5 * RATE, "solid")
    film = frames(jaskel, talk)
    seen = [film[round(at * 25)][90, 160].max() < 60 for at in (1, 1.9, 2.1, 4.9, 5.1)]
    assert seen == [False, False, True, True, False]
    assert film[75][20, 20].max() > 150
    plan = jaskel.get(f"/api/editions/{talk['edition']}/plan")
    assert any(view["covers"] for layer in plan["layers"] for view in layer["views"])
    operate(jaskel, talk["edition"], kind="cover off", id=known["id"])
    assert head(jaskel, talk)["covers"] == []
    assert refused(jaskel, talk, **{**cover, "box": [0.5, 0.5, 0, 0.1]}) == "no-part"
    assert refused(jaskel, talk, kind="cover off", id="x") == "no-cover"


def test_what_is_followed_is_covered_a_little_wider_from_edge_to_edge(jaskel, talk):
    cover = {"kind": "cover", **RANGE, "at": 3 * RATE, "camera": talk["cameras"][0], "box": [0.4, 0.4, 0.2, 0.2]}
    operate(jaskel, talk["edition"], **cover)
    plan = jaskel.get(f"/api/editions/{talk['edition']}/plan")
    (way,) = [each["way"] for layer in plan["layers"] for view in layer["views"] for each in view["covers"]][:1]
    assert (way[0]["at"], way[-1]["at"]) == (2 * RATE, 5 * RATE)
    x, y, width, height = way[0]["box"]
    assert x < 0.4
    assert y < 0.4
    assert x + width > 0.6
    assert y + height > 0.6


def test_a_camera_is_turned_for_a_shot(jaskel, talk):
    operate(jaskel, talk["edition"], kind="shape", shape="upright")
    aim = {"x": 0.2, "y": 0.5, "closer": 1.5, "follows": False}
    operate(jaskel, talk["edition"], kind="aim", ranges=[RANGE], camera=talk["cameras"][0], aim=aim)
    (known,) = head(jaskel, talk)["aims"]
    assert (known["begin"], known["end"], known["closer"]) == (2 * RATE, 5 * RATE, 1.5)
    layers = jaskel.get(f"/api/editions/{talk['edition']}/plan")["layers"]
    there = next(each for each in layers if each["begin"] <= 3 * RATE < each["until"])
    x, _, width, _ = there["views"][0]["crops"][0]["box"]
    assert abs(x + width / 2 - 0.2) < 0.03 or x == 0
    operate(jaskel, talk["edition"], kind="aim", ranges=[RANGE], camera=talk["cameras"][0], aim=None)
    assert head(jaskel, talk)["aims"] == []


def test_a_face_is_refused_where_there_is_none_or_nobody_has_looked(jaskel, talk):
    face = {"kind": "face of", "camera": talk["cameras"][0], "voice": talk["voices"]["Ada"], "at": 2 * RATE}
    assert refused(jaskel, talk, **face, point=[0.5, 0.5]) in ("no-face", "not-looked")  # one colour has no face
    assert refused(jaskel, talk, **face, point=None) == "nothing-changed"
    assert refused(jaskel, talk, **{**face, "camera": "nobody"}, point=[0.5, 0.5]) == "no-camera"
    assert head(jaskel, talk)["faces"] == []


def test_eyes_are_turned_and_where_that_does_not_work_is_told(jaskel, talk):
    ada, _ = talk["cameras"]
    operate(jaskel, talk["edition"], kind="gaze", camera=ada, gaze={"amount": 60})
    assert [each["gaze"]["amount"] for each in head(jaskel, talk)["cameras"]] == [60, 0]
    views = [view for layer in jaskel.get(f"/api/editions/{talk['edition']}/plan")["layers"] for view in layer["views"]]
    assert {(view["recording"], bool(view["turned"])) for view in views} == {(ada, True)}
    pieces = next(view["turned"] for view in views if view["turned"])
    with av.open(io.BytesIO(jaskel.get(pieces.replace("{piece}", "7")).data)) as opened:
        assert sum(1 for _ in opened.decode(video=0)) == 50
    jaskel.get(pieces.replace("{piece}", "8"), 404)
    found = jaskel.get(f"/api/editions/{talk['edition']}/gaze?camera={ada}&within=15")
    assert found["looked"] > 10
    (nowhere,) = found["not_turned"]
    assert (nowhere["why"], found["turned"]) == ("nobody", 0)  # it is of one colour
    assert nowhere["begin"] < RATE < 15 * RATE < nowhere["end"]
    assert len(frames(jaskel, talk)) == 400
    assert refused(jaskel, talk, kind="gaze", camera="nobody", gaze={"amount": 10}) == "no-camera"
    operate(jaskel, talk["edition"], kind="gaze", camera=ada, gaze={"amount": 0})
    assert refused(jaskel, talk, kind="gaze", camera=ada, gaze={"amount": 0}) == "nothing-changed"
