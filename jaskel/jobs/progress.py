"""What every job is given to say how far it has come, and by which it learns that it has to stop."""

from __future__ import annotations

import time
from threading import Event

from jaskel.core.timebase import Ticks
from jaskel.jobs.queue import announce
from jaskel.store.home import Home
from jaskel.store.models import Job

REPORT_SECONDS = 0.25

stopping = Event()
"""Set when the worker is asked to end; running jobs then go back to the queue."""


HOLDING = frozenset(("disk-full", "not-allowed", "disk-failed", "no-database", "busy", "no-vault"))
"""Problems of the machine rather than of the work: it waits until they are over, and goes on by itself."""


class Cancelled(Exception):
    """A person cancelled the job."""


class Interrupted(Exception):
    """The worker ends; the job is to go on later."""


class Progress:
    """Given to every job to report how far it has come, in ticks of media. Raises where the job has to stop."""

    def __init__(self, home: Home, job_id: str) -> None:
        self._home, self._id, self._last = home, job_id, 0.0
        self.come: Ticks = 0
        """How far it has come, stored or not."""

    def __call__(self, done: Ticks) -> None:
        self.come = done
        if stopping.is_set():
            raise Interrupted
        if time.monotonic() - self._last >= REPORT_SECONDS:
            self.report(done)

    def report(self, done: Ticks) -> None:
        """Store progress now, however short ago the last report was."""
        self._last = time.monotonic()
        with self._home.database.write() as session:
            job = session.get(Job, self._id)
            if job is None or job.cancel:
                raise Cancelled
            job.done, job.beat = done, time.time()
            if done <= job.since:  # getting ready tells nothing of how long the work takes
                job.started, job.since = job.beat, done
            announce(session, job)
