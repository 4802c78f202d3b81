"""Jobs whose worker died, that wait for others, or that nobody wants any more."""

from __future__ import annotations

import os
import socket
import subprocess
import sys
import time
from contextlib import contextmanager

import pytest
from sqlalchemy.exc import OperationalError

from jaskel.core.problem import Missing, Problem
from jaskel.jobs import lease, queue
from jaskel.jobs.carry_out import carry_out
from jaskel.jobs.lease import LOST_SECONDS, MOST_ATTEMPTS, keep_alive, me, recover
from jaskel.jobs.progress import stopping
from jaskel.jobs.queue import add_job, cancel, retry
from jaskel.jobs.workshop import Workshop
from jaskel.store import library
from jaskel.store.models import Job, Recording
from jaskel.store.notices import since


@pytest.fixture
def workshop(settings):
    made = Workshop(settings)
    made.home.database.migrate()
    yield made
    made.close()


@pytest.fixture
def home(workshop):
    return workshop.home


@pytest.fixture
def sent(monkeypatch) -> list[str]:
    """Ids of the jobs that were sent to a worker."""
    messages: list[str] = []
    monkeypatch.setattr(queue, "_message", lambda _settings, _line: messages.append)
    return messages


@pytest.fixture
def done(monkeypatch) -> list[str]:
    """Subjects of the jobs that were carried out; their work is only noted."""
    subjects: list[str] = []
    kinds = dict.fromkeys(
        ("transcribe", "picture", "export", "prepare"), lambda _workshop, job, _progress: subjects.append(job.subject)
    )
    monkeypatch.setattr("jaskel.jobs.carry_out.handlers", lambda: kinds)
    return subjects


@pytest.fixture
def episode(home) -> str:
    with home.database.write() as session:
        return library.new_episode(session, library.new_show(session, "Ropewalk"), "The dry hull").id


def written(home, episode, kind="export", subject="e", **values) -> str:
    with home.database.write() as session:
        job = add_job(session, kind, episode, subject)
        for name, value in values.items():
            setattr(job, name, value)
        return job.id


def stored(home, job_id) -> Job:
    with home.database.read() as session:
        return session.get_one(Job, job_id)


def under_way(home, episode, **values) -> str:
    """A job that this worker is about."""
    job = written(home, episode, state="running", worker=me(), **values)
    lease._under_way.add(job)
    return job


def a_dead_process() -> str:
    process = subprocess.Popen([sys.executable, "-c", ""])
    process.wait()
    return f"{socket.gethostname()}:{process.pid}"


class TestAfterADeath:
    def test_what_a_dead_worker_had_goes_back_into_the_queue(self, home, episode, sent):
        job = written(home, episode, state="running", worker=a_dead_process(), beat=time.time(), attempts=1)
        assert recover(home) == sent == [job]
        assert (stored(home, job).state, stored(home, job).worker) == ("queued", "")

    def test_what_a_living_worker_has_stays_with_it(self, home, episode, sent):
        mine = under_way(home, episode, beat=time.time())
        neighbours = written(home, episode, subject="f", state="running", worker=f"{socket.gethostname()}:{os.getppid()}")
        with home.database.write() as session:
            session.get_one(Job, neighbours).beat = time.time()
        assert recover(home) == sent == []
        assert {stored(home, job).state for job in (mine, neighbours)} == {"running"}

    def test_a_worker_elsewhere_is_given_up_when_it_was_silent_for_long(self, home, episode, sent):
        silent = written(home, episode, state="running", worker="elsewhere:1", beat=time.time() - 11 * LOST_SECONDS)
        working = written(home, episode, subject="f", state="running", worker="elsewhere:1", beat=time.time() - LOST_SECONDS)
        assert recover(home) == sent == [silent]
        assert stored(home, working).state == "running"

    def test_a_message_that_was_lost_is_sent_again(self, home, episode, sent):
        lost = written(home, episode, beat=time.time() - 2 * LOST_SECONDS)
        fresh = written(home, episode, subject="f")
        assert recover(home) == sent == [lost]
        assert recover(home) == []
        assert stored(home, fresh).state == "queued"

    def test_a_worker_with_the_number_of_one_that_died_does_not_keep_its_jobs(self, home, episode, sent):
        before = f"{socket.gethostname()}:{os.getpid()}:another-start"
        job = written(home, episode, state="running", worker=before, beat=time.time(), attempts=1)
        assert recover(home) == sent == [job]

    def test_a_job_of_which_its_worker_does_not_know_is_not_kept_alive(self, home, episode, sent):
        job = written(home, episode, state="running", worker=me(), beat=1.0, attempts=1)
        keep_alive(home)
        assert stored(home, job).beat == 1.0
        assert recover(home) == sent == [job]

    def test_a_clock_that_was_set_back_holds_nothing_back(self, home, episode, sent):
        ahead = time.time() + 86_400
        waiting = written(home, episode, beat=ahead)
        running = written(home, episode, subject="f", state="running", worker="elsewhere:1", beat=ahead)
        assert recover(home) == sent == [waiting, running]

    def test_how_a_job_ended_is_stored_once_the_database_can_be_written_again(
        self, workshop, home, episode, sent, done, monkeypatch
    ):
        monkeypatch.setattr(lease, "RETRY_SECONDS", 0.01)
        write, times = home.database.write, []

        @contextmanager
        def often_full():
            times.append(1)
            if 2 <= len(times) <= 4:
                raise OperationalError("COMMIT", {}, Exception("database or disk is full"))
            with write() as session:
                yield session

        job = written(home, episode, "picture", "a")
        monkeypatch.setattr(home.database, "write", often_full)
        carry_out(workshop, job)
        assert len(times) == 5
        assert (stored(home, job).state, stored(home, job).trouble) == ("done", "")

    def test_what_stops_every_worker_is_not_tried_for_ever(self, home, episode, sent):
        with home.database.write() as session:
            recording = Recording(episode_id=episode, name="a", digest="0", size=1, info={})
            session.add(recording)
            session.flush()
            subject = recording.id
        dead = {"state": "running", "worker": a_dead_process(), "attempts": MOST_ATTEMPTS}
        job = written(home, episode, "transcribe", subject, **dead)
        assert recover(home) == sent == []
        assert "not tried again" in stored(home, job).trouble
        with home.database.read() as session:
            recording = session.get_one(Recording, subject)
            assert (recording.transcript_state, recording.transcript_trouble) == ("failed", stored(home, job).trouble)

    def test_what_was_cancelled_before_its_worker_died_is_not_begun_again(self, home, episode, sent):
        job = written(home, episode, state="running", worker=a_dead_process(), cancel=True)
        assert recover(home) == sent == []
        assert stored(home, job).state == "cancelled"

    def test_a_worker_says_that_it_lives_on_its_own_jobs_only(self, home, episode):
        mine = under_way(home, episode, beat=1.0)
        theirs = written(home, episode, subject="f", state="running", worker="elsewhere:1", beat=1.0)
        keep_alive(home)
        assert stored(home, mine).beat > time.time() - 60
        assert stored(home, theirs).beat == 1.0


