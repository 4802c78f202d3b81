"""Files that come in parts: gone on with after a break, and nothing left of what was refused or given up."""

from __future__ import annotations

import base64
import os
import time

import pytest
from conftest import tone, write_media

from jaskel.store.vault import UPLOAD_SECONDS


@pytest.fixture
def content(tmp_path):
    return write_media(tmp_path / "a.wav", tone(3)).read_bytes()


class Sender:
    """Sends a file in parts, as the page does."""

    def __init__(self, jaskel, episode: str, name: str = "a.wav", length: int = 0, **more: str) -> None:
        self._client = jaskel.client
        metadata = {"filename": name, "placed": "true", "transcribe": "false", **more}
        pairs = ",".join(f"{word} {base64.b64encode(value.encode()).decode()}" for word, value in metadata.items())
        headers = {"Upload-Length": str(length), "Upload-Metadata": pairs, "Tus-Resumable": "1.0.0"}
        begun = self._client.post(f"/api/episodes/{episode}/uploads", headers=headers)
        assert begun.status_code == 201, begun.text
        self.url = begun.headers["Location"]

    def come(self) -> int:
        told = self._client.head(self.url)
        assert told.headers["Tus-Resumable"] == "1.0.0" and told.headers["Cache-Control"] == "no-store"
        return int(told.headers["Upload-Offset"])

    def part(self, at: int, content: bytes):
        headers = {"Upload-Offset": str(at), "Content-Type": "application/offset+octet-stream"}
        return self._client.patch(self.url, headers=headers, data=content)

    def finish(self):
        return self._client.post(f"{self.url}/finish")


def left(jaskel) -> list[str]:
    return sorted(path.name for path in (jaskel.workshop.home.vault.root / "uploads").iterdir())


def test_a_file_that_comes_in_parts_becomes_a_recording(jaskel, content):
    episode = jaskel.episode()["id"]
    sender = Sender(jaskel, episode, "Mörtel, naß.wav", len(content))
    for at in range(0, len(content), 100_000):
        answer = sender.part(at, content[at : at + 100_000])
        assert answer.status_code == 204 and int(answer.headers["Upload-Offset"]) == min(at + 100_000, len(content))
    recording = sender.finish()
    assert recording.status_code == 201 and recording.json["name"] == "Mörtel, naß.wav"
    assert left(jaskel) == []
    jaskel.work("prepare")
    (shown,) = jaskel.get(f"/api/episodes/{episode}")["recordings"]
    assert shown["state"] == "ready" and shown["size"] == len(content)


def test_it_goes_on_where_it_broke_off_and_nothing_is_stored_twice(jaskel, content):
    sender = Sender(jaskel, jaskel.episode()["id"], length=len(content))
    sender.part(0, content[:50_000])
    assert sender.come() == 50_000
    again = sender.part(0, content[:50_000])
    assert (again.status_code, again.json["code"], sender.come()) == (409, "wrong-offset", 50_000)
    assert sender.finish().json["code"] == "upload-broken"
    assert sender.come() == 50_000, "what has come stays, though it was finished too early"
    sender.part(50_000, content[50_000:] + b"more than was said")
    assert sender.come() == len(content)
    assert sender.finish().status_code == 201


def test_what_is_refused_leaves_nothing(jaskel, content):
    episode = jaskel.episode()["id"]
    text = Sender(jaskel, episode, "notes.wav", 9)
    text.part(0, b"only text")
    assert text.finish().json["code"] == "not-media"
    assert text.finish().json["code"] == "no-upload"
    for _ in range(2):
        twin = Sender(jaskel, episode, length=len(content))
        twin.part(0, content)
        last = twin.finish()
    assert last.status_code == 409 and last.json["facts"]["recording"]
    assert left(jaskel) == [] and len(jaskel.get(f"/api/episodes/{episode}")["recordings"]) == 1


def test_one_that_is_given_up_leaves_nothing(jaskel, content):
    sender = Sender(jaskel, jaskel.episode()["id"], length=len(content))
    sender.part(0, content[:10_000])
    assert jaskel.client.delete(sender.url).status_code == 204
    assert left(jaskel) == [] and jaskel.client.head(sender.url).status_code == 404


@pytest.mark.parametrize(
    "headers",
    [
        {},
        {"Upload-Length": "-3", "Upload-Metadata": "filename YS53YXY="},
        {"Upload-Length": "9" * 30, "Upload-Metadata": "filename YS53YXY="},
        {"Upload-Length": "10"},
        {"Upload-Length": "10", "Upload-Metadata": "filename %%%"},
        {"Upload-Length": "10", "Upload-Metadata": "filename /w=="},
    ],
)
def test_requests_that_make_no_sense_are_told_so(jaskel, headers):
    episode = jaskel.episode()["id"]
    refused = jaskel.client.post(f"/api/episodes/{episode}/uploads", headers=headers)
    assert refused.status_code in (400, 422) and refused.json["code"] == "bad-request" and left(jaskel) == []


def test_what_nobody_goes_on_with_is_swept_after_a_week(jaskel):
    episode = jaskel.episode()["id"]
    old, fresh = (Sender(jaskel, episode, length=10) for _ in range(2))
    vault = jaskel.workshop.home.vault
    week_ago = time.time() - UPLOAD_SECONDS - 60
    os.utime(vault.upload(old.url.rsplit("/", 1)[1]), (week_ago, week_ago))
    vault.sweep(lambda digest: True)
    assert left(jaskel) == [fresh.url.rsplit("/", 1)[1]]
    assert jaskel.client.head(old.url).status_code == 404
