"""An episode goes to another machine as one file, and is the same there."""

from __future__ import annotations

import base64
import io
import json
import random
import shutil
import zipfile
from collections import namedtuple
from contextlib import suppress

import pytest
from conftest import RATE, Jaskel, tone, write_media
from sqlalchemy import select

from jaskel.cli import main
from jaskel.core.problem import Problem
from jaskel.core.transcript import Word
from jaskel.jobs.archive import unpack
from jaskel.jobs.bring_episode import KIND
from jaskel.jobs.carry_out import carry_out
from jaskel.settings import Settings
from jaskel.store.models import Job, Recording


@pytest.fixture
def elsewhere(tmp_path):
    made = Jaskel(Settings(tmp_path / "elsewhere"))
    yield made
    made.workshop.close()


@pytest.fixture
def episode(jaskel, tmp_path):
    """Two recordings, words, a voice, cuts, marks, and an undone step."""
    made = jaskel.episode()
    for name, hertz in (("a", 440), ("b", 330)):
        id = jaskel.upload(made["id"], write_media(tmp_path / f"{name}.flac", tone(8, hertz)))["id"]
        jaskel.work()
        jaskel.words(id, [Word(f"{name}{n}", n * RATE, n * RATE + RATE // 2, 0.9) for n in range(8)])
    edition = made["editions"][0]["id"]
    operate(jaskel, edition, kind="strike", ranges=[{"begin": RATE, "end": 3 * RATE}], reason="by hand")
    first = made_of(jaskel, made)[0]
    operate(jaskel, edition, kind="adjust", track=first, begin=4 * RATE, end=5 * RATE, decibels=-6.0)
    operate(jaskel, edition, kind="strike", ranges=[{"begin": 9 * RATE, "end": 10 * RATE}], reason="by hand")
    jaskel.post(f"/api/editions/{edition}/undo", {"revision": jaskel.get(f"/api/editions/{edition}")["revision"]})
    jaskel.post(f"/api/episodes/{made['id']}/notes", {"edition": edition, "laid": 0, "text": "louder?"}, 201)
    jaskel.post(f"/api/shows/{made['show_id']}/spellings", {"term": "Tarn Hythe"}, 201)
    jaskel.work()
    return jaskel.get(f"/api/episodes/{made['id']}")


def made_of(jaskel, episode):
    return [each["id"] for each in jaskel.get(f"/api/episodes/{episode['id']}")["recordings"]]


def operate(jaskel, edition, **operation):
    revision = jaskel.get(f"/api/editions/{edition}")["revision"]
    return jaskel.post(f"/api/editions/{edition}/operations", {"revision": revision, "operation": operation})


@pytest.fixture
def archive(jaskel, episode) -> bytes:
    edition = episode["editions"][0]["id"]
    jaskel.post(f"/api/editions/{edition}/exports", {"form": "episode"}, 202)
    jaskel.work()
    (made,) = jaskel.get(f"/api/episodes/{episode['id']}")["exports"]
    assert made["file_name"].endswith(".episode.zip")
    return jaskel.client.get(f"/api/exports/{made['id']}/file").data


def send(jaskel, content) -> str:
    """Send an archive in two parts; gives where it lies."""
    name = base64.b64encode(b"a.zip").decode()
    headers = {"Upload-Length": str(len(content)), "Upload-Metadata": f"filename {name}"}
    address = jaskel.client.post("/api/archives", headers=headers).headers["Location"]
    for part in (content[: len(content) // 2], content[len(content) // 2 :]):
        come = jaskel.client.head(address).headers["Upload-Offset"]
        assert jaskel.client.patch(address, headers={"Upload-Offset": come}, data=part).status_code == 204
    return address


def bring(jaskel, content):
    """Bring in an episode; gives what is told of it."""
    address = send(jaskel, content)
    jaskel.post(f"{address}/bring", {}, 202)
    jaskel.work()
    return jaskel.get(f"{address}/job")


def left(jaskel):
    """What lies in the vault of archives that came."""
    return [*(jaskel.workshop.home.vault.root / "uploads").iterdir()]


def heard(jaskel, edition):
    """What sounds in an edition, by the digests of its blocks, and what is said in it."""
    blocks = jaskel.get(f"/api/editions/{edition}/blocks")["blocks"]
    passages = jaskel.get(f"/api/editions/{edition}/page")["passages"]
    return [each["key"] for each in blocks], [token["text"] for each in passages for token in each["tokens"]]


def told(jaskel, edition):
    entries = jaskel.get(f"/api/editions/{edition}/history")["entries"]
    return [(each["number"], each["step"], each["summary"]) for each in entries]


def test_it_is_the_same_elsewhere(jaskel, elsewhere, episode, archive):
    brought = bring(elsewhere, archive)
    assert (brought["episode"], brought["show"]) == (episode["id"], "Ropewalk")
    elsewhere.work()
    there = elsewhere.get(f"/api/episodes/{episode['id']}")
    assert [(each["name"], each["state"]) for each in there["recordings"]] == [("a.flac", "ready"), ("b.flac", "ready")]
    assert [each["text"] for each in there["notes"]] == ["louder?"]
    assert [each["term"] for each in there["spellings"]] == ["Tarn Hythe"]
    edition = episode["editions"][0]["id"]
    assert heard(elsewhere, edition) == heard(jaskel, edition)
    assert told(elsewhere, edition) == told(jaskel, edition)
    for recording in (each["id"] for each in episode["recordings"]):
        with jaskel.workshop.home.database.read() as session:
            digest = session.get_one(Recording, recording).digest
        assert (
            elsewhere.workshop.home.vault.original(digest).read_bytes()
            == jaskel.workshop.home.vault.original(digest).read_bytes()
        )
    # Its history goes on: what was undone is done again, and it is found by its words.
    revision = elsewhere.get(f"/api/editions/{edition}")["revision"]
    assert elsewhere.post(f"/api/editions/{edition}/redo", {"revision": revision})["redo"] is None
    assert elsewhere.get("/api/search?words=b3")["hits"]


def test_where_it_is_here_already_a_second_one_is_made(jaskel, episode, archive):
    second = bring(jaskel, archive)["episode"]
    jaskel.work()
    assert second != episode["id"]
    (show,) = jaskel.get("/api/shows")["shows"]
    assert {each["id"] for each in show["episodes"]} == {episode["id"], second}
    there = jaskel.get(f"/api/episodes/{second}")
    keys, words = heard(jaskel, there["editions"][0]["id"])
    assert len(keys) == len(heard(jaskel, episode["editions"][0]["id"])[0])
    assert words == heard(jaskel, episode["editions"][0]["id"])[1]
    operate(jaskel, there["editions"][0]["id"], kind="strike", ranges=[{"begin": 0, "end": RATE}], reason="by hand")
    assert heard(jaskel, there["editions"][0]["id"]) != heard(jaskel, episode["editions"][0]["id"])


def test_its_layout_is_open(archive):
    with zipfile.ZipFile(io.BytesIO(archive)) as packed:
        manifest, rows = (json.loads(packed.read(name)) for name in ("manifest.json", "rows.json"))
        assert (manifest["format"], manifest["version"], manifest["episode"]) == ("jaskel episode", 1, "The dry hull")
        assert {each["path"] for each in manifest["files"]} == {name for name in packed.namelist() if name.startswith("media/")}
    assert [each["name"] for each in manifest["files"]] == ["a.flac", "b.flac"]
    assert "secret" not in rows["shows"][0] and "tell" not in rows["shows"][0]
    assert [each["step"] for each in rows["log"]].count("undo") == 1


def changed(archive, change):
    """The archive with its manifest and rows changed by ``change``."""
    out = io.BytesIO()
    with zipfile.ZipFile(io.BytesIO(archive)) as old, zipfile.ZipFile(out, "w") as new:
        manifest, rows = (json.loads(old.read(name)) for name in ("manifest.json", "rows.json"))
        files = {name: old.read(name) for name in old.namelist() if "/" in name}
        change(manifest, rows, files)
        new.writestr("manifest.json", json.dumps(manifest))
        new.writestr("rows.json", json.dumps(rows))
        for name, content in files.items():
            new.writestr(name, content)
    return out.getvalue()


def first(files):
    return next(iter(files))


DAMAGED = {
    "another format": (lambda m, r, f: m.update(format="other"), "no-archive"),
    "newer": (lambda m, r, f: m.update(version=2), "newer-archive"),
    "a file too few": (lambda m, r, f: f.pop(first(f)), "damaged-archive"),
    "another file": (lambda m, r, f: f.update({first(f): b"x" * len(f[first(f)])}), "damaged-archive"),
    "a path that leads out": (lambda m, r, f: m["files"][0].update(path="../../evil"), "damaged-archive"),
    "no digest": (lambda m, r, f: r["recordings"][0].update(digest="../../../etc/passwd"), "damaged-archive"),
    "no id": (lambda m, r, f: r["recordings"][0].update(id="../x"), "damaged-archive"),
    "no table": (lambda m, r, f: r.pop("log"), "damaged-archive"),
    "an unknown operation": (lambda m, r, f: r["log"][0]["operation"].update(kind="explode"), "damaged-archive"),
    "an edition of other material": (lambda m, r, f: r.update(recordings=r["recordings"][:1]), "damaged-archive"),
    "rows of another kind": (lambda m, r, f: r.update(episodes={"a": 1}), "damaged-archive"),
    "no words": (lambda m, r, f: r["transcript_parts"][0].update(words=[[1]]), "damaged-archive"),
}


@pytest.mark.parametrize("how", DAMAGED)
def test_what_is_damaged_is_told_and_nothing_of_it_is_stored(elsewhere, archive, how, tmp_path):
    change, code = DAMAGED[how]
    (tmp_path / "a.zip").write_bytes(changed(archive, change))
    with pytest.raises(Problem) as refused:
        unpack(elsewhere.workshop.home, tmp_path / "a.zip")
    assert refused.value.code == code
    assert elsewhere.get("/api/shows")["shows"] == []


def test_bytes_changed_anywhere_bring_no_error_inside(elsewhere, archive, tmp_path):
    chance = random.Random(3)
    for _ in range(25):
        content = bytearray(archive)
        for _ in range(chance.choice([1, 4, 40])):
            content[chance.randrange(len(content))] = chance.randrange(256)
        content = bytes(content[: chance.choice([len(content), len(content) // 2])])
        (tmp_path / "a.zip").write_bytes(content)
        with suppress(Problem):
            unpack(elsewhere.workshop.home, tmp_path / "a.zip")


def test_what_is_no_archive_is_told(elsewhere):
    address = send(elsewhere, b"")
    assert elsewhere.post(f"{address}/bring", {}, 422)["code"] == "no-archive"
    job = bring(elsewhere, b"no zip at all")["job"]
    assert job["state"] == "failed"
    assert "damaged" in job["trouble"]
    assert elsewhere.get("/api/shows")["shows"] == []


def test_it_tells_how_far_it_is_and_leaves_nothing_behind(elsewhere, archive):
    address = send(elsewhere, archive)
    assert elsewhere.post(f"{address}/bring", {}, 202)["job"]["state"] == "queued"
    assert len(left(elsewhere)) == 1
    elsewhere.work()
    job = elsewhere.get(f"{address}/job")["job"]
    assert (job["state"], job["done"]) == ("done", job["total"])
    assert job["total"] == len(archive)
    assert not left(elsewhere)


def test_it_is_given_up_while_it_comes_and_while_it_waits(elsewhere, archive):
    for wait in (False, True):
        address = send(elsewhere, archive)
        if wait:
            elsewhere.post(f"{address}/bring", {}, 202)
        assert elsewhere.client.delete(address).status_code == 204
        assert not left(elsewhere)
        elsewhere.work()
        assert elsewhere.get("/api/shows")["shows"] == []
        assert elsewhere.client.head(address).status_code == 404


def test_a_job_that_is_begun_again_brings_it_once(elsewhere, archive):
    address = send(elsewhere, archive)
    elsewhere.post(f"{address}/bring", {}, 202)
    elsewhere.work()
    with elsewhere.workshop.home.database.write() as session:
        job = session.scalar(select(Job).where(Job.kind == KIND))
        job.state = "queued"
    carry_out(elsewhere.workshop, job.id)
    (show,) = elsewhere.get("/api/shows")["shows"]
    assert len(show["episodes"]) == 1


def test_from_the_command_line(episode, archive, tmp_path, capsys):
    (tmp_path / "a.zip").write_bytes(archive)
    assert main(["unpack", str(tmp_path / "a.zip"), "--data", str(tmp_path / "third")]) == 0
    assert f"“The dry hull” of “Ropewalk”, {episode['id']}" in capsys.readouterr().out
    third = Jaskel(Settings(tmp_path / "third"))
    assert {each["state"] for each in third.get(f"/api/episodes/{episode['id']}")["recordings"]} == {"ready"}
    third.workshop.close()
    assert main(["unpack", str(tmp_path / "nothing.zip"), "--data", str(tmp_path / "third")]) == 2


def test_on_a_full_disk_it_waits_and_goes_on(elsewhere, archive, monkeypatch):
    address = send(elsewhere, archive)
    elsewhere.post(f"{address}/bring", {}, 202)
    with monkeypatch.context() as full:
        usage = namedtuple("usage", "total used free")
        full.setattr(shutil, "disk_usage", lambda _: usage(10**9, 10**9, 1000))
        elsewhere.work()
    assert elsewhere.get(f"{address}/job")["job"]["state"] == "queued"
    assert len(left(elsewhere)) == 1
    elsewhere.work()
    assert elsewhere.get(f"{address}/job")["job"]["state"] == "done"
    assert not left(elsewhere)