class TestTurns:
    def test_what_takes_long_waits_in_a_line_of_its_own(self, workshop, home, episode):
        for kind in ("transcribe", "transcribe", "picture", "export", "prepare", "tidy"):
            queue.send(home, written(home, episode, kind, f"{kind} {time.monotonic()}"))
        lines = {line: queue.queue_of(home.settings, line).pending_count() for line in queue.LINES}
        assert lines == {"": 2, "transcribe": 2, "picture": 1, "export": 1, "part": 0}

    def test_a_worker_does_one_transcript_at_a_time(self, workshop, home):
        at_once = {line.name: number for line, number in queue.consume(home.settings, print)}
        assert at_once["jaskel.transcribe"] == at_once["jaskel.picture"] == 1 and at_once["jaskel"] > 1

    def test_no_work_is_begun_by_a_worker_that_ends(self, workshop, home, episode, done):
        job = written(home, episode)
        stopping.set()
        try:
            carry_out(workshop, job)
        finally:
            stopping.clear()
        assert (done, stored(home, job).state) == ([], "queued")


class TestAsking:
    def test_the_same_work_is_not_begun_twice(self, home, episode):
        job = written(home, episode)
        with pytest.raises(Problem, match="already under way") as caught:
            written(home, episode)
        assert caught.value.facts["job"] == job
        with home.database.write() as session:
            assert add_job(session, "export", episode, "e", form="mp3").id != job

    def test_what_waits_is_cancelled_at_once_and_can_be_tried_again(self, workshop, home, episode, sent, done):
        job = written(home, episode)
        cancel(home, job)
        carry_out(workshop, job)
        assert (done, stored(home, job).state) == ([], "cancelled")
        retry(home, job)
        assert sent == [job]
        carry_out(workshop, job)
        assert (done, stored(home, job).state) == (["e"], "done")

    @pytest.mark.parametrize("state", ["queued", "running", "done"])
    def test_only_what_has_stopped_can_be_tried_again(self, home, episode, state):
        with pytest.raises(Problem, match="can be tried again"):
            retry(home, written(home, episode, state=state))

    def test_work_that_is_gone_is_told_so(self, home):
        with pytest.raises(Missing, match="not in the list"):
            cancel(home, "nothing")

    def test_every_step_is_told_to_open_windows(self, workshop, home, episode, done):
        carry_out(workshop, written(home, episode))
        with home.database.read() as session:
            told = [notice.facts["state"] for notice, _ in since(session, 0) if notice.kind == "job"]
        assert told == ["queued", "running", "done"]
