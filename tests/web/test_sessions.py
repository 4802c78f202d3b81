"""Sessions through the API: proposed, shifted, joined, kept apart."""

from __future__ import annotations

import numpy as np
import pytest
import soundfile
from conftest import DEMO, RATE, tone, write_media

from jaskel.core.plan import Feed
from jaskel.core.source import Recorded
from jaskel.core.transcript import Word
from jaskel.store.models import Recording


def noise(seconds: float, seed: int) -> np.ndarray:
    return np.random.default_rng(seed).normal(0, 0.1, round(seconds * RATE)).astype(np.float32)


def speech(seconds: float, start: float = 0.0) -> np.ndarray:
    sound, rate = soundfile.read(DEMO / "interview-orla.ogg", start=round(start * RATE), frames=round(seconds * RATE))
    assert rate == RATE
    return sound.astype(np.float32)


def gathered(jaskel, tmp_path, *sounds):
    """An episode with files that came together; gives its id and theirs."""
    episode = jaskel.episode()["id"]
    files = [write_media(tmp_path / f"{index}.flac", sound) for index, sound in enumerate(sounds)]
    found = []
    for file in files:
        response = jaskel.client.post(
            f"/api/episodes/{episode}/recordings?name={file.name}&placed=false&transcribe=false", data=file.read_bytes()
        )
        assert response.status_code == 201
        found.append(response.json["id"])
    return episode, found


def proposed(jaskel, tmp_path, *sounds):
    episode, recordings = gathered(jaskel, tmp_path, *sounds)
    made = jaskel.post(f"/api/episodes/{episode}/sessions", {"recordings": recordings}, 201)
    jaskel.work()
    return episode, jaskel.get(f"/api/episodes/{episode}")["sessions"][0] | {"id": made["id"]}


def change(jaskel, session, track, status=200, **what):
    body = {"offset": None, "sounds": None, "voice": None, **what}
    response = jaskel.client.patch(f"/api/sessions/{session['id']}/tracks/{session['tracks'][track]['recording']}", json=body)
    assert response.status_code == status, response.text
    return response.json


def page(jaskel, episode):
    edition = jaskel.get(f"/api/episodes/{episode}")["editions"][0]["id"]
    return jaskel.get(f"/api/editions/{edition}/page")


class TestProposing:
    def test_the_later_one_is_laid_where_its_sound_is(self, jaskel, tmp_path):
        _, session = proposed(jaskel, tmp_path, speech(60, 20), speech(40, 27.25) + noise(40, 1) * 0.01)
        assert session["state"] == "proposed"
        assert abs(session["tracks"][1]["offset"] / RATE - 7.25) < 0.01
        assert session["tracks"][1]["sure"] > 0.5
        assert session["length"] == 60 * RATE

    def test_nothing_is_on_the_page_before_it_is_joined(self, jaskel, tmp_path):
        episode, _ = proposed(jaskel, tmp_path, speech(20, 20), speech(18, 21))
        assert page(jaskel, episode)["passages"] == []

    def test_it_says_when_nothing_can_be_told(self, jaskel, tmp_path):
        _, session = proposed(jaskel, tmp_path, speech(30, 20), noise(30, 3))
        assert session["tracks"][1]["sure"] == 0

    def test_one_alone_is_no_session(self, jaskel, tmp_path):
        episode, (one, _) = gathered(jaskel, tmp_path, tone(2), noise(2, 1))
        told = jaskel.post(f"/api/episodes/{episode}/sessions", {"recordings": [one]}, 422)
        assert "at least two" in told["detail"]

    def test_none_belongs_to_two(self, jaskel, tmp_path):
        episode, session = proposed(jaskel, tmp_path, tone(4), noise(4, 1))
        ids = [track["recording"] for track in session["tracks"]]
        told = jaskel.post(f"/api/episodes/{episode}/sessions", {"recordings": ids}, 422)
        assert told["code"] == "in-a-session"

    def test_kept_apart_while_they_are_compared(self, jaskel, tmp_path):
        episode, recordings = gathered(jaskel, tmp_path, tone(4), noise(4, 1))
        jaskel.work()
        made = jaskel.post(f"/api/episodes/{episode}/sessions", {"recordings": recordings}, 201)
        assert jaskel.client.delete(f"/api/sessions/{made['id']}").status_code == 204
        jaskel.work()
        known = jaskel.get(f"/api/episodes/{episode}")
        assert known["sessions"] == [] and not [j for j in known["jobs"] if j["kind"] == "sync" and j["state"] == "failed"]

    def test_kept_apart_they_stand_one_after_the_other(self, jaskel, tmp_path):
        episode, session = proposed(jaskel, tmp_path, tone(4), noise(6, 1))
        assert jaskel.client.delete(f"/api/sessions/{session['id']}").status_code == 204
        assert page(jaskel, episode)["length"] == 10 * RATE
        assert jaskel.get(f"/api/episodes/{episode}")["sessions"] == []


