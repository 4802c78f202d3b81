"""Who is seen, through the API: following, choices by hand, punch-ins, faces, and the film that comes of it."""

from __future__ import annotations

import io
from fractions import Fraction

import av
import numpy as np
import pytest
from conftest import RATE, excerpt, write_media
from test_exports import exported
from test_retyping import operate, turn
from test_sessions import change, noise

from jaskel.core.timebase import frame_start
from jaskel.core.transcript import Word

ADA, BEN = (230, 20, 20), (20, 20, 230)
FOLLOWING = {"follow": True, "reactions": False, "shortest": RATE}


def filmed(path, colour, sound):
    """A film of one colour."""
    with av.open(str(path), "w") as out:
        video, audio = out.add_stream("libx264", rate=25), out.add_stream("aac", rate=RATE, layout="mono")
        video.width, video.height, video.pix_fmt = 320, 180, "yuv420p"
        picture = av.VideoFrame.from_ndarray(np.full((180, 320, 3), colour, np.uint8), "rgb24").reformat(format="yuv420p")
        for number in range(25 * len(sound) // RATE):
            picture.pts, picture.time_base = number, Fraction(1, 25)
            out.mux(video.encode(picture))
        frame = av.AudioFrame.from_ndarray(np.ascontiguousarray(sound[None]), "fltp", "mono")
        frame.sample_rate, frame.pts, frame.time_base = RATE, 0, Fraction(1, RATE)
        out.mux([*video.encode(), *audio.encode(frame), *audio.encode()])
    return path


@pytest.fixture
def talk(jaskel, tmp_path):
    """Ada speaks from 0 to 6 s and from 12 to 16, Ben from 6 to 12; each has a microphone and a camera of their name."""
    made = jaskel.episode()["id"]
    sound = noise(16, 4)
    files = [write_media(tmp_path / f"{name}.flac", sound + noise(16, seed) * 0.1) for seed, name in enumerate(("ada", "ben"))]
    files += [filmed(tmp_path / f"Camera on {name}.mp4", colour, sound) for name, colour in (("Ada", ADA), ("Ben", BEN))]
    ids = []
    for file in files:
        url = f"/api/episodes/{made}/recordings?name={file.name}&placed=false&transcribe=false"
        ids.append(jaskel.client.post(url, data=file.read_bytes()).json["id"])
    session = jaskel.post(f"/api/episodes/{made}/sessions", {"recordings": ids}, 201)
    jaskel.work()
    session = jaskel.get(f"/api/episodes/{made}")["sessions"][0]
    for number, name in enumerate(("Ada Lund", "Ben Orr")):
        change(jaskel, session, number, voice=name)
    says = {0: [*range(24), *range(48, 64)], 1: range(24, 48)}
    for number, quarters in says.items():
        words = [Word("word", n * RATE // 4, n * RATE // 4 + RATE // 5) for n in quarters]
        jaskel.words(ids[number], words)
    jaskel.post(f"/api/sessions/{session['id']}/join")
    jaskel.work()
    episode = jaskel.get(f"/api/episodes/{made}")
    voices = {voice["name"].split()[0]: voice["id"] for voice in episode["voices"]}
    return {"episode": episode, "edition": episode["editions"][0]["id"], "voices": voices, "cameras": ids[2:]}


def shots(jaskel, talk, query=""):
    return jaskel.get(f"/api/editions/{talk['edition']}/shots{query}")


def who(jaskel, talk):
    names = {id: name for name, id in talk["voices"].items()}
    return [([names[voice] for voice in shot["voices"]], shot["framing"]) for shot in shots(jaskel, talk)["shots"]]


def colours(film: bytes) -> list[np.ndarray]:
    with av.open(io.BytesIO(film)) as opened:
        return [frame.to_ndarray(format="rgb24") for frame in opened.decode(video=0)]


def test_cameras_show_whom_their_names_say_and_shots_follow(jaskel, talk):
    found = shots(jaskel, talk)
    assert len(found["shots"]) == 1 and sorted(found["seen"]) == sorted(talk["voices"].values()) and found["turns"] == 0
    head = operate(jaskel, talk["edition"], kind="shot rules", rules=FOLLOWING)
    assert shots(jaskel, talk)["turns"] == 3
    assert head["shots"]["follow"] and who(jaskel, talk) == [(["Ada"], "single"), (["Ben"], "single"), (["Ada"], "single")]
    assert len(shots(jaskel, talk, f"?shortest={10 * RATE}")["shots"]) == 1
    layers = jaskel.get(f"/api/editions/{talk['edition']}/plan")["layers"]
    assert [layer["views"][0]["recording"] for layer in layers] == [talk["cameras"][n] for n in (0, 1, 0)]
    assert operate(jaskel, talk["edition"], 422, kind="shot rules", rules=FOLLOWING)["code"] == "nothing-changed"
    turn(jaskel, talk["edition"], "undo")
    assert len(shots(jaskel, talk)["shots"]) == 1


def test_what_is_chosen_stays_until_it_is_let_go(jaskel, talk):
    operate(jaskel, talk["edition"], kind="shot rules", rules=FOLLOWING)
    both = [*talk["voices"].values()]
    chosen = [{"begin": 7 * RATE, "end": 10 * RATE}]
    operate(jaskel, talk["edition"], kind="shot", ranges=chosen, framing="side by side", voices=both)
    assert [shot["by_hand"] for shot in shots(jaskel, talk)["shots"]] == [False, False, True, False, False]
    operate(jaskel, talk["edition"], kind="shot rules", rules=FOLLOWING | {"shortest": 5 * RATE})
    assert any(shot["by_hand"] and shot["voices"] == both for shot in shots(jaskel, talk)["shots"])
    operate(jaskel, talk["edition"], kind="shot", ranges=chosen, framing=None)
    assert not any(shot["by_hand"] for shot in shots(jaskel, talk)["shots"])
    told = operate(jaskel, talk["edition"], 422, kind="shot", ranges=chosen, framing=None)
    assert told["code"] == "nothing-changed"
    assert operate(jaskel, talk["edition"], 422, kind="shot", ranges=chosen, framing="oval")["code"] == "no-framing"


def test_the_film_shows_what_the_plan_says(jaskel, talk):
    operate(jaskel, talk["edition"], kind="shot rules", rules=FOLLOWING)
    ranges = [{"begin": 13 * RATE, "end": 15 * RATE}]
    operate(jaskel, talk["edition"], kind="shot", ranges=ranges, framing="side by side", voices=[*talk["voices"].values()])
    frames = colours(exported(jaskel, talk["episode"], "mp4"))
    changed = shots(jaskel, talk)["shots"][1]["at"]
    for number, frame in enumerate(frames):
        at = frame_start(number, Fraction(25))
        left, right = frame[90, 20].argmax(), frame[90, -20].argmax()
        if 13 * RATE <= at < 15 * RATE:
            assert (left, right) == (0, 2), number
        elif abs(at - changed) > RATE // 25 and abs(at - 12 * RATE) > RATE // 2:
            assert left == right == (2 if changed <= at < 12 * RATE else 0), number


def test_it_comes_closer_where_that_is_wanted(jaskel, talk):
    ranges = [{"begin": 2 * RATE, "end": 4 * RATE}]
    operate(jaskel, talk["edition"], kind="punch in", ranges=ranges, percent=25, slowly=True)
    (closer,) = shots(jaskel, talk)["closer"]
    assert (closer["begin"], closer["end"], closer["percent"], closer["slowly"]) == (2 * RATE, 4 * RATE, 25, True)
    assert closer["beyond"] == 25  # the film is as large as the recording
    (view,) = jaskel.get(f"/api/editions/{talk['edition']}/plan")["layers"][1]["views"]
    assert [round(crop["box"][2], 2) for crop in view["crops"]] == [1.0, 0.8]
    operate(jaskel, talk["edition"], kind="punch in", ranges=ranges, percent=0)
    assert shots(jaskel, talk)["closer"] == []


def test_faces_are_looked_for_when_a_film_comes_and_stay_in(jaskel, tmp_path):
    episode = jaskel.episode()
    source = excerpt(tmp_path / "sail.mp4", "mending-a-sail.mp4", 20).read_bytes()
    jaskel.client.post(f"/api/episodes/{episode['id']}/recordings?name=sail.mp4&transcribe=false", data=source)
    jaskel.work("prepare", "picture")
    edition = {"edition": episode["editions"][0]["id"]}
    assert shots(jaskel, edition)["unlooked"] == 1
    jaskel.work("faces")
    assert shots(jaskel, edition)["unlooked"] == 0
    operate(jaskel, edition["edition"], kind="shape", shape="upright")
    views = [view for layer in jaskel.get(f"/api/editions/{edition['edition']}/plan")["layers"] for view in layer["views"]]
    assert all(0.3 < crop["box"][0] + crop["box"][2] / 2 < 0.7 for view in views for crop in view["crops"])
    assert jaskel.post(f"/api/editions/{edition['edition']}/faces", {}, 202)["jobs"] == []


def test_an_edition_without_pictures_has_no_shots(jaskel, tmp_path):
    episode = jaskel.episode()
    nothing = {"shots": [], "closer": [], "seen": [], "turns": 0, "unlooked": 0}
    assert shots(jaskel, {"edition": episode["editions"][0]["id"]}) == nothing
    jaskel.upload(episode["id"], write_media(tmp_path / "talk.flac", noise(3, 1)))
    jaskel.work("prepare")
    assert shots(jaskel, {"edition": episode["editions"][0]["id"]}) == nothing


def test_no_connection_stays_open_behind_a_plan_that_is_kept(jaskel, talk):
    """The plan of an edit is kept, and what is said is only read for it when somebody asks who is seen."""
    pool = jaskel.client.application.extensions["jaskel"].workshop.home.database.engine.pool
    for shortest in (RATE, 2 * RATE, 3 * RATE):
        operate(jaskel, talk["edition"], kind="shot rules", rules=FOLLOWING | {"shortest": shortest})
        shots(jaskel, talk)
        assert pool.checkedout() == 0
