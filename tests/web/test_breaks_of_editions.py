"""Breaks for advertising: between words, with a fade and a sting, found in exports."""

from __future__ import annotations

import io
import json

import numpy as np
import pytest
import soundfile
from conftest import RATE, tone, write_media
from mutagen.id3 import ID3
from test_retyping import operate, turn

from jaskel.core.transcript import Word

SECONDS = 30


@pytest.fixture
def talk(jaskel, tmp_path):
    """An edition with a word in each second, each half a second long."""
    episode = jaskel.episode()["id"]
    loud = np.concatenate([np.concatenate([np.full(RATE // 2, 0.3), np.full(RATE // 2, 0.001)]) for _ in range(SECONDS)])
    wave = (loud * np.sin(np.arange(len(loud)) * 0.05)).astype(np.float32)
    recording = jaskel.upload(episode, write_media(tmp_path / "talk.wav", wave))["id"]
    jaskel.work()
    jaskel.words(recording, [Word(f"word{n}.", n * RATE, n * RATE + RATE // 2) for n in range(SECONDS)])
    edition = jaskel.get(f"/api/episodes/{episode}")["editions"][0]["id"]
    return episode, edition


def exported(jaskel, edition, form):
    job = jaskel.post(f"/api/editions/{edition}/exports", {"form": form}, 202)
    jaskel.work("export")
    return jaskel.client.get(f"/api/exports/{job['id']}/file").data


def heard(jaskel, edition):
    sound, _ = soundfile.read(io.BytesIO(exported(jaskel, edition, "wav")))
    return sound[:, 0] if sound.ndim > 1 else sound


def test_it_is_silent_between_two_words_and_none_of_them_is_faded(jaskel, talk):
    _, edition = talk
    before = heard(jaskel, edition)
    head = operate(jaskel, edition, kind="break", at=10 * RATE + 100, length=3 * RATE, fade=RATE // 2)
    (made,) = head["breaks"]
    assert made["length"] == pytest.approx(3 * RATE, abs=RATE)
    after = heard(jaskel, edition)
    begin = made["at"] + RATE // 2
    assert float(np.abs(after[begin : begin + 2 * RATE]).max()) < 1e-4
    # The words beside it are as loud as they were: that before it in its place, the one after it later.
    assert np.allclose(after[9 * RATE : 9 * RATE + RATE // 2], before[9 * RATE : 9 * RATE + RATE // 2], atol=1e-3)
    shift = len(after) - len(before)
    word = slice(10 * RATE + 500, 10 * RATE + RATE // 2)
    assert np.allclose(after[word.start + shift : word.stop + shift], before[word], atol=1e-3)


def test_a_sting_sounds_where_it_begins(jaskel, talk, tmp_path):
    episode, edition = talk
    sting = jaskel.upload(episode, write_media(tmp_path / "sting.wav", tone(1.0)))["id"]
    jaskel.work()
    head = operate(jaskel, edition, kind="break", at=10 * RATE, length=3 * RATE, fade=0, sting=sting)
    (made,) = head["breaks"]
    sound = heard(jaskel, edition)
    assert float(np.abs(sound[made["at"] : made["at"] + RATE]).max()) > 0.05
    assert len(head["beds"]) == 1
    head = operate(jaskel, edition, kind="break off", id=made["id"])
    assert head["breaks"] == [] and head["beds"] == []


def test_it_is_found_in_exports_and_taken_out_again(jaskel, talk):
    _, edition = talk
    whole = jaskel.get(f"/api/editions/{edition}")["running_time"]
    at = operate(jaskel, edition, kind="break", at=20 * RATE, length=2 * RATE)["breaks"][0]["at"]
    told = json.loads(exported(jaskel, edition, "chapters"))["chapters"]
    assert [(each["title"], each.get("toc", True)) for each in told] == [
        ("The dry hull", True),
        ("Break", False),
        ("The dry hull", True),
    ]
    assert told[1]["startTime"] == pytest.approx(at / RATE, abs=0.01)
    frames = ID3(io.BytesIO(exported(jaskel, edition, "mp3"))).getall("CHAP")
    assert [each.sub_frames["TIT2"].text[0] for each in frames] == ["The dry hull", "Break", "The dry hull"]
    head = turn(jaskel, edition, "undo")
    assert head["breaks"] == [] and head["running_time"] == whole
    made = turn(jaskel, edition, "redo")["breaks"]
    head = operate(jaskel, edition, kind="break off", id=made[0]["id"])
    assert head["breaks"] == [] and head["running_time"] == pytest.approx(whole, abs=RATE // 2)


def test_what_cannot_be_is_told(jaskel, talk):
    _, edition = talk
    for wrong, code in (({"at": 0}, "no-word"), ({"at": 10**9}, "no-word"), ({"at": 5 * RATE, "sting": "x"}, "no-recording")):
        assert operate(jaskel, edition, 422, kind="break", **wrong)["code"] == code
    assert operate(jaskel, edition, 422, kind="break off", id="x")["code"] == "no-break"
