"""A job in a process of its own: what a hostile file does there is done to that process alone.

The worker looks at the memory of that process, ends it where it has to be ended, and says what became of the job. Work on a few
seconds of sound stays in the worker, where the aligner is loaded.
"""

from __future__ import annotations

import gc
import logging
import multiprocessing
import os
import signal
import time
from collections.abc import Sequence
from contextlib import suppress
from functools import cache
from multiprocessing import connection, forkserver
from multiprocessing.process import BaseProcess
from threading import Thread

import psutil
from sqlalchemy.exc import SQLAlchemyError

from jaskel.jobs import lease
from jaskel.jobs.carry_out import carry_out, memory_for, too_much, work
from jaskel.jobs.progress import stopping
from jaskel.jobs.queue import send
from jaskel.jobs.workshop import Workshop
from jaskel.settings import Settings
from jaskel.store.database import problem_of
from jaskel.store.models import Job

log = logging.getLogger("jaskel.jobs")

IN_THE_WORKER = ("fit", "spell", "settle")
"""Kinds of short work: a process of its own would take longer to begin than they take."""

LOOK_SECONDS, ASK_SECONDS = 0.05, 0.5
"""How often its memory is looked at, and how often the database is asked whether somebody cancelled it."""

PATIENCE_SECONDS = 4.0
"""So long a job has to notice that it is to stop; then it is ended."""

PRELOADED = ["jaskel.jobs.apart", "faster_whisper", "scipy.ndimage", "scipy.signal", "soxr", "pocketsphinx"]

_processes = multiprocessing.get_context("forkserver")
_processes.set_forkserver_preload(PRELOADED)


SPARING = {"MALLOC_ARENA_MAX": "1", "MKL_DISABLE_FAST_MM": "1"}
"""Has the C library and the matrix library hand memory back instead of keeping it for each thread: a transcript takes 400 MB
less, in the same time. They read this when their process starts."""


UNHURRIED, LOWER = ("picture", "faces", "meant"), 10
"""Kinds of work that nobody waits for, and by how much their processes give way to the others."""


def begin_processes() -> None:
    """Have the process from which those of jobs are forked import what they need, before the first of them is wanted."""
    for name, value in SPARING.items():
        os.environ.setdefault(name, value)
    forkserver.ensure_running()


@cache
def _wait_for_processes() -> None:
    """Wait until that process has imported everything: a job taken before that could neither begin nor be cancelled."""
    first = _processes.Process(target=_nothing, daemon=True)
    first.start()
    first.join()


def _nothing() -> None:
    """What the first process does."""


def carry_out_apart(workshop: Workshop, job_id: str) -> None:
    """Do a job if it is still waiting, and store how it ended."""
    with workshop.home.database.read() as session:
        job = session.get(Job, job_id)
    if job is None or (job.state != "queued" and job.kind not in lease.IN_ORDER):
        return  # done otherwise meanwhile: nothing has to be imported for that
    if job.kind in IN_THE_WORKER:
        carry_out(workshop, job_id)
        return
    _wait_for_processes()
    if claimed := lease.claim(workshop.home, job_id):
        state, trouble = _Apart(workshop, claimed).ended()
        lease.release(workshop.home, claimed, state, trouble)
        if state in ("queued", "died") and not stopping.is_set():
            send(workshop.home, claimed.id)


class _Apart:
    """One job in its process."""

    def __init__(self, workshop: Workshop, job: Job) -> None:
        self._home, self._job, self._most = workshop.home, job, memory_for(workshop, job)
        self._said, says = _processes.Pipe(duplex=False)
        self._process: BaseProcess = _processes.Process(target=_do, args=(workshop.settings, job.id, says), daemon=False)
        self._process.start()
        says.close()

    def ended(self) -> tuple[str, str]:
        """Wait until it is over; gives the state the job ended in, and what is to be told where it failed."""
        asked, most = time.monotonic(), self._most
        to_stop: float | None = None
        processes = _tree(self._process)
        try:
            while not self._said.poll(LOOK_SECONDS) and self._process.is_alive():
                if memory_of(processes) > most:
                    return "failed", too_much(most)
                now = time.monotonic()
                if now - asked > ASK_SECONDS:
                    asked = now
                    processes = _tree(self._process)
                    if to_stop is None and stopping.is_set():
                        self._process.terminate()
                        to_stop = now
                    elif to_stop is None and self._cancelled():
                        to_stop = now
                if to_stop is not None and now - to_stop > PATIENCE_SECONDS:
                    return ("queued", "") if stopping.is_set() else ("cancelled", "")
            return self._answer()
        finally:
            self._end()

    def _answer(self) -> tuple[str, str]:
        try:
            state, trouble = self._said.recv()
            return str(state), str(trouble)
        except (EOFError, OSError):
            pass
        log.error("the process of job %s (%s) died: %s", self._job.id, self._job.kind, self._process.exitcode)
        if self._job.attempts >= lease.MOST_ATTEMPTS:
            return "failed", f"This stopped the worker {lease.MOST_ATTEMPTS} times, so it is not tried again by itself."
        return "died", ""

    def _cancelled(self) -> bool:
        """Whether it was, or another worker has it: this one was not heard of for too long."""
        try:
            with self._home.database.read() as session:
                job = session.get(Job, self._job.id)
                return job is None or job.cancel or job.worker != lease.me()
        except (SQLAlchemyError, OSError) as error:
            log.warning("could not ask whether job %s was cancelled: %s", self._job.id, problem_of(error) or error)
            return False

    def _end(self) -> None:
        """End the process and those it started, if they have not ended by themselves."""
        self._process.join(0.5)
        if self._process.is_alive():
            for each in reversed(_tree(self._process)):
                with suppress(psutil.NoSuchProcess):
                    each.kill()
            self._process.join()
        self._said.close()
        self._process.close()


def _tree(process: BaseProcess) -> list[psutil.Process]:
    """The process of a job, and those it has started."""
    try:
        first = psutil.Process(process.pid)
        return [first, *first.children(recursive=True)]
    except psutil.Error:
        return []


def memory_of(processes: Sequence[psutil.Process]) -> int:
    """Bytes of resident memory of the largest of some processes."""
    most = 0
    for each in processes:
        with suppress(psutil.Error):
            most = max(most, each.memory_info().rss)
    return most


def _do(settings: Settings, job_id: str, says) -> None:  # type: ignore[no-untyped-def]
    """What the process does: the work, and saying how it ended."""
    signal.signal(signal.SIGTERM, lambda _signal, _frame: stopping.set())
    signal.signal(signal.SIGINT, signal.SIG_IGN)  # Ctrl+C is for the one that looks after all of them
    Thread(target=_end_with_worker, daemon=True).start()
    gc.freeze()
    workshop = Workshop(settings)
    try:
        with workshop.home.database.read() as session:
            job = session.get_one(Job, job_id)
        if job.kind in UNHURRIED:
            os.nice(LOWER)
        says.send(work(workshop, job))
    finally:
        workshop.close()


def _end_with_worker() -> None:
    """End at once when the worker was killed: another one takes the job over, and two must not write the same."""
    worker = multiprocessing.parent_process()
    if worker is not None:
        connection.wait([worker.sentinel])
        os._exit(1)
