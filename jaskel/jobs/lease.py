"""Who has a job: taking it, keeping it, giving it back, and taking it over from a worker that died."""

from __future__ import annotations

import logging
import os
import secrets
import socket
import time
from threading import Lock

import psutil
from sqlalchemy import select, update
from sqlalchemy.exc import SQLAlchemyError

from jaskel.jobs.aside import bring_back
from jaskel.jobs.progress import stopping
from jaskel.jobs.queue import ACTIVE, announce, send
from jaskel.jobs.tell import start_telling
from jaskel.store.database import problem_of
from jaskel.store.home import Home
from jaskel.store.models import BroughtText, Job, Recording

log = logging.getLogger("jaskel.jobs")

MOST_ATTEMPTS = 3
"""A job whose worker died this often is not tried again by itself."""

IN_ORDER = ("export",)
"""Kinds that are done in the order people put them in: a message only says that one of them waits."""

LOST_SECONDS = 30.0
"""A job whose worker has not been heard of for ten times as long, or that waits for so long, is sent again."""

BEAT = "worker.beat"
"""A file of the data folder that is touched as long as the worker lives."""

RETRY_SECONDS = 2.0
"""Between attempts to store how a job ended, when the disk is full or the database is locked."""

_ME = f"{socket.gethostname()}:{os.getpid()}:{secrets.token_hex(6)}"
_under_way: set[str] = set()
_lock = Lock()


def me() -> str:
    """Name of this worker, another one at each start: process numbers come again."""
    return _ME


def claim(home: Home, job_id: str) -> Job | None:
    """Take a job that is waiting; None where it is not.

    Of work that is done in order, it may be another one than was asked for.
    """
    with home.database.write() as session:
        job = session.get(Job, job_id)
        if job is not None and job.kind in IN_ORDER:
            waiting = select(Job).where(Job.kind == job.kind, Job.state == "queued")
            job = session.scalar(waiting.order_by(Job.place, Job.created).limit(1))
        if job is None or job.state != "queued" or stopping.is_set():
            return None
        job.state, job.worker, job.beat, job.attempts = "running", me(), time.time(), job.attempts + 1
        job.started, job.since, job.trouble = job.beat, job.done, ""
        announce(session, job)
        with _lock:
            _under_way.add(job.id)
        return job


def release(home: Home, job: Job, state: str, trouble: str = "") -> None:
    """Store how a job ended, however long that takes: on a full disk, or while somebody else writes.

    ``state`` is that of the job, or ``died`` where its process ended without a word: it waits again, and the attempt counts.
    Where it is ``held`` up by the machine it waits, too, and is tried again every :data:`LOST_SECONDS`.
    A worker that is asked to end gives up; the job is then taken over like that of a worker that died.
    """
    while True:
        try:
            if told := _finish(home, job.id, state, trouble):
                send(home, told)
            break
        except (SQLAlchemyError, OSError) as error:
            log.warning("how job %s ended (%s) could not be stored: %s", job.id, state, problem_of(error) or error)
            if stopping.wait(RETRY_SECONDS):
                break
    with _lock:
        _under_way.discard(job.id)


def _finish(home: Home, job_id: str, state: str, trouble: str) -> str | None:
    """Store it; gives the id of the job that tells people of it, if any is to."""
    with home.database.write() as session:
        job = session.get(Job, job_id)
        if job is None or job.state != "running" or job.worker != me():
            return None  # it was taken over, or what it was about is gone
        if state == "cancelled" and job.details.get("pause"):
            state = "paused"
            job.details = {key: value for key, value in job.details.items() if key != "pause"}
        again = state in ("died", "held")
        job.state, job.trouble, job.worker, job.cancel = "queued" if again else state, trouble, "", False
        if state == "held":
            job.beat = time.time()  # it is sent again when it has waited
        if state in ("queued", "held"):
            job.attempts -= 1  # it was only interrupted
        if state == "done" and job.total:
            job.done = job.total
        if state in ("failed", "cancelled") and bring_back(home, session, job):
            announce(session, job)
            return None
        if state == "failed":
            _mark_failed(session.get(Recording, job.subject), job)
        if state in ("failed", "cancelled") and job.kind == "bring":
            brought = session.get(BroughtText, job.subject)
            if brought:
                brought.state, brought.trouble = ("failed", trouble) if state == "failed" else ("seen", "")
        elif state == "cancelled" and job.kind == "transcribe":
            recording = session.get(Recording, job.subject)
            if recording:
                recording.transcript_state = "stopped"
        announce(session, job)
        return start_telling(session, job) if state in ("done", "failed") else None


def _mark_failed(recording: Recording | None, job: Job) -> None:
    if recording and job.kind == "prepare":
        recording.state, recording.trouble = "failed", job.trouble
    elif recording and job.kind == "transcribe":
        recording.transcript_state, recording.transcript_trouble = "failed", job.trouble


def recover(home: Home) -> list[str]:
    """Put jobs whose worker died back into the queue, and send again what waits for long. Gives their ids."""
    again: list[str] = []
    with home.database.write() as session:
        for job in session.scalars(select(Job).where(Job.state.in_(ACTIVE)).order_by(Job.created)):
            silent = abs(time.time() - job.beat)  # a clock that was set back makes a beat lie ahead
            if job.state == "running" and not (_dead(job) or silent > 10 * LOST_SECONDS):
                continue
            if job.state == "queued" and silent < LOST_SECONDS:
                continue
            if job.cancel:
                paused = job.details.get("pause")
                job.state, job.worker, job.cancel = "paused" if paused else "cancelled", "", False
                job.details = {key: value for key, value in job.details.items() if key != "pause"}
                bring_back(home, session, job)
            elif job.state == "running" and job.attempts >= MOST_ATTEMPTS:
                job.state, job.worker = "failed", ""
                job.trouble = f"This stopped the worker {MOST_ATTEMPTS} times, so it is not tried again by itself."
                if not bring_back(home, session, job):
                    _mark_failed(session.get(Recording, job.subject), job)
            else:
                job.state, job.worker, job.beat = "queued", "", time.time()
                again.append(job.id)
            announce(session, job)
    for job_id in again:
        send(home, job_id)
    return again


def keep_alive(home: Home) -> None:
    """Say that this worker lives, on the jobs it is about."""
    with _lock:
        mine = list(_under_way)
    with home.database.write() as session:
        alive = Job.worker == me(), Job.state == "running", Job.id.in_(mine)
        session.execute(update(Job).where(*alive).values(beat=time.time()))


def _dead(job: Job) -> bool:
    """Whether the worker that has a job is known to be gone, or does not know of the job any more."""
    if job.worker == me():
        with _lock:
            return job.id not in _under_way
    host, pid, *_ = (*job.worker.split(":"), "")
    if host != socket.gethostname() or not pid.isdigit():
        return False
    if int(pid) == os.getpid():
        return True  # it was another one with the same number
    try:
        process = psutil.Process(int(pid))
        return process.status() == psutil.STATUS_ZOMBIE or process.create_time() > job.beat + 1
    except psutil.NoSuchProcess:
        return True
    except psutil.Error:
        return False
