"""What episodes take on the disk; what was made of originals is cleared, and comes again as it was."""

from __future__ import annotations

import pytest
from conftest import RATE, tone, write_media
from test_retyping import operate

from jaskel.core.plan import Feed
from jaskel.core.problem import Missing
from jaskel.store.models import Job, TrackRow


@pytest.fixture
def episode(jaskel, tmp_path):
    """An episode with a film and a sound, a cut, and a chain."""
    made = jaskel.episode()
    jaskel.upload(made["id"], write_media(tmp_path / "film.mp4", tone(4), pictures=100))
    jaskel.upload(made["id"], write_media(tmp_path / "a.flac", tone(5, 300)))
    jaskel.work()
    edition = made["editions"][0]["id"]
    operate(jaskel, edition, kind="strike", ranges=[{"begin": RATE, "end": 2 * RATE}], reason="by hand")
    jaskel.work()
    return jaskel.get(f"/api/episodes/{made['id']}")


def taken(jaskel, episode):
    return next(each for each in jaskel.get("/api/room")["episodes"] if each["episode"] == episode["id"])


def heard(jaskel, episode):
    edition = episode["editions"][0]["id"]
    blocks = jaskel.get(f"/api/editions/{edition}/blocks")["blocks"]
    return [jaskel.client.get(f"/api/editions/{edition}/sound/{each['key']}").data for each in blocks]


def clear(jaskel, episode, status=200):
    return jaskel.post(f"/api/episodes/{episode['id']}/clear", {}, status)


def test_what_is_cleared_comes_again_as_it_was(jaskel, episode):
    before, sounded = taken(jaskel, episode), heard(jaskel, episode)
    assert before["originals"] and before["clearable"] > 100_000 and not before["cleared"]
    assert clear(jaskel, episode)["bytes"] == before["clearable"]
    after = taken(jaskel, episode)
    assert after["cleared"] and after["clearable"] == 0 and after["originals"] == before["originals"]
    assert clear(jaskel, episode)["bytes"] == 0
    # Opened, it is made again.
    opened = jaskel.get(f"/api/episodes/{episode['id']}")
    assert {each["state"] for each in opened["recordings"]} == {"preparing"}
    jaskel.work()
    opened = jaskel.get(f"/api/episodes/{episode['id']}")
    assert [(each["state"], each["working_copy"]) for each in opened["recordings"]] == [("ready", True), ("ready", False)]
    assert heard(jaskel, episode) == sounded
    assert taken(jaskel, episode)["clearable"] == before["clearable"]


def test_a_track_whose_clock_drifts_is_made_again_as_its_session_has_it(jaskel, tmp_path):
    made = jaskel.episode()
    recording = jaskel.upload(made["id"], write_media(tmp_path / "a.flac", tone(20)))["id"]
    other = jaskel.upload(made["id"], write_media(tmp_path / "b.flac", tone(20) * 0.5))["id"]
    jaskel.work()
    jaskel.post(f"/api/episodes/{made['id']}/sessions", {"recordings": [recording, other]}, 201)
    jaskel.work()
    vault = jaskel.workshop.home.vault
    with jaskel.workshop.home.database.write() as session:
        track = session.get_one(TrackRow, other)
        track.drift = 40e-6
        digest = track.recording.digest
    clear(jaskel, made)
    assert not vault.sound(digest, 40e-6).exists()
    jaskel.get(f"/api/episodes/{made['id']}")
    jaskel.work()
    assert vault.sound(digest, 40e-6).exists()


def test_what_another_episode_needs_is_kept(jaskel, episode):
    copy = jaskel.post(f"/api/episodes/{episode['id']}/duplicate", {"title": "Copy", "template": False}, 201)
    assert clear(jaskel, episode)["bytes"] == 0
    assert heard(jaskel, copy) == heard(jaskel, episode)


def test_nothing_is_cleared_while_something_is_done(jaskel, episode):
    with jaskel.workshop.home.database.write() as session:
        session.add(Job(kind="export", episode_id=episode["id"], subject="x", state="running"))
    assert clear(jaskel, episode, 422)["code"] == "at-work"


def test_what_is_not_there_is_told_where_it_is_heard(jaskel, episode):
    clear(jaskel, episode)
    with pytest.raises(Missing, match="made again"):
        jaskel.workshop.sound.read(Feed(episode["recordings"][1]["id"]), 0, RATE)


def test_finished_exports_count(jaskel, episode):
    jaskel.post(f"/api/editions/{episode['editions'][0]['id']}/exports", {"form": "wav"}, 202)
    jaskel.work()
    (made,) = jaskel.get(f"/api/episodes/{episode['id']}")["exports"]
    assert taken(jaskel, episode)["exports"] == made["size"]
