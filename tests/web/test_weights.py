"""Weights that are added: tried before they are taken, and used where a recording is to be heard with care."""

from __future__ import annotations

import io
import json
import zipfile

import pytest
from conftest import tone, write_media

from jaskel.jobs.carry_out import MOST_MEMORY, memory_for
from jaskel.jobs.transcribe import own_weights
from jaskel.speech.weights import english_weights
from jaskel.store.models import Job


def begin(jaskel, name="Larger") -> str:
    return jaskel.post("/api/weights", {"name": name}, 201)["id"]


def send(jaskel, weights: str, file: str, body: bytes, status=204):
    return jaskel._checked(jaskel.client.put(f"/api/weights/{weights}/files/{file}", data=body), status)


def known(jaskel, weights: str) -> dict:
    return next(each for each in jaskel.get("/api/weights")["weights"] if each["id"] == weights)


def checked(jaskel, weights: str) -> dict:
    assert jaskel.post(f"/api/weights/{weights}/check", status=202)["state"] == "checking"
    jaskel.work()
    return known(jaskel, weights)


def zipped(files: dict[str, bytes]) -> bytes:
    out = io.BytesIO()
    with zipfile.ZipFile(out, "w", zipfile.ZIP_DEFLATED) as packed:
        for name, body in files.items():
            packed.writestr(name, body)
    return out.getvalue()


def test_what_comes_with_jaskel_is_listed(jaskel):
    english, many = jaskel.get("/api/weights")["weights"]
    assert (english["languages"], english["ships"]) == (["en"], True)
    assert {"de", "it", "ja"} <= set(many["languages"])
    assert english["size"] > 10_000_000
    assert jaskel.client.delete("/api/weights/english").status_code == 404


@pytest.mark.speech
def test_a_zip_of_weights_is_tried_and_hears_what_is_to_be_heard_with_care(jaskel, tmp_path):
    files = {f"weights/{file.name}": file.read_bytes() for file in english_weights().iterdir() if file.is_file()}
    weights = begin(jaskel)
    send(jaskel, weights, "weights.zip", zipped({**files, "../../evil.txt": b"x", "readme.md": b"x"}))
    ready = checked(jaskel, weights)
    assert (ready["state"], ready["languages"], ready["trouble"]) == ("ready", ["en"], "")
    assert ready["speed"] > 0
    folder = jaskel.settings.weights(weights)
    assert {file.name for file in folder.iterdir()} <= {file.split("/")[1] for file in files}

    recording = jaskel.upload(jaskel.episode()["id"], write_media(tmp_path / "a.wav", tone(3)))["id"]

    def change(body, status=200):
        return jaskel._checked(jaskel.client.patch(f"/api/recordings/{recording}", json=body), status)

    change({"language": "it"})
    assert "No larger weights" in change({"care": "careful"}, 422)["detail"]
    change({"language": "en"})
    assert change({"care": "careful"})["care"] == "careful"
    assert own_weights(jaskel.workshop, recording) == folder
    # Their job may have more memory, by what they take.
    assert memory_for(jaskel.workshop, Job(kind="transcribe", subject=recording)) > MOST_MEMORY + ready["size"]
    assert memory_for(jaskel.workshop, Job(kind="prepare", subject=recording)) == MOST_MEMORY

    assert jaskel.client.delete(f"/api/weights/{weights}").status_code == 204
    assert not folder.exists()
    assert own_weights(jaskel.workshop, recording) is None  # heard quick again


@pytest.mark.parametrize(
    ("files", "told"),
    [
        ({"weights.zip": b"no zip"}, "cannot be read"),
        ({"weights.zip": zipped({"song.mp3": b"x"})}, "model.bin and config.json and tokenizer.json are missing"),
        ({"config.json": b"{}", "tokenizer.json": b"{}"}, "model.bin is missing"),
        ({"model.bin": b"junk", "config.json": b"{}", "tokenizer.json": b"{}"}, "cannot be used"),
        ({"model.bin": b"junk", "config.json": b"[", "tokenizer.json": b"{}"}, "cannot be used"),
    ],
)
def test_what_are_no_weights_is_told_and_not_kept(jaskel, files, told):
    weights = begin(jaskel)
    for name, body in files.items():
        send(jaskel, weights, name, body)
    failed = checked(jaskel, weights)
    assert failed["state"] == "failed" and told in failed["trouble"], failed["trouble"]
    assert not jaskel.settings.weights(weights).exists()


def test_a_zip_bomb_is_not_unpacked(jaskel, monkeypatch):
    monkeypatch.setattr("jaskel.jobs.weights.MOST_BYTES", 1000)
    weights = begin(jaskel)
    send(jaskel, weights, "weights.zip", zipped({"model.bin": b"0" * 100_000}))
    assert "larger than any weights" in checked(jaskel, weights)["trouble"]


def test_only_files_of_weights_are_taken_and_only_while_they_come(jaskel):
    weights = begin(jaskel)
    send(jaskel, weights, "evil.sh", b"x", 422)
    send(jaskel, weights, "config.json", b"", 422)
    send(jaskel, weights, "config.json", json.dumps({}).encode())
    checked(jaskel, weights)
    assert "have come already" in send(jaskel, weights, "config.json", b"{}", 422)["detail"]
    jaskel.post("/api/weights/nothing/check", status=404)
