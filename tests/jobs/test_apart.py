"""Jobs in processes of their own: whatever one of them does, the worker goes on and says what happened."""

from __future__ import annotations

import os
import signal
import time
from threading import Thread

import numpy as np
import pytest

from jaskel.jobs import apart, carry_out, lease, progress
from jaskel.jobs.apart import carry_out_apart
from jaskel.jobs.carry_out import MOST_MEMORY
from jaskel.jobs.queue import add_job, cancel
from jaskel.jobs.workshop import Workshop
from jaskel.store import library
from jaskel.store.models import Job

HELD: list[np.ndarray] = []


def grows(_workshop, _job, _progress) -> None:
    while True:
        HELD.append(np.ones(20_000_000, np.uint8))
        time.sleep(0.01)


def hangs(_workshop, _job, _progress) -> None:
    time.sleep(600)


def dies(_workshop, _job, _progress) -> None:
    os.kill(os.getpid(), signal.SIGKILL)


def counts(_workshop, job, progress) -> None:
    for number in range(10_000):
        progress.report(number)
        time.sleep(0.02)


def made_up() -> dict:
    return {"grows": grows, "hangs": hangs, "dies": dies, "counts": counts, "does": lambda *_: None}


def do(settings, job_id, says) -> None:
    """As the real one, with kinds of job that only misbehave.

    It runs in a process that is not forked from this one: what other tests have left in memory here is not counted there.
    """
    carry_out.handlers = made_up
    apart._do(settings, job_id, says)


@pytest.fixture
def workshop(settings, monkeypatch):
    monkeypatch.setattr(apart, "PATIENCE_SECONDS", 0.5)
    monkeypatch.setattr(apart, "_do", do)
    monkeypatch.setattr(apart, "send", lambda _home, _job: None)
    made = Workshop(settings)
    made.home.database.migrate()
    yield made
    made.close()
    progress.stopping.clear()


def written(workshop, kind) -> str:
    with workshop.home.database.write() as session:
        episode = library.new_episode(session, library.new_show(session, "Ropewalk"), "The dry hull")
        return add_job(session, kind, episode.id, "x").id


def stored(workshop, job_id) -> Job:
    with workshop.home.database.read() as session:
        return session.get_one(Job, job_id)


def running(workshop, job_id, until) -> Thread:
    thread = Thread(target=carry_out_apart, args=(workshop, job_id))
    thread.start()
    deadline = time.monotonic() + 60
    while not until(stored(workshop, job_id)):
        assert time.monotonic() < deadline
        time.sleep(0.02)
    return thread


def test_a_job_is_done_in_another_process(workshop):
    job = written(workshop, "does")
    carry_out_apart(workshop, job)
    assert (stored(workshop, job).state, stored(workshop, job).attempts) == ("done", 1)


def test_one_that_takes_too_much_memory_fails_alone_with_a_sentence(workshop):
    job = written(workshop, "grows")
    carry_out_apart(workshop, job)
    told = stored(workshop, job)
    assert told.state == "failed" and f"more than {MOST_MEMORY // 1_000_000} MB of memory" in told.trouble


def test_one_that_hangs_can_be_cancelled(workshop):
    job = written(workshop, "hangs")
    thread = running(workshop, job, lambda known: known.state == "running")
    cancel(workshop.home, job)
    thread.join(10)
    assert not thread.is_alive() and stored(workshop, job).state == "cancelled"


def test_one_that_dies_is_tried_again_three_times(workshop):
    job = written(workshop, "dies")
    for attempt in (1, 2):
        carry_out_apart(workshop, job)
        assert (stored(workshop, job).state, stored(workshop, job).attempts) == ("queued", attempt)
    carry_out_apart(workshop, job)
    assert stored(workshop, job).state == "failed"
    assert f"stopped the worker {lease.MOST_ATTEMPTS} times" in stored(workshop, job).trouble


def test_when_the_worker_ends_it_goes_back_into_the_queue(workshop):
    job = written(workshop, "counts")
    thread = running(workshop, job, lambda known: known.done > 0)
    progress.stopping.set()
    thread.join(10)
    assert (stored(workshop, job).state, stored(workshop, job).attempts) == ("queued", 0)
