"""Long work cut into parts: where a queue is shared, several workers take them, and who began it puts them together.

Each part is a job of its own, queued, leased and taken over like all others (:mod:`jaskel.jobs.lease`). Who puts together goes
through them in order and makes itself whatever nobody else has taken or finished, so that it never waits for help, and a part
whose worker dies or is not heard of costs no more than making it again. What a part is made of is told by its ``print``: a
worker that would make something else, because something was edited meanwhile, leaves it.
"""

from __future__ import annotations

import hashlib
import shutil
import time
from collections.abc import Callable, Mapping
from contextlib import AbstractContextManager
from pathlib import Path
from types import TracebackType

from sqlalchemy import delete, or_, select, update

from jaskel.core.problem import Problem
from jaskel.jobs.progress import Cancelled, Progress
from jaskel.jobs.queue import ACTIVE, PART, send
from jaskel.store.home import Home
from jaskel.store.models import Job

FEWEST = 2
"""So many parts are worth being shared."""

SILENT_SECONDS = 30.0
"""A part whose worker was not heard of for so long is made again by who waits for it."""

LOOK_SECONDS = 0.25

Make = Callable[[Path, Callable[[int], None]], None]
"""Writes a part as a file, and says how far it has come."""


def print_of(*what: object) -> str:
    """A print of what a part is made of; what is given says all of itself when it is printed, the same in every process."""
    return hashlib.sha256(repr(what).encode()).hexdigest()[:32]


class Parts(AbstractContextManager["Parts"]):
    """The parts of a job that runs in this process, by their prints and in order, until the block ends.

    ``kind`` and ``subject`` say how others make them and of what, ``about`` what else they have to know to make the same.
    ``onward`` is called while others are waited for, and raises where the job has to stop.
    """

    def __init__(
        self,
        home: Home,
        job: Job,
        kind: str,
        subject: str,
        makes: Mapping[str, Make],
        onward: Callable[[], None],
        **about: int,
    ) -> None:
        self._home, self._job, self._makes, self._onward = home, job.id, makes, onward
        self._about = {"kind": kind, "subject": subject, **about}
        self._prints = [*makes] if home.settings.queue and len(makes) >= FEWEST else []

    def __enter__(self) -> Parts:
        """Hand them out. What an attempt that was broken off had made stays, if it is still the same."""
        if not self._prints:
            return self
        with self._home.database.write() as session:
            known = {row.details["print"]: row for row in session.scalars(self._rows())}
            for print_, row in known.items():
                if print_ not in self._prints:
                    session.delete(row)
            waiting: list[Job] = []
            for number, print_ in enumerate(self._prints):
                row = known.get(print_) or Job(kind=PART, subject=self._job, beat=time.time())
                row.details = {**self._about, "print": print_}
                if row.state != "running" and not self.made(number):
                    row.state = "queued"
                    waiting.append(row)
                session.add(row)
            session.flush()
            ids = [row.id for row in waiting]
        for id_ in ids[1:]:  # the first is begun here at once
            send(self._home, id_)
        return self

    def __exit__(self, kind: type[BaseException] | None, error: BaseException | None, trace: TracebackType | None) -> None:
        """Nobody makes parts any more; what was made stays where the job goes on later."""
        if not self._prints:
            return
        goes_on = kind is not None and not issubclass(kind, Cancelled)
        with self._home.database.write() as session:
            over = self._rows(Job.state == "queued") if goes_on else self._rows()
            session.execute(delete(Job).where(Job.id.in_(select(over.subquery().c.id))))
        if not goes_on:
            shutil.rmtree(self._home.vault.parts(self._job), ignore_errors=True)

    def elsewhere(self, number: int) -> Path | None:
        """The file of a part that another worker made; None where it is to be made here, which nobody else does from then on.

        While others make it, later parts that nobody has are made here.
        """
        while self._prints and not self.made(number):
            if self.taken(number):
                return None
            later = next((each for each in range(number + 1, len(self._prints)) if self._is_free(each)), None)
            if later is None:
                self.wait()
            else:
                with self._home.vault.making(self._file(later)) as new:
                    self._makes[self._prints[later]](new, lambda _: self._onward())
        return self._file(number) if self._prints else None

    def made(self, number: int) -> bool:
        """Whether another worker has made a part."""
        return bool(self._prints) and self._file(number).exists()

    def wait(self) -> None:
        """Wait a little for others."""
        self._onward()
        time.sleep(LOOK_SECONDS)

    def taken(self, number: int) -> bool:
        """Keep others from making a part; not where one makes it who was heard of lately."""
        return not self._prints or self._withdrawn(number, "queued", "running", "done", "failed", "cancelled")

    def _is_free(self, number: int) -> bool:
        """Whether nobody has a part; if so nobody else does from now on."""
        return not self.made(number) and self._withdrawn(number, "queued", "failed")

    def _withdrawn(self, number: int, *states: str) -> bool:
        nobodys = or_(Job.state != "running", Job.beat < time.time() - SILENT_SECONDS)
        with self._home.database.write() as session:
            row = next((each for each in session.scalars(self._rows()) if each.details["print"] == self._prints[number]), None)
            if row is None:
                return "cancelled" in states
            mine = update(Job).where(Job.id == row.id, Job.state.in_(states), nobodys).values(state="cancelled", worker="")
            return bool(session.execute(mine).rowcount)  # type: ignore[attr-defined]

    def _rows(self, *more: object):  # type: ignore[no-untyped-def]
        return select(Job).where(Job.kind == PART, Job.subject == self._job, *more)  # type: ignore[arg-type]

    def _file(self, number: int) -> Path:
        return _file(self._home, self._job, self._prints[number])


def _file(home: Home, job: str, print_: str) -> Path:
    return home.vault.parts(job) / print_


def make_wanted(home: Home, part: Job, makes: Mapping[str, Make], progress: Progress) -> None:
    """Make a part for another worker, if it still is one that is wanted.

    Raises
    ------
    Problem
        ``another-part``.
    """
    print_ = part.details["print"]
    if print_ not in makes:
        raise Problem("another-part", "What this is a part of was changed meanwhile, so it is made where it was begun.")
    with home.vault.making(_file(home, part.subject, print_)) as new:
        makes[print_](new, progress)
    if whole_of(home, part) is None:
        shutil.rmtree(home.vault.parts(part.subject), ignore_errors=True)
        raise Cancelled


def whole_of(home: Home, part: Job) -> Job | None:
    """The job that a part belongs to, None where that is over."""
    with home.database.read() as session:
        job = session.get(Job, part.subject)
        return job if job is not None and job.state in ACTIVE and not job.cancel else None


def sweep_parts(home: Home) -> None:
    """Delete the parts of what is over."""
    with home.database.write() as session:
        for folder in home.vault.folders_of_parts():
            job = session.get(Job, folder.name)
            if job is None or job.state not in ACTIVE:
                session.execute(delete(Job).where(Job.kind == PART, Job.subject == folder.name))
                shutil.rmtree(folder, ignore_errors=True)
