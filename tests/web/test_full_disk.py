"""A full disk is called by its name, whatever meets it, and takes nothing along."""

from __future__ import annotations

import shutil
from collections import namedtuple
from errno import ENOSPC
from pathlib import Path

import av
import pytest
import soundfile
from conftest import RATE, Jaskel, tone, write_media
from sqlalchemy import event, text
from test_api import strike

from jaskel.core.problem import Problem
from jaskel.jobs.lease import LOST_SECONDS, recover
from jaskel.media.conformed import NewConformedSound
from jaskel.media.probe import room_for
from jaskel.store.database import problem_of
from jaskel.store.models import Job

Usage = namedtuple("Usage", "total used free")


@pytest.fixture
def episode(jaskel, tmp_path):
    made = jaskel.episode()
    jaskel.upload(made["id"], write_media(tmp_path / "a.wav", tone(6)))
    jaskel.work("prepare")
    return made


def fill(jaskel) -> None:
    """Let the database grow no further: SQLite then says what it says on a full disk."""
    engine = jaskel.client.application.extensions["jaskel"].workshop.home.database.engine
    with engine.connect() as connection:
        pages = connection.scalar(text("PRAGMA page_count"))
    event.listen(engine, "checkout", lambda connection, *_: connection.execute(f"PRAGMA max_page_count={pages}"))


def test_an_edit_says_that_the_disk_is_full_and_changes_nothing(jaskel, episode):
    edition = episode["editions"][0]["id"]
    fill(jaskel)
    revision = 1
    for _ in range(400):
        body = {
            "revision": revision,
            "operation": {"kind": "strike", "ranges": [{"begin": revision * 9, "end": revision * 9 + 5}]},
        }
        response = jaskel.client.post(f"/api/editions/{edition}/operations", json=body)
        if response.status_code != 200:
            break
        revision += 1
    assert response.status_code == 507 and "disk is full" in response.json["detail"], response.text[:300]
    assert jaskel.get(f"/api/editions/{edition}")["revision"] == revision


@pytest.mark.parametrize("form", ["mp3", "mp4", "wav", "srt"])
def test_an_export_that_meets_a_full_disk_says_so_leaves_nothing_and_goes_on_by_itself(jaskel, episode, form):
    monkeypatch = pytest.MonkeyPatch()
    edition = episode["editions"][0]["id"]
    strike(jaskel, edition, 1, (RATE, 2 * RATE))
    jaskel.post(f"/api/editions/{edition}/exports", {"form": form}, 202)

    def full(*_args, **_more):
        raise OSError(ENOSPC, "No space left on device")

    if form == "wav":
        # As libsndfile tells it.
        monkeypatch.setattr(soundfile.SoundFile, "write", lambda *_: (_ for _ in ()).throw(soundfile.LibsndfileError(2)))
    elif form == "srt":
        monkeypatch.setattr(Path, "write_text", full)
    else:
        really = av.open

        def on_a_full_device(file, mode="r", **more):
            return really("/dev/full" if mode == "w" else file, mode, **more)

        monkeypatch.setattr(av, "open", on_a_full_device)
    jaskel.work("export")
    told = jaskel.get(f"/api/episodes/{episode['id']}")
    (job,) = [each for each in told["jobs"] if each["kind"] == "export"]
    assert job["state"] == "queued" and "disk is full" in job["trouble"]
    assert told["exports"] == []
    assert not list((jaskel.workshop.home.vault.root / "exports").iterdir())
    monkeypatch.undo()
    with jaskel.workshop.home.database.write() as session:
        session.get_one(Job, job["id"]).beat -= LOST_SECONDS + 1
    assert recover(jaskel.workshop.home) == [job["id"]]
    jaskel.work("export")
    assert len(jaskel.get(f"/api/episodes/{episode['id']}")["exports"]) == 1


def test_work_waits_for_media_that_are_away(jaskel, episode):
    vault = jaskel.workshop.home.vault.root
    jaskel.post(f"/api/editions/{episode['editions'][0]['id']}/exports", {"form": "wav"}, 202)
    vault.rename(vault.with_name("away"))
    jaskel.work("export")
    vault.with_name("away").rename(vault)
    (job,) = [each for each in jaskel.get(f"/api/episodes/{episode['id']}")["jobs"] if each["kind"] == "export"]
    assert job["state"] == "queued" and "Bring its disk back" in job["trouble"]
    jaskel.work("export")
    (made,) = jaskel.get(f"/api/episodes/{episode['id']}")["exports"]
    assert made["size"] > 0


def test_a_folder_of_media_that_is_away_is_not_made_anew(jaskel, episode, tmp_path):
    """What comes up meanwhile would take an empty folder for all there is, and clear up after what is only away."""
    vault, name = jaskel.workshop.home.vault.root, episode["id"]
    before = sorted(path.name for path in vault.rglob("*") if path.is_file())
    vault.rename(vault.with_name("away"))
    again = Jaskel(jaskel.settings)
    again.workshop.home.sweep()
    assert not vault.exists()
    assert again.get(f"/api/episodes/{name}")["title"] == episode["title"]
    told = again.upload(name, write_media(tmp_path / "new.flac", tone(1)), 503)
    assert told["code"] == "no-vault" and not vault.exists()
    again.workshop.close()
    vault.with_name("away").rename(vault)
    assert sorted(path.name for path in vault.rglob("*") if path.is_file()) == before
    jaskel.upload(name, write_media(tmp_path / "new.flac", tone(1)))


class TestRoom:
    def test_what_is_told_is_what_is_free(self, monkeypatch, tmp_path):
        monkeypatch.setattr(shutil, "disk_usage", lambda _: Usage(10**9, 0, 150_000_000))
        with pytest.raises(Problem, match=r"needs 20 MB, and 150 MB are free, of which 200 MB are kept") as told:
            room_for(tmp_path, 20_000_000, "talk.wav")
        assert told.value.code == "disk-full"

    def test_a_small_file_may_still_be_written(self, monkeypatch, tmp_path):
        monkeypatch.setattr(shutil, "disk_usage", lambda _: Usage(10**9, 0, 150_000_000))
        room_for(tmp_path, 2_000, "captions.srt")

    def test_on_a_full_disk_nothing_may(self, monkeypatch, tmp_path):
        monkeypatch.setattr(shutil, "disk_usage", lambda _: Usage(10**9, 0, 1_000_000))
        with pytest.raises(Problem, match="1 MB are free"):
            room_for(tmp_path, 2_000, "captions.srt")


def test_conformed_sound_says_so_too(tmp_path, monkeypatch):
    monkeypatch.setattr(soundfile.SoundFile, "write", lambda *_: (_ for _ in ()).throw(soundfile.LibsndfileError(2)))
    with pytest.raises(OSError, match="No space left") as met, NewConformedSound(tmp_path / "a.flac", 1) as out:
        out.write(tone(1)[:, None])
    assert problem_of(met.value).code == "disk-full"


def test_a_lock_is_waited_for(jaskel, episode):
    assert jaskel.workshop.home.database.engine.dialect.name == "sqlite"
    with jaskel.workshop.home.database.engine.connect() as connection:
        assert connection.scalar(text("PRAGMA busy_timeout")) >= 60_000
