"""A worker elsewhere that is cut off in the middle of its work and comes back; network namespaces stand for machines."""

from __future__ import annotations

import io
import os
import shutil
import subprocess
import sys
import time
from collections.abc import Callable, Iterator
from contextlib import contextmanager

import numpy as np
import pytest
from conftest import Jaskel, assert_same_film, tone, write_media
from sqlalchemy import select

from bench.servers import programs, running_postgresql, running_redis
from jaskel.jobs import lease
from jaskel.settings import Settings
from jaskel.store.models import Job

HERE, THERE = "10.213.7.1", "10.213.7.2"


def ip(*words: str, check: bool = True) -> bool:
    return subprocess.run(["ip", *words], check=check, capture_output=True).returncode == 0


class Machine:
    """A network namespace that reaches this machine by one cable."""

    def __init__(self) -> None:
        self.name, self._cable = f"jaskel{os.getpid()}", f"jsk{os.getpid() % 100_000}"

    @contextmanager
    def there(self) -> Iterator[Machine]:
        if not shutil.which("ip") or not ip("netns", "add", self.name, check=False):
            pytest.skip("Network namespaces cannot be made here")
        try:
            ip("link", "add", self._cable, "type", "veth", "peer", "name", "far", "netns", self.name)
            ip("addr", "add", f"{HERE}/24", "dev", self._cable)
            ip("link", "set", self._cable, "up")
            ip("-n", self.name, "addr", "add", f"{THERE}/24", "dev", "far")
            ip("-n", self.name, "link", "set", "far", "up")
            ip("-n", self.name, "link", "set", "lo", "up")
            yield self
        finally:
            ip("netns", "del", self.name, check=False)
            ip("link", "del", self._cable, check=False)

    def plug(self, state: str) -> None:
        ip("link", "set", self._cable, state)

    def begin(self, *words: str, **environment: str) -> subprocess.Popen[str]:
        """Begin a program of Python on it."""
        command = ["ip", "netns", "exec", self.name, sys.executable, *words]
        return subprocess.Popen(command, env={**os.environ, **environment}, stdout=subprocess.PIPE, text=True)


@pytest.fixture(scope="module")
def machine():
    with Machine().there() as made:
        yield made


@pytest.fixture
def settings(machine, tmp_path):
    if programs() is None or not shutil.which("redis-server"):
        pytest.skip("PostgreSQL or Redis is not installed here")
    with running_postgresql(HERE) as postgresql, running_redis(tmp_path, HERE) as redis:
        yield Settings(tmp_path / "data", shared_database=postgresql.database(), queue=redis)


@pytest.fixture
def jaskel(settings):
    made = Jaskel(settings)
    yield made
    made.workshop.close()


def wait(true: Callable[[], object], seconds: float = 180) -> None:
    deadline = time.monotonic() + seconds
    while not true():
        assert time.monotonic() < deadline
        time.sleep(0.1)


def test_its_work_is_done_once_by_another_and_it_works_on_when_it_is_back(jaskel, machine, settings, tmp_path, monkeypatch):
    episode = jaskel.episode()
    jaskel.upload(episode["id"], write_media(tmp_path / "talk.mp4", np.float32(0.05 * tone(60)), pictures=1500))
    jaskel.work("prepare")
    edition = episode["editions"][0]["id"]

    def export() -> str:
        return str(jaskel.post(f"/api/editions/{edition}/exports", {"form": "mp4"}, 202)["id"])

    def job(name: str) -> Job:
        with jaskel.workshop.home.database.read() as session:
            return session.get_one(Job, name)

    first = export()
    worker = machine.begin("-m", "jaskel.cli", "worker", **settings.environment())
    try:
        wait(lambda: job(first).state == "running" and job(first).done > 0)
        machine.plug("down")
        whose = job(first).worker
        # To others it is as if it had died: here somebody notices sooner than after five minutes.
        monkeypatch.setattr(lease, "LOST_SECONDS", 0.2)
        time.sleep(3)
        wait(lambda: lease.recover(jaskel.workshop.home))
        monkeypatch.setattr(lease, "LOST_SECONDS", 30)
        jaskel.work("export")
        assert job(first).state == "done"
        machine.plug("up")
        later = export()
        wait(lambda: job(later).state == "done")
        assert job(first).state == "done" and job(first).attempts == 2
        with jaskel.workshop.home.database.read() as session:
            others = [*session.scalars(select(Job).where(Job.state.in_(("queued", "running")), Job.kind != "faces"))]
        assert whose and [each.kind for each in others if each.worker == whose and each.id == first] == []
    finally:
        machine.plug("up")
        worker.terminate()
        worker.wait(60)
    exports = jaskel.get(f"/api/episodes/{episode['id']}")["exports"]
    assert sorted(each["job_id"] for each in exports) == sorted([first, later])
    one, other = (io.BytesIO(jaskel.client.get(f"/api/exports/{each}/file").data) for each in (first, later))
    assert_same_film(one, other)  # whole, whoever wrote it


ANSWERED_LATER = """
import sys
from sqlalchemy import text
from jaskel.store.database import Database
with Database(sys.argv[1]).write() as session:
    print("writes", flush=True)
    session.execute(text("SELECT pg_sleep(1)"))
"""
"""Writes, and is cut off before it is answered."""


def test_what_it_was_writing_holds_nobody_up_for_long(jaskel, machine, settings):
    writing = machine.begin("-c", ANSWERED_LATER, settings.shared_database)
    try:
        assert writing.stdout.readline() == "writes\n"
        machine.plug("down")
        begun = time.monotonic()
        with jaskel.workshop.home.database.write():
            assert 1 < time.monotonic() - begun < 45
    finally:
        machine.plug("up")
        writing.kill()
        writing.wait()
