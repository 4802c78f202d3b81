"""Several workers: twenty episodes of three minutes through one, two and four of them, and what the queue itself takes.

The queue is measured with jobs that wait instead of computing: with four workers on two processors, what passes from one job to
the next is else mostly the time until a processor is free.
"""

from __future__ import annotations

import multiprocessing
import os
import shutil
import signal
import statistics
import threading
import time
from collections.abc import Iterator
from contextlib import ExitStack, closing
from itertools import pairwise
from multiprocessing.process import BaseProcess
from pathlib import Path

import numpy as np
import soundfile
from sqlalchemy import func, select

from bench.figure import Figure
from bench.servers import programs, running_postgresql, running_redis
from jaskel.core.timebase import RATE
from jaskel.jobs import apart, lease, worker
from jaskel.jobs.queue import ACTIVE, add_job, send
from jaskel.settings import Settings
from jaskel.store import library
from jaskel.store.home import Home
from jaskel.store.models import Job, Recording

EPISODES, SECONDS, WORKERS = 20, 180, (1, 2, 4)
MOST_SECONDS = 600
WAITS_SECONDS = 0.3

_FORKS = multiprocessing.get_context("forkserver")


def figures(folder: Path) -> Iterator[Figure]:
    """How long all of them take, and from the end of one job to the beginning of the next."""
    if not programs() or not shutil.which("redis-server"):
        yield Figure("several workers", "not measured", "PostgreSQL and Redis installed", True)
        return
    alone = 0.0
    for count in WORKERS:
        with ExitStack() as stack:
            made = folder / f"workers-{count}"
            made.mkdir()
            redis = stack.enter_context(running_redis(made))
            postgresql = stack.enter_context(running_postgresql())
            settings = Settings(made / "data", shared_database=postgresql.database(), queue=redis)
            _, queued = _run(settings, made / "waiting", count, waiting=True)
            taken, between = _run(settings, made / "log", count)
        alone = alone or taken
        name = f"{count} worker{'s'[: count > 1]}"
        yield Figure(f"{EPISODES} episodes of 3 min, {name}", f"{taken / alone:.2f} ×", "", True)
        middle, late = statistics.median(between), max(between)
        yield Figure(f"from one to the next, {name}, median", f"{middle * 1000:.0f} ms", "", True)
        yield Figure("the longest while jobs waited", f"{late * 1000:.0f} ms", "≤ 1000 ms", late <= 1)
        own = statistics.median(queued)
        yield Figure(f"of that the queue itself, {name}, median", f"{own * 1000:.0f} ms", "≤ 50 ms", own <= 0.05)


def _run(settings: Settings, log: Path, count: int, *, waiting: bool = False) -> tuple[float, list[float]]:
    """Seconds until all is done, and those from the end of a job to the beginning of the next while others waited.

    Jobs are done, or only waited for.
    """
    log.mkdir()
    with closing(Home(settings)) as home:
        home.database.migrate()
        begun = [_FORKS.Process(target=_work, args=(settings, log, waiting), daemon=False) for _ in range(count)]
        for each in begun:
            each.start()
        _wait(lambda: len([*log.iterdir()]) == count)
        jobs = _jobs(home)
        start = time.time()
        for each in jobs:
            send(home, each)
        _wait(lambda: not _left(home, jobs))
        taken = time.time() - start
    _end(begun)
    threads: dict[str, list[tuple[float, float]]] = {}
    for file in log.iterdir():
        for line in file.read_text().splitlines():
            thread, first, last = line.split()
            threads.setdefault(f"{file.name} {thread}", []).append((float(first), float(last)))
    last_begun = max(first for spans in threads.values() for first, _ in spans)
    gaps = [other[0] - one[1] for spans in threads.values() for one, other in pairwise(sorted(spans)) if one[1] < last_begun]
    return taken, gaps


def _jobs(home: Home) -> list[str]:
    """Twenty episodes whose sound is to be read."""
    ids = []
    for number in range(EPISODES):
        path = home.settings.data / "talk.flac"
        sound = 0.2 * np.sin(2 * np.pi * (200 + number) * np.arange(SECONDS * RATE) / RATE)
        soundfile.write(path, sound, RATE)
        received = home.vault.adopt(path)
        info = {
            "container": "flac",
            "seconds": SECONDS,
            "sound_codec": "flac",
            "channels": 1,
            "sample_rate": RATE,
            "picture": None,
        }
        with home.database.write() as session:
            show = library.new_show(session, f"Show {number}")
            episode = library.new_episode(session, show, f"Episode {number}")
            recording = Recording(
                episode_id=episode.id,
                name="talk.flac",
                digest=received.digest,
                size=received.size,
                info=info,
                state="preparing",
                length=0,
            )
            session.add(recording)
            session.flush()
            ids.append(add_job(session, "prepare", episode.id, recording.id, transcribe=False).id)
    return ids


def _left(home: Home, jobs: list[str]) -> int:
    with home.database.read() as session:
        return session.scalar(select(func.count()).where(Job.id.in_(jobs), Job.state.in_(ACTIVE))) or 0


def _wait(true) -> None:  # type: ignore[no-untyped-def]
    deadline = time.monotonic() + MOST_SECONDS
    while not true():
        assert time.monotonic() < deadline, "this took too long"
        time.sleep(0.05)


def _end(processes: list[BaseProcess]) -> None:
    for each in processes:
        if each.pid:
            os.kill(each.pid, signal.SIGTERM)
    for each in processes:
        each.join(30)


class _Waits:
    """A job that leaves the processors to others."""

    def __init__(self, _workshop: object, _job: Job) -> None:
        pass

    def ended(self) -> tuple[str, str]:
        time.sleep(WAITS_SECONDS)
        return "done", ""


def _work(settings: Settings, log: Path, waiting: bool) -> None:
    """A worker that writes down when each of its threads begins and ends work on a job; what lies between is the queue's."""
    out = (log / str(os.getpid())).open("w", buffering=1)
    claim, release, begun = lease.claim, lease.release, threading.local()

    def claimed(home: Home, job: str) -> Job | None:
        found = claim(home, job)
        begun.at = time.time()
        return found

    def released(home: Home, job: Job, state: str, trouble: str = "") -> None:
        if job.kind == "prepare":
            out.write(f"{threading.get_ident()} {begun.at} {time.time()}\n")
        release(home, job, state, trouble)

    lease.claim, lease.release = claimed, released  # type: ignore[assignment]
    if waiting:
        apart._Apart = _Waits  # type: ignore[assignment,misc]
    apart.begin_processes()
    worker.run(settings)
