"""Two voices on left and right of one file become the tracks of a session."""

from __future__ import annotations

import numpy as np
import pytest
from conftest import RATE, write_media
from test_sessions import noise, proposed, speech

from jaskel.core.plan import Feed
from jaskel.media.analysis import turned


def test_each_side_becomes_a_track_in_time_and_the_file_leaves_the_page(jaskel, tmp_path):
    made = jaskel.episode()
    sides = np.stack([speech(12, 20), speech(12, 60)], axis=1)
    recording = jaskel.upload(made["id"], write_media(tmp_path / "pair.wav", sides))["id"]
    jaskel.work("prepare")
    edition = made["editions"][0]["id"]
    assert jaskel.edition(edition).recordings == (recording,)
    jaskel.post(f"/api/recordings/{recording}/sides", None, 202)
    jaskel.work()
    (session,) = jaskel.get(f"/api/episodes/{made['id']}")["sessions"]
    assert session["state"] == "proposed" and [track["offset"] for track in session["tracks"]] == [0, 0]
    for index, track in enumerate(session["tracks"]):
        heard = jaskel.workshop.sound.read(Feed(track["recording"]), 0, 12 * RATE)
        assert np.abs(heard[:, 0] - np.clip(sides[:, index], -1, 1)).max() < 1e-4
    assert jaskel.edition(edition).recordings == ()
    jaskel.post(f"/api/sessions/{session['id']}/join")
    assert jaskel.edition(edition).recordings == (session["id"],)


def test_one_voice_on_both_sides_is_told_and_nothing_is_made(jaskel, tmp_path):
    made = jaskel.episode()
    voice = speech(6, 20)
    recording = jaskel.upload(made["id"], write_media(tmp_path / "same.wav", np.stack([voice, voice * 0.9], axis=1)))["id"]
    mono = jaskel.upload(made["id"], write_media(tmp_path / "mono.wav", noise(3, 1)))["id"]
    jaskel.work("prepare")
    jaskel.post(f"/api/recordings/{recording}/sides", None, 202)
    jaskel.work("sides")
    episode = jaskel.get(f"/api/episodes/{made['id']}")
    job = next(each for each in episode["jobs"] if each["kind"] == "sides")
    assert job["state"] == "failed" and "same voice" in job["trouble"]
    assert len(episode["recordings"]) == 2 and not episode["sessions"]
    assert jaskel.post(f"/api/recordings/{mono}/sides", None, 422)["code"] == "one-side"


def room(turned):
    """Two microphones, each with its voice and a little of the other, 3 ms later; the second may be the other way round."""
    one, other = speech(12, 20), speech(12, 60)
    leak = lambda voice: np.concatenate([np.zeros(144, np.float32), voice[:-144]]) * 0.15  # noqa: E731
    second = other + leak(one) + noise(12, 4) * 0.001
    return np.stack([one + leak(other) + noise(12, 5) * 0.001, -second if turned else second], axis=1) * 0.5


@pytest.mark.parametrize("other_way", [False, True])
def test_a_microphone_that_was_the_other_way_round_is_turned_over(jaskel, tmp_path, other_way):
    made = jaskel.episode()
    sides = room(other_way)
    recording = jaskel.upload(made["id"], write_media(tmp_path / "pair.wav", sides))["id"]
    jaskel.work("prepare")
    jaskel.post(f"/api/recordings/{recording}/sides", None, 202)
    jaskel.work()
    (session,) = jaskel.get(f"/api/episodes/{made['id']}")["sessions"]
    heard = jaskel.workshop.sound.read(Feed(session["tracks"][1]["recording"]), 0, 12 * RATE)[:, 0]
    assert np.abs(heard - room(False)[:, 1]).max() < 1e-4


def test_what_stands_for_nothing_is_turned_over_for_nothing():
    one, other = speech(12, 20), speech(12, 60)
    assert not turned([(one, other)]) and not turned([(one, np.zeros_like(one))])


def test_a_track_that_works_against_the_other_is_suggested_to_be_turned_over(jaskel, tmp_path):
    sides = room(turned=True)
    episode, session = proposed(jaskel, tmp_path, sides[:, 0], sides[:, 1])
    jaskel.post(f"/api/sessions/{session['id']}/join")
    edition = jaskel.get(f"/api/episodes/{episode}")["editions"][0]["id"]
    first, second = (track["recording"] for track in session["tracks"])
    found = jaskel.get(f"/api/editions/{edition}/suggestion?track={second}")
    assert found["chain"][0]["kind"] == "polarity" and any("against" in each for each in found["found"])
    assert not any(
        each["kind"] == "polarity" for each in jaskel.get(f"/api/editions/{edition}/suggestion?track={first}")["chain"]
    )
