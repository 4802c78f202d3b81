"""Takes through the API: chunk by chunk, twice, out of order, broken off."""

from __future__ import annotations

import pytest
from conftest import RATE, tone, write_media


@pytest.fixture
def episode(jaskel):
    return jaskel.episode()["id"]


@pytest.fixture
def content(tmp_path) -> bytes:
    return write_media(tmp_path / "a.webm", tone(4), codec="libopus").read_bytes()


def begin(jaskel, episode):
    return jaskel.post(f"/api/episodes/{episode}/takes", {"name": ""}, 201)


def put(jaskel, take, number, content, status=200):
    response = jaskel.client.put(f"/api/takes/{take['id']}/chunks/{number}", data=content)
    assert response.status_code == status, response.text
    return response.json


def takes(jaskel, episode):
    return jaskel.get(f"/api/episodes/{episode}")["takes"]


def test_chunks_become_a_recording(jaskel, episode, content):
    take = begin(jaskel, episode)
    for number in range(4):
        put(jaskel, take, number, content[number * 4000 : (number + 1) * 4000])
    put(jaskel, take, 4, content[16_000:])
    assert takes(jaskel, episode)[0]["size"] == len(content)
    recording = jaskel.post(f"/api/takes/{take['id']}/finish", status=201)
    assert recording["name"] == "Take 1.webm"
    jaskel.work()
    (known,) = jaskel.get(f"/api/episodes/{episode}")["recordings"]
    assert known["state"] == "ready" and abs(known["length"] - 4 * RATE) < 0.1 * RATE
    assert takes(jaskel, episode) == []


def test_a_chunk_sent_twice_is_stored_once(jaskel, episode, content):
    take = begin(jaskel, episode)
    for _ in range(2):
        assert put(jaskel, take, 0, content)["size"] == len(content)
    jaskel.post(f"/api/takes/{take['id']}/finish", status=201)


def test_a_missing_chunk_is_noticed(jaskel, episode, content):
    take = begin(jaskel, episode)
    assert put(jaskel, take, 1, content, 422)["facts"]["next"] == 0


def test_what_was_stored_of_a_take_that_broke_off_is_used(jaskel, episode, content):
    take = begin(jaskel, episode)
    put(jaskel, take, 0, content[: len(content) * 2 // 3])
    jaskel.post(f"/api/takes/{take['id']}/finish", status=201)
    jaskel.work()
    (known,) = jaskel.get(f"/api/episodes/{episode}")["recordings"]
    assert known["length"] > 1.5 * RATE


def test_a_take_without_a_sound_stays_to_be_discarded(jaskel, episode):
    take = begin(jaskel, episode)
    assert "empty" in jaskel.post(f"/api/takes/{take['id']}/finish", status=422)["detail"]
    assert len(takes(jaskel, episode)) == 1
    assert jaskel.client.delete(f"/api/takes/{take['id']}").status_code == 204
    assert takes(jaskel, episode) == []


def test_takes_are_numbered(jaskel, episode, content):
    first = begin(jaskel, episode)
    assert begin(jaskel, episode)["name"] == "Take 2.webm"
    put(jaskel, first, 0, content)
    jaskel.post(f"/api/takes/{first['id']}/finish", status=201)
    assert begin(jaskel, episode)["name"] == "Take 3.webm"


def test_a_take_that_was_discarded_comes_back_with_all_that_was_stored(jaskel, episode, content):
    take = begin(jaskel, episode)
    put(jaskel, take, 0, content)
    jaskel.client.delete(f"/api/takes/{take['id']}")
    assert takes(jaskel, episode) == []
    put(jaskel, take, 1, content, 404)
    jaskel.post(f"/api/takes/{take['id']}/restore", status=204)
    assert takes(jaskel, episode)[0]["size"] == len(content)
    jaskel.post(f"/api/takes/{take['id']}/finish", status=201)
