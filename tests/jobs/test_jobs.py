"""Jobs done in this process: stopping, going on, and what follows what."""

from __future__ import annotations

import pytest
from conftest import RATE, tone, write_media
from sqlalchemy import select

from jaskel.core.timebase import to_seconds
from jaskel.jobs import progress
from jaskel.jobs.carry_out import carry_out
from jaskel.jobs.progress import Interrupted, Progress
from jaskel.jobs.queue import add_job, cancel, retry
from jaskel.jobs.workshop import Workshop
from jaskel.media.probe import probe
from jaskel.store import library
from jaskel.store.models import EditionRow, Job, Recording


@pytest.fixture
def workshop(settings):
    made = Workshop(settings)
    made.home.database.migrate()
    yield made
    made.close()


def take_in(workshop, path, transcribe=False) -> str:
    """Lay a file into a new episode and have its sound read; gives the recording's id."""
    home = workshop.home
    info, received = probe(path, path.name), home.vault.adopt(path)
    with home.database.write() as session:
        episode = library.new_episode(session, library.new_show(session, "Ropewalk"), "The dry hull")
        recording = Recording(
            episode_id=episode.id, name=path.name, digest=received.digest, size=received.size, info=info.to_json()
        )
        session.add(recording)
        session.flush()
        job = add_job(session, "prepare", episode.id, recording.id, transcribe=transcribe)
    carry_out(workshop, job.id)
    return recording.id


def jobs(workshop, kind):
    with workshop.home.database.read() as session:
        return list(session.scalars(select(Job).where(Job.kind == kind)))


def get(workshop, recording):
    with workshop.home.database.read() as session:
        return session.get_one(Recording, recording)


class TestPreparing:
    def test_sound_first_then_words_and_picture(self, workshop, tmp_path):
        recording = take_in(workshop, write_media(tmp_path / "a.mp4", tone(2), pictures=50), transcribe=True)
        assert get(workshop, recording).state == "ready"
        assert [job.state for kind in ("transcribe", "picture") for job in jobs(workshop, kind)] == ["queued", "queued"]
        with workshop.home.database.read() as session:
            edition = session.scalar(select(EditionRow.id))
            opened = workshop.home.editions.open(session, edition)
        assert opened.edition.length == get(workshop, recording).length

    def test_sound_that_was_decoded_for_another_recording_is_used(self, workshop, tmp_path):
        path = write_media(tmp_path / "a.wav", tone(2))
        first = take_in(workshop, path)
        before = workshop.home.vault.sound(get(workshop, first).digest).stat().st_mtime_ns
        second = take_in(workshop, path)
        assert get(workshop, second).length == get(workshop, first).length
        assert workshop.home.vault.sound(get(workshop, second).digest).stat().st_mtime_ns == before


class TestStopping:
    @pytest.fixture
    def job(self, workshop, tmp_path):
        take_in(workshop, write_media(tmp_path / "a.wav", tone(20)))
        with workshop.home.database.write() as session:
            row = session.scalar(select(EditionRow))
            return add_job(session, "export", row.episode_id, row.id, 20 * RATE, form="wav").id

    def test_cancelling_a_running_job_stops_it_at_its_next_step(self, workshop, job, monkeypatch):
        monkeypatch.setattr(progress, "REPORT_SECONDS", 0.0)
        told = Progress.report

        def cancelled_on_the_way(self, done):
            cancel(workshop.home, job)
            told(self, done)

        monkeypatch.setattr(Progress, "report", cancelled_on_the_way)
        carry_out(workshop, job)
        assert jobs(workshop, "export")[0].state == "cancelled"
        assert not list((workshop.settings.vault / "exports").iterdir())

    def test_a_worker_that_ends_puts_its_job_back(self, workshop, job, monkeypatch):
        def ended(_self, _done):
            raise Interrupted

        with monkeypatch.context() as patch:
            patch.setattr(Progress, "__call__", ended)
            carry_out(workshop, job)
        (stored,) = jobs(workshop, "export")
        assert (stored.state, stored.attempts) == ("queued", 0)
        carry_out(workshop, job)
        assert jobs(workshop, "export")[0].state == "done"

    def test_a_job_is_done_once_however_often_its_message_comes(self, workshop, job):
        carry_out(workshop, job)
        size = (workshop.settings.vault / "exports" / job).stat().st_mtime_ns
        carry_out(workshop, job)
        assert (workshop.settings.vault / "exports" / job).stat().st_mtime_ns == size

    def test_what_goes_wrong_inside_is_said_without_losing_anything(self, workshop, job, monkeypatch):
        def broken(*_arguments):
            raise RuntimeError("boom")

        monkeypatch.setattr("jaskel.media.forms.write_wav", broken)
        carry_out(workshop, job)
        (stored,) = jobs(workshop, "export")
        assert stored.state == "failed"
        assert "Nothing is lost" in stored.trouble


@pytest.mark.speech
def test_a_transcript_goes_on_from_the_part_it_had(workshop, monkeypatch, talk):
    recording = take_in(workshop, talk, transcribe=True)
    (job,) = jobs(workshop, "transcribe")
    parts = []
    extend = workshop.home.transcripts.extend

    def counted(session, row, start, end, words):
        parts.append((start, end))
        extend(session, row, start, end, words)
        if len(parts) == 2:
            session.get_one(Job, job.id).cancel = True

    monkeypatch.setattr(workshop.home.transcripts, "extend", counted)
    carry_out(workshop, job.id)
    assert get(workshop, recording).transcript_state == "stopped"
    assert len(parts) == 2
    retry(workshop.home, job.id)
    carry_out(workshop, job.id)
    assert get(workshop, recording).transcript_state == "done"
    assert [start for start, _ in parts[1:]] == [end for _, end in parts[:-1]]
    assert to_seconds(parts[-1][1]) == pytest.approx(75, abs=1)
