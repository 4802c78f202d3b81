"""Music under the words: where it begins and ends, how it goes down under speech, and the library it comes from."""

from __future__ import annotations

import numpy as np
import pytest
from conftest import RATE, write_media
from test_marks_follow import sound
from test_retyping import operate, turn
from test_sessions import noise, speech

from jaskel.core.transcript import Word


@pytest.fixture
def laid(jaskel, tmp_path):
    """Twenty seconds of words from 2 to 8 and from 12 to 18 s, and ten seconds of steady music."""
    made = jaskel.episode()
    recording = jaskel.upload(made["id"], write_media(tmp_path / "talk.flac", speech(20, 7) * 0.2))["id"]
    music = jaskel.upload(made["id"], write_media(tmp_path / "hum.flac", noise(10, 3) * 0.5))["id"]
    jaskel.work("prepare")
    assert jaskel.client.patch(f"/api/recordings/{music}", json={"kind": "music"}).status_code == 200
    words = [Word(f"word{i}.", i * RATE, i * RATE + RATE * 9 // 10) for i in (*range(2, 8), *range(12, 18))]
    jaskel.words(recording, words)
    edition = made["editions"][0]["id"]
    return {"id": made["id"], "edition": edition, "recording": recording, "music": music}


def lay(jaskel, laid, begins, ends=None, **settings):
    return operate(jaskel, laid["edition"], kind="bed", recording=laid["music"], begins=begins, ends=ends, **settings)


def level(heard, begin, end):
    part = heard[round(begin * RATE) : round(end * RATE)]
    return 10 * np.log10(np.mean(part**2) + 1e-12)


def test_music_before_the_first_word_makes_the_programme_longer(jaskel, laid):
    before = jaskel.get(f"/api/editions/{laid['edition']}")["running_time"]
    head = lay(jaskel, laid, {"to": "beginning", "offset": -4 * RATE}, duck=0)
    assert head["running_time"] == before + 4 * RATE
    plan = jaskel.get(f"/api/editions/{laid['edition']}/plan")
    assert plan["spans"][0]["at"] == 4 * RATE and plan["layers"][0]["until"] == plan["length"]
    (bed,) = plan["beds"]
    assert (bed["at"], bed["until"]) == (0, 10 * RATE)
    heard = sound(jaskel, laid["edition"])
    assert len(heard) == head["running_time"]
    assert level(heard, 1, 3.5) > -40 and level(heard, 10.2, 11) < level(heard, 1, 3.5) + 30
    assert turn(jaskel, laid["edition"], "undo")["running_time"] == before


def test_it_is_down_before_the_first_word_and_stays_down_in_short_rests(jaskel, laid):
    lay(jaskel, laid, {"to": "beginning"}, {"to": "end"}, loop=True, duck=12)
    (bed,) = jaskel.get(f"/api/editions/{laid['edition']}/plan")["beds"]
    down = [at for at, decibels in (each.values() for each in bed["ride"]) if decibels == -12]
    # Two stretches of speech, four seconds apart: down, up between them, down again, up.
    assert len(bed["ride"]) == 8 and len(down) == 4
    assert down[0] <= 2 * RATE - RATE // 20 and down[2] <= 12 * RATE - RATE // 20


def test_it_follows_its_word_and_ends_with_one(jaskel, laid):
    head = lay(jaskel, laid, {"to": "word", "at": 12 * RATE}, {"to": "word", "at": round(15.9 * RATE)}, duck=0)
    (bed,) = jaskel.get(f"/api/editions/{laid['edition']}/plan")["beds"]
    assert (bed["at"], bed["until"]) == (12 * RATE, round(15.9 * RATE))
    operate(jaskel, laid["edition"], kind="strike", ranges=[{"begin": 5 * RATE, "end": 8 * RATE}], why="by hand")
    (bed,) = jaskel.get(f"/api/editions/{laid['edition']}/plan")["beds"]
    assert abs(bed["at"] - 9 * RATE) < RATE // 20
    assert head["beds"][0]["begins"] == {"to": "word", "at": 12 * RATE, "offset": 0}


def test_an_edit_changes_only_the_blocks_it_touches_under_a_bed(jaskel, laid):
    lay(jaskel, laid, {"to": "beginning"}, {"to": "word", "at": 8 * RATE}, duck=0)
    keys = {block["key"] for block in jaskel.get(f"/api/editions/{laid['edition']}/blocks")["blocks"]}
    operate(jaskel, laid["edition"], kind="strike", ranges=[{"begin": 16 * RATE, "end": 17 * RATE}], why="by hand")
    now = {block["key"] for block in jaskel.get(f"/api/editions/{laid['edition']}/blocks")["blocks"]}
    assert len(keys - now) <= 3 and len(keys & now) >= 6


def test_it_is_changed_and_taken_off(jaskel, laid):
    head = lay(jaskel, laid, {"to": "beginning"})
    bed = head["beds"][0]
    head = operate(
        jaskel, laid["edition"], kind="bed", id=bed["id"], recording=laid["music"], begins=bed["begins"], decibels=-20
    )
    assert [each["decibels"] for each in head["beds"]] == [-20]
    assert operate(jaskel, laid["edition"], kind="bed off", id=bed["id"])["beds"] == []
    assert operate(jaskel, laid["edition"], 422, kind="bed off", id=bed["id"])["code"] == "no-bed"


@pytest.mark.parametrize(
    ("change", "code"),
    [
        ({"recording": "elsewhere"}, "no-recording"),
        ({"begins": {"to": "word", "at": 500 * RATE}}, "no-word"),
        ({"id": "gone"}, "no-bed"),
        ({"duck": 90}, "not-understood"),
    ],
)
def test_what_cannot_be_is_told(jaskel, laid, change, code):
    wanted = {"recording": laid["music"], "begins": {"to": "beginning"}, **change}
    assert operate(jaskel, laid["edition"], 422, kind="bed", **wanted)["code"] == code


class TestLibrary:
    def test_it_has_what_it_says_and_chooses_what_ends_with_its_place(self, jaskel):
        kinds = [each["kind"] for each in jaskel.get("/api/sounds")["sounds"]]
        assert {kind: kinds.count(kind) for kind in kinds} == {"theme": 1, "bed": 5, "ambience": 4, "sting": 6}
        choice = jaskel.get(f"/api/sounds/choice?length={30 * RATE}&kind=bed&moods=calm")
        assert "calm" in choice["sound"]["moods"] and choice["start"] == choice["sound"]["length"] - 30 * RATE
        assert jaskel.get(f"/api/sounds/choice?length={300 * RATE}&kind=bed")["loop"]

    def test_one_is_heard_under_the_words_and_taken(self, jaskel, laid):
        heard = jaskel.get(f"/api/editions/{laid['edition']}/under?sound=planks&at={2 * RATE}").data
        assert len(heard) == 44 + 8 * RATE * 4
        assert jaskel.get(f"/api/editions/{laid['edition']}")["beds"] == []
        taken = jaskel.post(f"/api/episodes/{laid['id']}/sounds", {"sound": "planks"}, 201)
        assert taken["kind"] == "music"
        jaskel.work("prepare")
        again = jaskel.post(f"/api/episodes/{laid['id']}/sounds", {"sound": "planks"}, 201)
        assert again["id"] == taken["id"]
        laid = {**laid, "music": taken["id"]}
        lay(jaskel, laid, {"to": "beginning"}, {"to": "end", "offset": 30 * RATE}, loop=True)
        assert jaskel.get(f"/api/editions/{laid['edition']}")["running_time"] == 50 * RATE
