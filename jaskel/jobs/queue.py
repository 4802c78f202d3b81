"""The queue between server and worker, and how a job gets into it.

The queue only carries ids. What a job is and how far it has come stands in the database; a message that is lost or comes
twice does no harm.
"""

from __future__ import annotations

import time
from collections.abc import Callable
from functools import lru_cache
from typing import Any

from huey import Huey, RedisHuey, SqliteHuey
from redis import ConnectionPool, Redis
from redis.exceptions import RedisError
from sqlalchemy import func, select
from sqlalchemy.orm import Session

from jaskel.core.problem import Missing, Problem
from jaskel.jobs.aside import bring_back
from jaskel.settings import Settings
from jaskel.store.home import Home
from jaskel.store.models import Job
from jaskel.store.notices import post

ACTIVE = ("queued", "running")

PART = "part"
"""The kind of a part of other work (:mod:`jaskel.jobs.parts`): nobody but workers hears of it."""

LINES = {"": 2, "export": 2, "transcribe": 1, "picture": 1, PART: 1}
"""The lines that jobs wait in, by their kind, and how many of each a worker does at once; most kinds are in the first.

What takes long has a line of its own, so that what a person waits for never waits behind it.
"""


@lru_cache(maxsize=64)
def queue_of(settings: Settings, line: str = "") -> Huey:
    """A line of the queue of a data folder; ``settings.queue`` may name a Redis to share one between machines."""
    name = f"jaskel.{line}" if line else "jaskel"
    if settings.queue:
        # Where the network loses a connection, waiting on it ends, and a new one is begun.
        pool = ConnectionPool.from_url(settings.queue, socket_timeout=15, socket_connect_timeout=5, socket_keepalive=True)
        return RedisHuey(name, connection_pool=pool, results=False)
    return SqliteHuey(name, filename=str(settings.data / "queue.db"), results=False, fsync=True)


def line_of(kind: str) -> str:
    return kind if kind in LINES else ""


def check_queue(settings: Settings) -> None:
    """Refuse a shared queue that does not answer.

    Raises
    ------
    Problem
        ``no-queue``.
    """
    if not settings.queue:
        return
    try:
        Redis.from_url(settings.queue, socket_connect_timeout=5).ping()
    except (RedisError, ValueError) as error:
        raise Problem(
            "no-queue", f"The queue at {settings.queue} (JASKEL_QUEUE) does not answer: {error}. Start it, or leave it out."
        ) from error


def add_job(session: Session, kind: str, episode_id: str | None, subject: str, total: int = 0, **details: Any) -> Job:
    """Write down a job; call :func:`send` once the transaction is stored.

    Raises
    ------
    Problem
        ``already-running`` when the same work is already waiting or under way.
    """
    same = select(Job).where(Job.kind == kind, Job.subject == subject, Job.state.in_(ACTIVE))
    for job in session.scalars(same):
        if job.details == details:
            raise Problem("already-running", "That is already under way; its progress is shown on the page.", job=job.id)
    job = Job(kind=kind, episode_id=episode_id, subject=subject, total=total, details=details, beat=time.time())
    session.add(job)
    session.flush()
    announce(session, job)
    return job


def send(home: Home, job_id: str) -> None:
    """Put a job into its line."""
    with home.database.read() as session:
        kind = session.scalar(select(Job.kind).where(Job.id == job_id))
    if kind is not None:
        _message(home.settings, line_of(kind))(job_id)


def consume(settings: Settings, do: Callable[[str], None]) -> list[tuple[Huey, int]]:
    """Let this process do what comes out of the queue: ``do`` is given the id of each job.

    Gives each line, and how many of its jobs are to be done at once.
    """
    _doing[settings] = do
    for line in LINES:
        _message(settings, line)
    return [(queue_of(settings, line), at_once) for line, at_once in LINES.items()]


_doing: dict[Settings, Callable[[str], None]] = {}


@lru_cache(maxsize=64)
def _message(settings: Settings, line: str) -> Callable[[str], None]:
    """The one kind of message in the queue: it names a job."""

    @queue_of(settings, line).task(name="carry_out")  # type: ignore[untyped-decorator]
    def carry_out(job_id: str) -> None:
        _doing[settings](job_id)

    return carry_out  # type: ignore[no-any-return]


def announce(session: Session, job: Job) -> None:
    """Tell open windows how a job stands."""
    if job.kind == PART:
        return
    post(session, "job", job.of_episode, id=job.id, kind=job.kind, subject=job.subject, state=job.state, done=job.done,
         total=job.total, trouble=job.trouble, cancel=job.cancel, left=seconds_left(job),
         form=job.details.get("form", ""), destination=job.details.get("called", ""))  # fmt: skip


TELLING = 0.1
"""Share of what there was to do when a job was begun that has to be done before it tells how long the rest takes."""


def seconds_left(job: Job) -> int | None:
    """How long a job that runs still takes, if it goes on as it went; None while nobody can tell."""
    come, left = job.done - job.since, job.total - job.done
    if job.state != "running" or not job.started or come <= 0 or come < TELLING * (come + left):
        return None
    return max(1, round((job.beat - job.started) * left / come - (time.time() - job.beat)))


def cancel(home: Home, job_id: str) -> Job:
    """Stop a job: at once when it waits, at its next step when it runs.

    Raises
    ------
    Missing
        When there is no such job.
    """
    with home.database.write() as session:
        job = _job(session, job_id)
        if job.state in ("queued", "paused"):
            job.state = "cancelled"
            bring_back(home, session, job)
            announce(session, job)
        elif job.state == "running":
            job.cancel = True
            job.details = {key: value for key, value in job.details.items() if key != "pause"}
            announce(session, job)
        return job


def pause(home: Home, job_id: str) -> Job:
    """Let an export rest until somebody lets it go on; what it had not finished it does again then.

    Raises
    ------
    Problem
        ``not-under-way``.
    """
    with home.database.write() as session:
        job = _job(session, job_id)
        if job.kind != "export" or job.state not in ACTIVE or job.cancel:
            raise Problem("not-under-way", "Only exports that wait or run can be paused.")
        if job.state == "queued":
            job.state = "paused"
        else:
            job.cancel, job.details = True, {**job.details, "pause": True}
        announce(session, job)
        return job


def put_first(home: Home, job_id: str) -> Job:
    """Let an export that waits come before all others.

    Raises
    ------
    Problem
        ``not-waiting``.
    """
    with home.database.write() as session:
        job = _job(session, job_id)
        if job.kind != "export" or job.state != "queued":
            raise Problem("not-waiting", "Only exports that wait can be put first.")
        job.place = (session.scalar(select(func.min(Job.place)).where(Job.kind == job.kind)) or 0) - 1
        announce(session, job)
        return job


def retry(home: Home, job_id: str) -> Job:
    """Let a job that failed, was paused or cancelled go on from where it came to."""
    with home.database.write() as session:
        job = _job(session, job_id)
        if job.state not in ("failed", "cancelled", "paused"):
            raise Problem("not-stopped", "Only work that failed, was paused or cancelled can be tried again.")
        job.state, job.cancel, job.trouble, job.attempts, job.beat = "queued", False, "", 0, time.time()
        announce(session, job)
    send(home, job_id)
    return job


def _job(session: Session, job_id: str) -> Job:
    job = session.get(Job, job_id)
    if job is None:
        raise Missing("no-job", "This work is not in the list any more.")
    return job
