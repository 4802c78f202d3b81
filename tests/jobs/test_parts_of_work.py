"""Work in parts: several workers take them, and what is put together is what one would have made alone."""

from __future__ import annotations

import io
import os
import subprocess
import sys
import time
from collections.abc import Callable
from dataclasses import replace
from pathlib import Path

import numpy as np
import pytest
import soundfile
from conftest import RATE, Jaskel, assert_same_film, tone, write_media
from sqlalchemy import select

from jaskel.demo.shipped import MEDIA
from jaskel.jobs import parts
from jaskel.jobs.carry_out import carry_out
from jaskel.jobs.parts import Parts, make_wanted, print_of
from jaskel.jobs.progress import Cancelled, Progress
from jaskel.jobs.queue import PART, add_job
from jaskel.media import film_pictures
from jaskel.settings import Settings
from jaskel.speech import activity
from jaskel.store.models import Job, Recording

PARTS = 2.5
"""A film is so many parts long, so that there are three."""


@pytest.fixture
def settings(postgresql, redis, tmp_path):
    return Settings(tmp_path / "data", shared_database=postgresql.database(), queue=redis)


@pytest.fixture
def jaskel(settings):
    made = Jaskel(settings)
    yield made
    made.workshop.close()


def filmed(jaskel: Jaskel, path: Path) -> dict[str, object]:
    """An episode with a film."""
    episode = jaskel.episode()
    seconds = round(PARTS * film_pictures.PART / RATE)
    jaskel.upload(episode["id"], write_media(path, np.float32(0.05 * tone(seconds)), pictures=25 * seconds))
    jaskel.work("prepare")
    return episode


def begin_worker(settings: Settings) -> subprocess.Popen[bytes]:
    return subprocess.Popen([sys.executable, "-m", "jaskel.cli", "worker"], env={**os.environ, **settings.environment()})


def wait(true: Callable[[], object], seconds: float = 180) -> None:
    deadline = time.monotonic() + seconds
    while not true():
        assert time.monotonic() < deadline
        time.sleep(0.05)


def rows(jaskel: Jaskel, kind: str = PART) -> list[Job]:
    with jaskel.workshop.home.database.read() as session:
        return [*session.scalars(select(Job).where(Job.kind == kind))]


def export(jaskel: Jaskel, film: dict[str, object]) -> str:
    """Export it small, so that nothing is copied and all of it has to be encoded."""
    edition, url = film["editions"][0]["id"], f"/api/shows/{film['show_id']}/destinations"  # type: ignore[index]
    small = {"name": "Small", "form": "mp4", "quality": "small"}
    known = jaskel.get(url)["destinations"]
    if all(each["name"] != "Small" for each in known):
        known = jaskel.post(url, small, 201)["destinations"]
    key = next(each["key"] for each in known if each["name"] == "Small")
    return str(jaskel.post(f"/api/editions/{edition}/exports", {"destination": key}, 202)["id"])


def exported(jaskel: Jaskel, job: str) -> io.BytesIO:
    return io.BytesIO(jaskel.client.get(f"/api/exports/{job}/file").data)


def test_an_export_by_three_workers_one_of_which_dies_is_the_one_that_is_made_alone(jaskel, settings, tmp_path):
    film = filmed(jaskel, tmp_path / "talk.mp4")
    alone = export(jaskel, film)
    jaskel.work("export")
    shared = export(jaskel, film)
    workers = [begin_worker(settings) for _ in range(3)]
    try:
        helped: set[str] = set()

        def pids() -> set[str]:
            return {row.worker.split(":")[1] for row in rows(jaskel) if row.state == "running"}

        wait(pids)
        writer = next(row for row in rows(jaskel, "export") if row.id == shared).worker.split(":")[1]
        victim = next((each for each in workers if str(each.pid) in pids() - {writer}), None)
        if victim:
            victim.kill()

        def done() -> bool:
            helped.update(row.id for row in rows(jaskel) if row.state == "done")
            return next(row for row in rows(jaskel, "export") if row.id == shared).state == "done"

        wait(done)
        assert helped
    finally:
        for each in workers:
            each.terminate()
        for each in workers:
            each.wait(60)
    assert_same_film(exported(jaskel, alone), exported(jaskel, shared))
    assert rows(jaskel) == [] and not [*jaskel.workshop.home.vault.folders_of_parts()]


