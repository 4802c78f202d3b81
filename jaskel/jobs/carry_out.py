"""Carrying out one job: claiming it, reporting its progress, and saying how it ended."""

from __future__ import annotations

import logging
import os
import socket
import time
from collections.abc import Callable

import psutil
from sqlalchemy import select, update

from jaskel.core.problem import Problem
from jaskel.jobs import bring, export, fit, prepare, remote, settle, spell, substitute, sync, tidy, transcribe, voices
from jaskel.jobs.progress import Cancelled, Interrupted, Progress, stopping
from jaskel.jobs.queue import ACTIVE, announce, send
from jaskel.jobs.workshop import Workshop
from jaskel.store.home import Home
from jaskel.store.models import BroughtText, Job, Recording

log = logging.getLogger("jaskel.jobs")

MOST_ATTEMPTS = 3
"""A job whose worker died this often is not tried again by itself."""

ONE_AT_A_TIME = ("transcribe", "picture")
"""Kinds of which only one runs at once: they use all processors anyway, and what people wait for goes before."""

Handler = Callable[[Workshop, Job, Progress], None]


def handlers() -> dict[str, Handler]:
    """What is done for each kind of job."""
    return {
        "prepare": prepare.prepare,
        "picture": prepare.picture,
        "bring": bring.bring,
        "fetch": remote.fetch,
        "fit": fit.fit_loose,
        "spell": spell.spell,
        "prints": voices.listen_to_voices,
        "voices": voices.tell_apart,
        "substitute": substitute.substitute,
        "listen": tidy.listen,
        "tidy": tidy.tidy_at_once,
        "settle": settle.settle,
        "sync": sync.sync_session,
        "transcribe": transcribe.transcribe_recording,
        "export": export.export_edition,
    }


def me() -> str:
    """Name of this worker process."""
    return f"{socket.gethostname()}:{os.getpid()}"


def carry_out(workshop: Workshop, job_id: str) -> None:
    """Do a job if it is still waiting, and store how it ended."""
    job = _claim(workshop.home, job_id)
    if job is None:
        return
    progress = Progress(workshop.home, job_id)
    state, trouble = "done", ""
    try:
        handlers()[job.kind](workshop, job, progress)
    except Cancelled:
        state = "cancelled"
    except Interrupted:
        state = "queued"
    except Problem as problem:
        state, trouble = "failed", problem.sentence
    except Exception:
        log.exception("job %s (%s) failed", job.id, job.kind)
        state = "failed"
        trouble = "Something went wrong inside Jaskel; the worker's log has the details. Nothing is lost: try again."
    _finish(workshop.home, job_id, state, trouble)
    if job.kind in ONE_AT_A_TIME:
        _send_next(workshop.home, job.kind)


def _claim(home: Home, job_id: str) -> Job | None:
    with home.database.write() as session:
        job = session.get(Job, job_id)
        if job is None or job.state != "queued" or stopping.is_set():
            return None
        running = select(Job.id).where(Job.kind == job.kind, Job.state == "running")
        if job.kind in ONE_AT_A_TIME and session.scalar(running):
            return None
        job.state, job.worker, job.beat, job.attempts = "running", me(), time.time(), job.attempts + 1
        announce(session, job)
        return job


def _finish(home: Home, job_id: str, state: str, trouble: str) -> None:
    with home.database.write() as session:
        job = session.get_one(Job, job_id)
        job.state, job.trouble, job.worker, job.cancel = state, trouble, "", False
        if state == "queued":
            job.attempts -= 1
        if state == "done" and job.total:
            job.done = job.total
        if state == "failed" and job.kind in ("prepare", "transcribe"):
            _mark_failed(session.get(Recording, job.subject), job)
        elif state in ("failed", "cancelled") and job.kind == "bring":
            brought = session.get(BroughtText, job.subject)
            if brought:
                brought.state, brought.trouble = ("failed", trouble) if state == "failed" else ("seen", "")
        elif state == "cancelled" and job.kind == "transcribe":
            recording = session.get(Recording, job.subject)
            if recording:
                recording.transcript_state = "stopped"
        announce(session, job)


def _mark_failed(recording: Recording | None, job: Job) -> None:
    if recording and job.kind == "prepare":
        recording.state, recording.trouble = "failed", job.trouble
    elif recording:
        recording.transcript_state, recording.transcript_trouble = "failed", job.trouble


def _send_next(home: Home, kind: str) -> None:
    with home.database.read() as session:
        waiting = session.scalar(select(Job.id).where(Job.kind == kind, Job.state == "queued").order_by(Job.created).limit(1))
    if waiting and not stopping.is_set():
        send(home, waiting)


LOST_SECONDS = 30.0
"""A job whose worker has not been heard of for so long, or that waits for so long, is sent again."""


def recover(home: Home) -> list[str]:
    """Put jobs whose worker died back into the queue, and send again what waits for long. Gives their ids."""
    again: list[str] = []
    with home.database.write() as session:
        for job in session.scalars(select(Job).where(Job.state.in_(ACTIVE)).order_by(Job.created)):
            silent = time.time() - job.beat
            if job.state == "running" and not (_dead(job.worker) or silent > 10 * LOST_SECONDS):
                continue
            if job.state == "queued" and silent < LOST_SECONDS:
                continue
            if job.state == "running" and job.attempts >= MOST_ATTEMPTS:
                job.state, job.worker = "failed", ""
                job.trouble = f"This stopped the worker {MOST_ATTEMPTS} times, so it is not tried again by itself."
                _mark_failed(session.get(Recording, job.subject), job) if job.kind in ("prepare", "transcribe") else None
            elif job.cancel:
                job.state, job.worker, job.cancel = "cancelled", "", False
            else:
                job.state, job.worker, job.beat = "queued", "", time.time()
                again.append(job.id)
            announce(session, job)
    for job_id in again:
        send(home, job_id)
    return again


def keep_alive(home: Home) -> None:
    """Say that this worker lives, on all jobs it has."""
    with home.database.write() as session:
        session.execute(update(Job).where(Job.worker == me(), Job.state == "running").values(beat=time.time()))


def _dead(worker: str) -> bool:
    host, _, pid = worker.rpartition(":")
    if host != socket.gethostname() or not pid.isdigit():
        return False
    return worker != me() and not psutil.pid_exists(int(pid))
