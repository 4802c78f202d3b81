"""Several workers, as on several machines: a PostgreSQL, a Redis and a folder are what they share."""

from __future__ import annotations

import os
import subprocess
import sys
import threading
import time
from collections.abc import Callable

import pytest
from conftest import Jaskel, tone, write_media
from sqlalchemy import select

from jaskel.settings import Settings
from jaskel.store.models import Job
from jaskel.store.notices import Bell, post


@pytest.fixture
def settings(postgresql, redis, tmp_path):
    return Settings(tmp_path / "data", shared_database=postgresql.database(), queue=redis)


@pytest.fixture
def jaskel(settings):
    made = Jaskel(settings)
    yield made
    made.workshop.close()


@pytest.fixture
def workers(settings):
    """Three workers, each a process of its own."""
    command = [sys.executable, "-m", "jaskel.cli", "worker"]
    begun = [subprocess.Popen(command, env={**os.environ, **settings.environment()}) for _ in range(3)]
    yield begun
    for each in begun:
        each.terminate()
    for each in begun:
        each.wait(60)


def wait(true: Callable[[], object], seconds: float = 180) -> None:
    deadline = time.monotonic() + seconds
    while not true():
        assert time.monotonic() < deadline
        time.sleep(0.2)


def test_what_one_does_not_end_another_does_and_each_job_is_done_once(jaskel, workers, tmp_path):
    episode = jaskel.episode()["id"]
    for number in range(12):
        jaskel.upload(episode, write_media(tmp_path / f"{number}.flac", tone(2, 200 + number)))

    def jobs() -> list[Job]:
        with jaskel.workshop.home.database.read() as session:
            return [*session.scalars(select(Job).where(Job.kind == "prepare"))]

    def busy() -> set[str]:
        return {job.worker.split(":")[1] for job in jobs() if job.state == "running"}

    wait(lambda: len(busy()) > 1)  # several are at work
    victim = next(each for each in workers if str(each.pid) in busy())
    victim.kill()
    wait(lambda: all(job.state == "done" for job in jobs()))
    assert all(job.attempts <= 2 for job in jobs())
    recordings = jaskel.get(f"/api/episodes/{episode}")["recordings"]
    assert [each["state"] for each in recordings] == ["ready"] * 12
    assert {each["length"] for each in recordings} == {96_000}


def test_what_happens_is_heard_at_once(jaskel, settings):
    bell = Bell(settings.shared_database)
    bell.listen()
    rung = threading.Timer(0.3, lambda: _post(jaskel))
    rung.start()
    begun = time.monotonic()
    bell.wait(20)
    assert 0.2 < time.monotonic() - begun < 5
    bell.wait(0.1)
    bell.close()


def _post(jaskel) -> None:
    with jaskel.workshop.home.database.write() as session:
        post(session, "show")
