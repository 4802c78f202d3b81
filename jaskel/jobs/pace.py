"""How far an export has come and how much is left: what its parts took in this show before, or else what they take in general.

Machines, material and destinations differ in how long one part takes beside another. A show sends much the same out again and
again.
"""

from __future__ import annotations

from collections.abc import Iterator, Mapping
from contextlib import contextmanager
from time import monotonic

from sqlalchemy.orm import Session

from jaskel.core.timebase import RATE, Ticks, to_seconds
from jaskel.jobs.loudness import ANOTHER_PASS
from jaskel.jobs.progress import Progress
from jaskel.media.render import Report
from jaskel.store.home import Home
from jaskel.store.models import Episode, Job

SHORTEST = 30 * RATE
"""In a shorter programme the beginning of each part counts for too much: it tells nothing of longer ones."""

LAST_TIME = 0.5
"""The share that the last time has in what is known."""

LOUDNESS, PASSES = "loudness", "passes"
"""The part of the work that brings a programme to its loudness, and how often it goes through that."""


class Pace:
    """Progress of the parts of one export, each with its share of all the work.

    Parameters
    ----------
    destination
        What the export is for; what is known of one is told of no other.
    parts
        Of each part of the work, the length of what it goes through, and what that takes in general for each second
        (:mod:`jaskel.media.effort`).
    """

    def __init__(
        self, home: Home, job: Job, progress: Progress, destination: str, parts: Mapping[str, tuple[Ticks, float]]
    ) -> None:
        self._home, self._job, self._progress, self._destination = home, job, progress, destination
        known = self._known()
        of_show = all(name in known for name in parts)
        self._parts = {name: (length, known[name] if of_show else effort) for name, (length, effort) in parts.items()}
        self._left = {name: length * effort for name, (length, effort) in self._parts.items()}
        if LOUDNESS in parts:
            self._left[LOUDNESS] *= known.get(PASSES, 1.0)
        self._took: dict[str, float] = {}
        self._done = 0.0
        self._tell()

    @contextmanager
    def part(self, name: str) -> Iterator[Report]:
        """One part of the work, as long as it is under way; gives what is told how far it has come.

        For the loudness that goes beyond the length, as often as the programme is gone through again.
        """
        (length, effort), come = self._parts[name], 0

        def report(at: Ticks) -> None:
            nonlocal come
            come = at
            if name == LOUDNESS and at * effort > self._left[name]:
                self._left[name] += length * effort * ANOTHER_PASS
                self._tell()
            self._progress(round(self._done + min(at * effort, self._left[name])))

        begun = monotonic()
        yield report
        passes = (come / length if name == LOUDNESS else 0) or 1.0
        self._took[name] = (monotonic() - begun) / to_seconds(length) / passes
        if name == LOUDNESS:
            self._took[PASSES] = passes
        self._done += length * effort * passes
        del self._left[name]
        self._tell()

    def keep(self, session: Session) -> None:
        """Keep what the parts took for the next time, where they were done in one go."""
        shortest = min(length for length, _ in self._parts.values())
        if self._job.attempts > 1 or self._job.done or shortest < SHORTEST:
            return
        show = session.get_one(Episode, self._job.episode_id).show
        known = show.paces.get(self._destination, {})
        new = {name: known.get(name, took) * (1 - LAST_TIME) + took * LAST_TIME for name, took in self._took.items()}
        show.paces = {**show.paces, self._destination: {**known, **new}}

    def _known(self) -> dict[str, float]:
        with self._home.database.read() as session:
            paces: dict[str, dict[str, float]] = session.get_one(Episode, self._job.episode_id).show.paces
            return paces.get(self._destination, {})

    def _tell(self) -> None:
        with self._home.database.write() as session:
            session.get_one(Job, self._job.id).total = round(self._done + sum(self._left.values()))