def test_an_edit_meanwhile_changes_nothing_in_parts_that_others_make(jaskel, tmp_path, monkeypatch):
    """They make what the edition was when its export began."""
    monkeypatch.setattr(film_pictures, "PART", 10 * RATE)
    film = filmed(jaskel, tmp_path / "talk.mp4")
    alone = export(jaskel, film)
    jaskel.work("export")
    edition = film["editions"][0]["id"]
    made = []

    def another_worker(self, number):
        """Who writes it edits on, and somebody else makes the first part."""
        if not made:
            head = jaskel.get(f"/api/editions/{edition}")["revision"]
            operation = {"kind": "strike", "ranges": [{"begin": 0, "end": 5 * RATE}], "why": "by hand"}
            jaskel.post(f"/api/editions/{edition}/operations", {"revision": head, "operation": operation})
            made.append(min(rows(jaskel), key=lambda row: row.created).id)
            carry_out(jaskel.workshop, made[0])
        return real(self, number)

    real = Parts.elsewhere
    monkeypatch.setattr(Parts, "elsewhere", another_worker)
    shared = export(jaskel, film)
    jaskel.work("export")
    assert_same_film(exported(jaskel, alone), exported(jaskel, shared))


class TestWhoMakesWhat:
    """The rules, with parts that are a word in a file."""

    @pytest.fixture
    def home(self, jaskel):
        return jaskel.workshop.home

    @pytest.fixture
    def job(self, home):
        with home.database.write() as session:
            job = add_job(session, "export", None, "edition")
            job.state = "running"
            return job

    def makes(self, *names):
        return {print_of(each): (lambda path, _progress, each=each: path.write_text(each)) for each in names}

    def begun(self, home, job, *names):
        return Parts(home, job, "export", "edition", self.makes(*names), lambda: None)

    def row(self, jaskel, name):
        return next(row for row in rows(jaskel) if row.details["print"] == print_of(name))

    def put(self, home, row, **values):
        with home.database.write() as session:
            known = session.get_one(Job, row.id)
            for name, value in values.items():
                setattr(known, name, value)

    def test_what_nobody_took_is_made_here_and_by_nobody_else(self, jaskel, home, job):
        with self.begun(home, job, "one", "two") as mine:
            assert mine.elsewhere(0) is None
            assert self.row(jaskel, "one").state == "cancelled" and self.row(jaskel, "two").state == "queued"

    def test_what_another_made_is_taken_from_there(self, jaskel, home, job):
        with self.begun(home, job, "one", "two") as mine:
            make_wanted(home, self.row(jaskel, "one"), self.makes("one", "two"), Progress(home, job.id))
            assert mine.elsewhere(0).read_text() == "one"
        assert rows(jaskel) == [] and not home.vault.parts(job.id).exists()

    def test_while_another_makes_one_later_ones_are_made_here(self, jaskel, home, job):
        with self.begun(home, job, "one", "two", "three") as mine:
            self.put(home, self.row(jaskel, "one"), state="running", worker="elsewhere:1:a", beat=time.time())
            made = []

            def come():
                """The other one is done once nothing is left to do here."""
                made.extend(path.read_text() for path in home.vault.parts(job.id).iterdir())
                make_wanted(home, self.row(jaskel, "one"), self.makes("one"), Progress(home, job.id))

            mine._onward = come
            assert mine.elsewhere(0).read_text() == "one"
            assert sorted(made) == ["three", "two"]
            assert mine.elsewhere(1).read_text() == "two"

    def test_one_whose_worker_was_not_heard_of_is_made_here_and_comes_once(self, jaskel, home, job):
        with self.begun(home, job, "one", "two") as mine:
            silent = time.time() - parts.SILENT_SECONDS - 1
            self.put(home, self.row(jaskel, "one"), state="running", worker="elsewhere:1:a", beat=silent)
            assert mine.elsewhere(0) is None
            assert self.row(jaskel, "one").worker == ""  # what it still says of it counts no more

    def test_what_an_attempt_that_broke_off_had_made_is_used(self, jaskel, home, job):
        with pytest.raises(KeyError), self.begun(home, job, "one", "two") as mine:
            make_wanted(home, self.row(jaskel, "two"), self.makes("two"), Progress(home, job.id))
            raise KeyError
        with self.begun(home, job, "one", "two") as mine:
            assert mine.elsewhere(0) is None and mine.elsewhere(1).read_text() == "two"

    def test_what_was_changed_meanwhile_is_left_to_who_began_it(self, jaskel, home, job):
        with self.begun(home, job, "one", "two") as mine:
            with pytest.raises(Exception, match="changed meanwhile"):
                make_wanted(home, self.row(jaskel, "one"), self.makes("another"), Progress(home, job.id))
            assert mine.elsewhere(0) is None

    def test_parts_of_what_was_cancelled_are_made_no_more(self, jaskel, home, job):
        with pytest.raises(Cancelled), self.begun(home, job, "one", "two"):
            late = self.row(jaskel, "two")
            self.put(home, job, cancel=True)
            raise Cancelled
        assert rows(jaskel) == []
        with pytest.raises(Cancelled):
            make_wanted(home, late, self.makes("two"), Progress(home, late.id))
        assert not home.vault.parts(job.id).exists()

    def test_where_no_queue_is_shared_nothing_is_handed_out(self, jaskel, home, job, monkeypatch):
        monkeypatch.setattr(home, "settings", replace(home.settings, queue=""))
        with self.begun(home, job, "one", "two") as mine:
            assert rows(jaskel) == [] and mine.elsewhere(0) is None


