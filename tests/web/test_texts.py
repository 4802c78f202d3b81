"""Bringing a text through the API: shown before it is taken, fitted, compared, and taken back."""

from __future__ import annotations

import pytest
from conftest import RATE, truth, write_media
from test_retyping import turn
from test_sessions import page, speech

from jaskel.core.transcript import Word
from jaskel.store.models import Recording

SAID = [w for w in truth("interview")["words"] if w["voice"] == "orla" and w["start"] > 15 and w["end"] < 45]


@pytest.fixture
def recording(jaskel, tmp_path):
    episode = jaskel.episode()
    jaskel.upload(episode["id"], write_media(tmp_path / "a.flac", speech(30, 15)))
    jaskel.work()
    return jaskel.get(f"/api/episodes/{episode['id']}")["recordings"][0] | {"episode": episode["id"]}


def bring(jaskel, recording, text, name="script.txt", status=201):
    response = jaskel.client.post(f"/api/recordings/{recording['id']}/texts?name={name}", data=text.encode())
    assert response.status_code == status, response.text
    return response.json


def take(jaskel, text, **how):
    jaskel.post(f"/api/texts/{text['id']}/take", {"own_times": False, **how}, 202)
    jaskel.work()


def read(jaskel, recording):
    shown = page(jaskel, recording["episode"])
    return [t["text"] for p in shown["passages"] for t in p["tokens"] if t["k"] == "w"]


def brought(jaskel, recording):
    return jaskel.get(f"/api/episodes/{recording['episode']}")["texts"][0]


def test_it_is_shown_as_it_was_understood_before_anything_changes(jaskel, recording):
    text = bring(jaskel, recording, "ORLA: Welcome to Ropewalk.\nTEO: Thank you.\nORLA: So.", "talk.txt")
    assert (text["form"], text["words"], text["voices"], text["state"]) == ("plain text", 6, ["Orla", "Teo"], "seen")
    assert read(jaskel, recording) == []


def test_without_a_transcript_it_becomes_one(jaskel, recording):
    text = " ".join(w["text"] for w in SAID)
    take(jaskel, bring(jaskel, recording, f"ORLA: {text}\nORLA: Mind the tide when you go home."))
    done = brought(jaskel, recording)
    assert done["state"] == "taken" and done["share"] > 0.7
    assert done["unspoken"] == ["Mind the tide when you go home."]
    assert "Ropewalk," in read(jaskel, recording)
    shown = jaskel.get(f"/api/episodes/{recording['episode']}")
    assert [voice["shown"] for voice in shown["voices"]] == ["Orla"]
    assert shown["recordings"][0]["transcript"] == "done"


def test_it_takes_the_place_of_a_transcript_and_undo_brings_that_back(jaskel, recording):
    words = [Word(w["text"].lower(), *(round((w[e] - 15) * RATE) for e in ("start", "end")), 0.4) for w in SAID]
    jaskel.words(recording["id"], words)
    before = read(jaskel, recording)
    take(jaskel, bring(jaskel, recording, " ".join(w["text"] for w in SAID)))
    assert "Ropewalk," in read(jaskel, recording)
    turn(jaskel, jaskel.get(f"/api/episodes/{recording['episode']}")["editions"][0]["id"], "undo")
    assert read(jaskel, recording) == before


def test_one_that_does_not_belong_is_said_and_nothing_changes(jaskel, recording):
    take(jaskel, bring(jaskel, recording, "the quick brown fox jumps over the lazy dog " * 8))
    assert "does not belong" in brought(jaskel, recording)["trouble"]
    assert read(jaskel, recording) == []


def test_captions_with_times_in_any_language(jaskel, recording):
    with jaskel.workshop.home.database.write() as session:
        session.get_one(Recording, recording["id"]).language = "he"
    take(jaskel, bring(jaskel, recording, "1\n00:00:01,000 --> 00:00:03,000\nשלום לך\n", "a.srt"), own_times=True)
    tokens = [t for p in page(jaskel, recording["episode"])["passages"] for t in p["tokens"] if t["k"] == "w"]
    assert [t["text"] for t in tokens] == ["שלום", "לך"]
    assert tokens[0]["at"] == RATE and tokens[-1]["at"] + tokens[-1]["len"] == 3 * RATE


def test_without_weights_and_times_it_says_what_is_missing(jaskel, recording):
    with jaskel.workshop.home.database.write() as session:
        session.get_one(Recording, recording["id"]).language = "eo"
    take(jaskel, bring(jaskel, recording, "Bonan tagon"))
    assert "No weights for the language" in brought(jaskel, recording)["trouble"]


def test_bad_input_is_told(jaskel, recording):
    assert "no words" in bring(jaskel, recording, "", status=422)["detail"]
    text = bring(jaskel, recording, "only text")
    told = jaskel.post(f"/api/texts/{text['id']}/take", {"own_times": True}, 422)
    assert "no times of its own" in told["detail"]


def test_put_away(jaskel, recording):
    text = bring(jaskel, recording, "only text")
    assert jaskel.client.delete(f"/api/texts/{text['id']}").status_code == 204
    assert jaskel.get(f"/api/episodes/{recording['episode']}")["texts"] == []


def test_a_text_that_was_removed_comes_back(jaskel, recording):
    text = bring(jaskel, recording, "only text")
    jaskel.client.delete(f"/api/texts/{text['id']}")
    assert jaskel.client.post(f"/api/texts/{text['id']}/take", json={}).status_code == 404
    jaskel.post(f"/api/texts/{text['id']}/restore", status=204)
    assert jaskel.get(f"/api/episodes/{recording['episode']}")["texts"] == [text]
