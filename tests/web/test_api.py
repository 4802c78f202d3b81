"""The API through Flask's client, with real media and real jobs."""

from __future__ import annotations

import numpy as np
import pytest
from conftest import RATE, Jaskel, tone, write_media
from sqlalchemy import select

from jaskel.core.transcript import Word
from jaskel.jobs.lease import recover
from jaskel.jobs.queue import cancel, retry
from jaskel.store.models import Job


@pytest.fixture
def edition(jaskel, tmp_path):
    """An episode with twenty seconds of tone and a word in every second of it; gives the edition's id."""
    episode = jaskel.episode()
    recording = jaskel.upload(episode["id"], write_media(tmp_path / "a.flac", tone(20)))
    jaskel.work()
    words = [Word(f"word{i}", i * RATE, i * RATE + RATE // 2, 0.9) for i in range(20)]
    jaskel.words(recording["id"], words)
    return episode["editions"][0]["id"]


def strike(jaskel, edition, revision, *ranges, status=200, kind="strike"):
    body = {"kind": kind, "ranges": [{"begin": b, "end": e} for b, e in ranges]}
    return jaskel.post(f"/api/editions/{edition}/operations", {"revision": revision, "operation": body}, status)


class TestGathering:
    def test_a_recording_tells_what_it_is_and_becomes_ready(self, jaskel, tmp_path):
        episode = jaskel.episode()
        jaskel.upload(episode["id"], write_media(tmp_path / "film.mp4", np.stack([tone(2)] * 2, 1), pictures=50))
        jaskel.work()
        (recording,) = jaskel.get(f"/api/episodes/{episode['id']}")["recordings"]
        assert recording["state"] == "ready"
        assert recording["channels"] == 2
        assert (recording["picture"]["width"], recording["picture"]["rate"]) == (160, 25.0)
        assert recording["working_copy"]
        assert abs(recording["length"] - 2 * RATE) < 3000
        assert jaskel.get(f"/api/recordings/{recording['id']}/picture").mimetype == "video/mp4"
        assert len(jaskel.get(f"/api/recordings/{recording['id']}/peaks").data) in range(195, 207)

    def test_the_original_is_kept_untouched(self, jaskel, tmp_path):
        path = write_media(tmp_path / "a.wav", tone(1))
        jaskel.upload(jaskel.episode()["id"], path)
        jaskel.work()
        originals = list(jaskel.settings.vault.glob("originals/*/*"))
        assert [p.read_bytes() for p in originals] == [path.read_bytes()]

    @pytest.mark.parametrize(
        ("name", "content", "code"),
        [("a.mp4", b"", "empty"), ("a.mp4", b"hello there\n" * 99, "not-media"), ("../../etc/a.wav", b"x" * 99, "not-media")],
    )
    def test_bad_files_are_refused_in_words_and_leave_nothing(self, jaskel, name, content, code):
        episode = jaskel.episode()["id"]
        url = f"/api/episodes/{episode}/recordings"
        response = jaskel.client.post(url, query_string={"name": name}, data=content)
        assert response.mimetype == "application/problem+json"
        assert (response.status_code, response.json["code"]) == (422, code)
        assert name in response.json["detail"]
        assert not [p for p in jaskel.settings.vault.rglob("*") if p.is_file()]
        assert jaskel.get(f"/api/episodes/{episode}")["recordings"] == []

    def test_a_file_cut_off_waits_for_a_decision(self, jaskel, tmp_path):
        path = write_media(tmp_path / "a.flac", tone(6))
        path.write_bytes(path.read_bytes()[: path.stat().st_size // 2])
        episode = jaskel.episode()["id"]
        jaskel.upload(episode, path)
        jaskel.work()
        (recording,) = jaskel.get(f"/api/episodes/{episode}")["recordings"]
        assert recording["state"] == "cut off"
        assert "only 0:0" in recording["trouble"]
        jaskel.post(f"/api/recordings/{recording['id']}/accept")
        assert jaskel.get(f"/api/episodes/{episode}")["recordings"][0]["state"] == "ready"

    def test_an_upload_that_breaks_off_leaves_nothing(self, jaskel, tmp_path):
        path = write_media(tmp_path / "a.wav", tone(1))
        vault = jaskel.workshop.home.vault
        from io import BytesIO

        from jaskel.core.problem import Problem

        with pytest.raises(Problem, match="broke off"), vault.receive(BytesIO(path.read_bytes()), "a.wav", 10**6):
            pass
        assert not list(vault.root.joinpath("incoming").iterdir())

    def test_a_full_disk_is_said_before_anything_is_stored(self, jaskel, tmp_path, monkeypatch):
        import shutil
        from collections import namedtuple

        usage = namedtuple("usage", "total used free")
        monkeypatch.setattr(shutil, "disk_usage", lambda _: usage(10**9, 10**9, 1000))
        answer = jaskel.upload(jaskel.episode()["id"], write_media(tmp_path / "a.wav", tone(1)), 507)
        assert "no room" in answer["detail"]

    def test_the_same_file_again_is_offered_for_reuse(self, jaskel, tmp_path):
        path = write_media(tmp_path / "a.wav", tone(1))
        first = jaskel.upload(jaskel.episode()["id"], path)
        other = jaskel.episode()["id"]
        answer = jaskel.upload(other, path, 409)
        assert answer["facts"]["recording"] == first["id"]
        jaskel.post(f"/api/episodes/{other}/recordings/reuse", {"recording_id": first["id"], "transcribe": False}, 201)
        jaskel.work()
        assert jaskel.get(f"/api/episodes/{other}")["recordings"][0]["state"] == "ready"
        assert len(list(jaskel.settings.vault.glob("originals/*/*"))) == 1

    def test_silence_has_no_speech(self, jaskel, tmp_path):
        episode = jaskel.episode()["id"]
        jaskel.upload(episode, write_media(tmp_path / "a.wav", tone(5) * 0), transcribe=True)
        jaskel.work()
        (recording,) = jaskel.get(f"/api/episodes/{episode}")["recordings"]
        assert recording["transcript"] == "failed"
        assert "No speech" in recording["transcript_trouble"]


class TestEditing:
    def test_striking_and_putting_back(self, jaskel, edition):
        head = strike(jaskel, edition, 1, (RATE, 2 * RATE))
        assert head["struck"] == [[RATE, 2 * RATE]]
        assert head["running_time"] == 19 * RATE + 480
        assert head["undo"]["summary"] == "struck “word1” at 0:01"
        head = strike(jaskel, edition, 2, (0, 20 * RATE), kind="put back")
        assert (head["struck"], head["running_time"]) == ([], 20 * RATE)

    def test_undo_and_redo_survive_a_restart(self, jaskel, edition):
        for i in range(60):
            strike(jaskel, edition, 1 + i, (i * RATE // 4, i * RATE // 4 + 4000))
        fresh = Jaskel(jaskel.settings)
        head = fresh.get(f"/api/editions/{edition}")
        for _ in range(60):
            head = fresh.post(f"/api/editions/{edition}/undo", {"revision": head["revision"]})
        assert (head["struck"], head["undo"]) == ([], None)
        fresh = Jaskel(jaskel.settings)
        for _ in range(60):
            head = fresh.post(f"/api/editions/{edition}/redo", {"revision": head["revision"]})
        assert len(head["struck"]) == 60
        assert fresh.post(f"/api/editions/{edition}/redo", {"revision": head["revision"]}, 422)["code"] == "nothing-to-redo"

    def test_edits_of_two_windows_on_different_passages_both_survive(self, jaskel, edition):
        strike(jaskel, edition, 1, (RATE, 2 * RATE))
        strike(jaskel, edition, 1, (5 * RATE, 6 * RATE))
        assert jaskel.get(f"/api/editions/{edition}")["struck"] == [[RATE, 2 * RATE], [5 * RATE, 6 * RATE]]

    def test_an_edit_of_the_same_words_is_refused_with_what_changed(self, jaskel, edition):
        strike(jaskel, edition, 1, (RATE, 2 * RATE))
        answer = strike(jaskel, edition, 1, (RATE, 3 * RATE), status=409)
        assert answer["code"] == "stale"
        assert "struck “word1”" in answer["detail"]
        assert answer["facts"]["revision"] == 2
        assert jaskel.get(f"/api/editions/{edition}")["struck"] == [[RATE, 2 * RATE]]

    def test_the_page_has_every_word_and_stays_the_same_when_struck(self, jaskel, edition):
        page = jaskel.get(f"/api/editions/{edition}/page")
        assert page["words"] == 20
        tokens = [t for p in page["passages"] for t in p["tokens"]]
        assert [t["text"] for t in tokens if t["k"] == "w"] == [f"word{i}" for i in range(20)]
        strike(jaskel, edition, 1, (RATE, 2 * RATE))
        assert jaskel.get(f"/api/editions/{edition}/page") == page

    def test_bad_requests_are_told_apart(self, jaskel, edition):
        body = {"revision": 1, "operation": {"kind": "explode", "ranges": []}}
        assert jaskel.post(f"/api/editions/{edition}/operations", body, 422)["code"] == "not-understood"
        assert jaskel.get("/api/editions/nope", 404)["code"] == "no-edition"
        assert jaskel.get("/api/nothing-here", 404)["code"] == "no-such-address"

    def test_sound_comes_in_blocks_that_last(self, jaskel, edition):
        before = jaskel.get(f"/api/editions/{edition}/blocks?mode=edited&at=0")
        assert before["blocks"][-1]["until"] == before["length"] == 20 * RATE
        sound = jaskel.get(f"/api/editions/{edition}/sound/{before['blocks'][3]['key']}")
        assert sound.mimetype == "audio/wav"
        assert len(sound.data) == 44 + 4 * 2 * RATE
        strike(jaskel, edition, 1, (RATE, 2 * RATE))
        after = jaskel.get(f"/api/editions/{edition}/blocks?mode=edited&at=0")
        assert {b["key"] for b in before["blocks"][2:]} <= {b["key"] for b in after["blocks"]}
        assert jaskel.get(f"/api/editions/{edition}/sound/nothing", 404)["code"] == "no-block"


class TestExports:
    @pytest.mark.parametrize("form", ["wav", "mp3", "mp4", "srt", "vtt", "txt", "md"])
    def test_every_form(self, jaskel, edition, form):
        strike(jaskel, edition, 1, (RATE, 2 * RATE))
        job = jaskel.post(f"/api/editions/{edition}/exports", {"form": form}, 202)
        jaskel.work()
        response = jaskel.get(f"/api/exports/{job['id']}/file")
        language = ".en" if form in ("srt", "vtt") else ""
        assert f"Ropewalk - The dry hull{language}.{form}" in response.headers["Content-Disposition"]
        if form in ("srt", "vtt", "txt", "md"):
            assert "word0 word2" in response.text.replace("\n", " ")
            assert "word1 " not in response.text
        jaskel.client.delete(f"/api/exports/{job['id']}")
        jaskel.get(f"/api/exports/{job['id']}/file", 404)
        jaskel.post(f"/api/exports/{job['id']}/restore", status=204)
        assert jaskel.get(f"/api/exports/{job['id']}/file").data == response.data

    def test_nothing_kept_is_said(self, jaskel, edition):
        strike(jaskel, edition, 1, (0, 20 * RATE))
        jaskel.post(f"/api/editions/{edition}/exports", {"form": "wav"}, 202)
        jaskel.work()
        with jaskel.workshop.home.database.read() as session:
            job = session.scalar(select(Job).where(Job.kind == "export"))
        assert job.state == "failed"
        assert "Everything in this edition is struck" in job.trouble


class TestJobs:
    def test_a_cancelled_job_can_go_on(self, jaskel, edition):
        job = jaskel.post(f"/api/editions/{edition}/exports", {"form": "wav"}, 202)
        assert cancel(jaskel.workshop.home, job["id"]).state == "cancelled"
        jaskel.work()
        jaskel.get(f"/api/exports/{job['id']}/file", 404)
        retry(jaskel.workshop.home, job["id"])
        jaskel.work()
        jaskel.get(f"/api/exports/{job['id']}/file")

    def test_the_same_work_is_not_queued_twice(self, jaskel, edition):
        jaskel.post(f"/api/editions/{edition}/exports", {"form": "wav"}, 202)
        assert jaskel.post(f"/api/editions/{edition}/exports", {"form": "wav"}, 409)["code"] == "already-running"
        jaskel.post(f"/api/editions/{edition}/exports", {"form": "mp3"}, 202)

    def test_jobs_of_a_dead_worker_go_on_and_killers_end(self, jaskel, edition):
        import socket

        job = jaskel.post(f"/api/editions/{edition}/exports", {"form": "wav"}, 202)
        home = jaskel.workshop.home
        for attempt in (1, 2):
            with home.database.write() as session:
                row = session.get_one(Job, job["id"])
                row.state, row.worker, row.attempts = "running", f"{socket.gethostname()}:999999", attempt
            assert recover(home) == [job["id"]]
        with home.database.write() as session:
            row = session.get_one(Job, job["id"])
            row.state, row.worker, row.attempts = "running", f"{socket.gethostname()}:999999", 3
        assert recover(home) == []
        with home.database.read() as session:
            assert session.get_one(Job, job["id"]).state == "failed"


class TestSafety:
    @pytest.mark.parametrize("headers", [{"Host": "evil.example"}, {"Origin": "http://evil.example"}, {"Origin": "null"}])
    def test_foreign_sites_are_refused(self, jaskel, headers):
        assert jaskel.client.get("/api/shows", headers=headers).status_code == 403

    def test_its_own_page_is_let_in(self, jaskel):
        headers = {"Host": "127.0.0.1:8750", "Origin": "http://127.0.0.1:8750"}
        assert jaskel.client.get("/api/shows", headers=headers).status_code == 200

    def test_files_outside_the_page_are_not_served(self, jaskel):
        assert "requires-python" not in jaskel.client.get("/..%2f..%2fpyproject.toml").text