def test_speech_that_was_heard_in_spans_elsewhere_reads_the_same(jaskel, tmp_path, monkeypatch):
    monkeypatch.setattr(activity, "SPAN", 15 * RATE)
    speech, rate = soundfile.read(MEDIA / "interview-orla.ogg", frames=44 * 48_000)
    soundfile.write(tmp_path / "talk.wav", speech, rate)
    recording = jaskel.upload(jaskel.episode()["id"], tmp_path / "talk.wav", transcribe=True)["id"]

    def words():
        with jaskel.workshop.home.database.read() as session:
            row = session.get_one(Recording, recording)
            assert row.transcript_state == "done", row.transcript_trouble
            return jaskel.workshop.home.transcripts.of(session, row).words

    jaskel.work("prepare", "transcribe")
    alone = words()
    real, helped = Parts.elsewhere, []

    def another_worker(self, number):
        """Others hear all but the first span, the last of them first."""
        if number == 1 and not helped:
            helped.extend(row.id for row in rows(jaskel) if row.state == "queued")
            for each in reversed(helped):
                carry_out(jaskel.workshop, each)
        return real(self, number)

    monkeypatch.setattr(Parts, "elsewhere", another_worker)
    jaskel.post(f"/api/recordings/{recording}/transcript?anew=true", {})
    jaskel.work("transcribe")
    assert len(helped) == 2
    shared = words()
    assert [each.text for each in shared] == [each.text for each in alone] and len(alone) > 40
    # Alone, too, an edge may lie a frame of 10 ms elsewhere the next time: sums of floats depend on where they lie in memory.
    assert max(abs(one.start - other.start) for one, other in zip(shared, alone, strict=True)) <= RATE // 50


def test_a_track_goes_through_its_chain_on_another_worker(jaskel, tmp_path, monkeypatch):
    episode = jaskel.episode()
    edition = episode["editions"][0]["id"]
    for number in range(2):
        path = write_media(tmp_path / f"{number}.flac", np.float32(0.2 * tone(3, 200 + 50 * number)))
        recording = jaskel.upload(episode["id"], path)["id"]
        jaskel.work("prepare")
        head = jaskel.get(f"/api/editions/{edition}")["revision"]
        chain = [{"kind": "gain", "settings": {"decibels": -6}}]
        operation = {"kind": "processors", "track": recording, "chain": chain}
        jaskel.post(f"/api/editions/{edition}/operations", {"revision": head, "operation": operation})
    helped, real = [], Parts.taken

    def another_worker(self, number):
        """The second track is made elsewhere before either is begun here."""
        if not helped:
            helped.extend(row.id for row in rows(jaskel) if row.state == "queued")
            carry_out(jaskel.workshop, helped[-1])
            assert [row.state for row in rows(jaskel) if row.id == helped[-1]] == ["done"]
        return real(self, number)

    monkeypatch.setattr(Parts, "taken", another_worker)
    monkeypatch.setattr("jaskel.jobs.process.os.cpu_count", lambda: 1)
    jaskel.work("process")
    assert len(helped) == 2 and rows(jaskel) == []
    tracks = jaskel.get(f"/api/editions/{edition}")["tracks"]
    assert [each["processed"] for each in tracks] == [True, True]