class TestJoined:
    @pytest.fixture
    def joined(self, jaskel, tmp_path):
        episode, session = proposed(jaskel, tmp_path, tone(10), noise(8, 1))
        change(jaskel, session, 1, offset=3 * RATE)
        change(jaskel, session, 0, voice="Orla Venn")
        for index, track in enumerate(session["tracks"]):
            at = [1, 5] if index == 0 else [1, 6]
            jaskel.words(track["recording"], [Word(f"{index}.{i}", s * RATE, s * RATE + RATE // 2) for i, s in enumerate(at)])
        jaskel.post(f"/api/sessions/{session['id']}/join")
        return episode, session

    def test_both_are_heard_at_their_places(self, jaskel, joined):
        _, session = joined
        read = jaskel.workshop.sound.read
        first, second = (track["recording"] for track in session["tracks"])
        together = jaskel.workshop.heard(Recorded(session["id"]), 2 * RATE, 5 * RATE)
        alone = read(Feed(first), 2 * RATE, 5 * RATE) + read(Feed(second), -RATE, 2 * RATE)
        assert np.abs(together - alone).max() < 1e-6

    def test_the_page_is_one_conversation_with_its_voices(self, jaskel, joined):
        episode, _ = joined
        shown = page(jaskel, episode)
        voices = {voice["id"]: voice["shown"] for voice in jaskel.get(f"/api/episodes/{episode}")["voices"]}
        said = [(voices[p["voice"]], t["text"]) for p in shown["passages"] for t in p["tokens"] if t["k"] == "w"]
        assert said == [("Orla Venn", "0.0"), ("Voice 2", "1.0"), ("Orla Venn", "0.1"), ("Voice 2", "1.1")]
        assert shown["length"] == 11 * RATE

    def test_shifting_a_track_changes_what_is_heard_and_read(self, jaskel, joined):
        episode, session = joined
        edition = jaskel.get(f"/api/episodes/{episode}")["editions"][0]["id"]
        before, words = jaskel.get(f"/api/editions/{edition}/blocks"), page(jaskel, episode)
        change(jaskel, session, 1, offset=2 * RATE)
        assert jaskel.get(f"/api/editions/{edition}/blocks")["blocks"][0]["key"] != before["blocks"][0]["key"]
        assert page(jaskel, episode)["layout"] != words["layout"]

    def test_striking_a_word_strikes_all_staves(self, jaskel, joined):
        episode, _ = joined
        edition = jaskel.get(f"/api/episodes/{episode}")["editions"][0]
        body = {"kind": "strike", "ranges": [{"begin": RATE, "end": 2 * RATE}]}
        revision = jaskel.get(f"/api/editions/{edition['id']}")["revision"]
        head = jaskel.post(f"/api/editions/{edition['id']}/operations", {"revision": revision, "operation": body})
        assert head["running_time"] == 10 * RATE + 480

    def test_a_member_that_overlaps_nothing_is_refused(self, jaskel, joined):
        _, session = joined
        told = change(jaskel, session, 1, 422, offset=100 * RATE)
        assert "overlap no other track" in told["detail"]

    def test_at_least_one_is_heard(self, jaskel, joined):
        _, session = joined
        change(jaskel, session, 0, sounds=False)
        assert change(jaskel, session, 1, 422, sounds=False)["code"] == "silent"

    def test_what_is_not_heard_waits_for_no_words(self, jaskel, joined):
        _, session = joined
        with jaskel.workshop.home.database.write() as stored:
            for recording in stored.query(Recording):
                recording.transcript_state = "none"
        waiting = lambda: jaskel.get("/api/shows")["shows"][0]["episodes"][0]["waiting"]["to_transcribe"]  # noqa: E731
        before = waiting()
        change(jaskel, session, 0, sounds=False)
        assert waiting() == before - 1

    def test_a_track_is_not_removed_by_itself(self, jaskel, joined):
        _, session = joined
        response = jaskel.client.delete(f"/api/recordings/{session['tracks'][0]['recording']}")
        assert response.json["code"] == "in-a-session"

    def test_a_few_seconds_can_be_heard(self, jaskel, joined):
        _, session = joined
        response = jaskel.get(f"/api/sessions/{session['id']}/sound?at=0&length={2 * RATE}")
        assert response.mimetype == "audio/wav"
        assert len(response.data) > 2 * RATE * 4


class TestVoices:
    def test_a_name_is_given_once_and_two_are_merged(self, jaskel, tmp_path):
        episode, session = proposed(jaskel, tmp_path, tone(4), noise(4, 1))
        change(jaskel, session, 0, voice="Orla Venn")
        change(jaskel, session, 1, voice="Orla")
        one, other = jaskel.get(f"/api/episodes/{episode}")["voices"]
        told = jaskel.client.patch(f"/api/voices/{other['id']}", json={"name": "orla venn"})
        assert told.status_code == 422 and told.json["facts"]["voice"] == one["id"]
        assert jaskel.client.post(f"/api/voices/{other['id']}/merge", json={"into": one["id"]}).status_code == 204
        after = jaskel.get(f"/api/episodes/{episode}")
        assert [voice["shown"] for voice in after["voices"]] == ["Orla Venn"]
        assert {track["voice"] for track in after["sessions"][0]["tracks"]} == {one["id"]}


class TestRecordings:
    def test_renaming(self, jaskel, tmp_path):
        _, (one, _) = gathered(jaskel, tmp_path, tone(2), noise(2, 1))
        assert jaskel.client.patch(f"/api/recordings/{one}", json={"name": "Orla, close"}).json["name"] == "Orla, close"

    def test_a_language_without_weights_is_explained(self, jaskel, tmp_path):
        episode = jaskel.episode()
        recording = jaskel.upload(episode["id"], write_media(tmp_path / "a.flac", speech(8, 20)))["id"]
        jaskel.work()
        response = jaskel.client.patch(f"/api/recordings/{recording}", json={"language": "eo"})
        assert response.json["language"] == "eo"
        jaskel.post(f"/api/recordings/{recording}/transcript")
        jaskel.work()
        (known,) = jaskel.get(f"/api/episodes/{episode['id']}")["recordings"]
        assert known["transcript"] == "failed" and "folder of weights" in known["transcript_trouble"]

    def test_what_uses_it_is_shown_before_it_is_removed_and_undo_brings_it_back(self, jaskel, tmp_path):
        episode = jaskel.episode()
        recording = jaskel.upload(episode["id"], write_media(tmp_path / "a.flac", tone(5)))["id"]
        jaskel.work()
        told = jaskel.client.delete(f"/api/recordings/{recording}")
        assert told.json["code"] == "in-use" and "Programme" in told.json["detail"]
        assert jaskel.client.delete(f"/api/recordings/{recording}?from_page=true").status_code == 204
        assert page(jaskel, episode["id"])["length"] == 0
        edition = episode["editions"][0]["id"]
        revision = jaskel.get(f"/api/editions/{edition}")["revision"]
        jaskel.post(f"/api/editions/{edition}/undo", {"revision": revision})
        assert page(jaskel, episode["id"])["length"] == 5 * RATE
