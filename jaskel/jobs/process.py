"""Sending the sound of an edition's tracks through their chains, before it is cut."""

from __future__ import annotations

import os
from collections.abc import Callable, Iterable, Mapping, Sequence
from concurrent.futures import FIRST_COMPLETED, ThreadPoolExecutor, wait
from contextlib import suppress
from dataclasses import replace
from functools import partial
from pathlib import Path

from filelock import FileLock, Timeout
from sqlalchemy import select
from sqlalchemy.orm import Session

from jaskel.core.edition import Edition
from jaskel.core.session import Track
from jaskel.core.sound.processor import Chain, Leveller, before_the_cut, by_words, name_of
from jaskel.core.timebase import Ticks
from jaskel.jobs.parts import Make, Parts, make_wanted, print_of
from jaskel.jobs.progress import Progress
from jaskel.jobs.queue import ACTIVE, add_job
from jaskel.jobs.workshop import Workshop
from jaskel.media.process import process
from jaskel.media.weighted import measure_weighted
from jaskel.store.home import Home
from jaskel.store.material import read_weighted, unprocessed_in
from jaskel.store.models import EditionRow, Job, Recording
from jaskel.store.notices import post
from jaskel.store.vault import Vault


def start_processing(home: Home, session: Session, edition_id: str, edition: Edition) -> str | None:
    """Write down the job for an edition as it is now if a track of it has yet to go through its chain; gives its id.

    One that waits or works already goes on until nothing is left.
    """
    waiting = unprocessed_in(session, edition, home.vault)
    known = select(Job.id).where(Job.kind == "process", Job.subject == edition_id, Job.state.in_(ACTIVE))
    if not waiting or session.scalar(known.limit(1)):
        return None
    row = session.get_one(EditionRow, edition_id)
    return add_job(session, "process", row.episode_id, edition_id, sum(track.length for track, _ in waiting)).id


class Superseded(Exception):
    """Somebody has changed the chain that a track was being sent through."""


def process_tracks(workshop: Workshop, job: Job, progress: Progress) -> None:
    """Process what an edition's chains ask for, tracks side by side, also what they come to ask for meanwhile."""
    home = workshop.home
    done = 0
    while waiting := _waiting(home, job.subject):
        # Of a track whose chain changes while it is worked on, only the newest is wanted.
        newest = dict(waiting)
        _side_by_side(workshop, job, newest, lambda at, done=done: progress(done + at))  # type: ignore[misc]
        done += sum(track.length for track in newest)
        with home.database.write() as session:
            row = session.get_one(EditionRow, job.subject)
            post(session, "edition", row.episode_id, id=row.id, revision=row.revision)


def _waiting(home: Home, edition_id: str) -> list[tuple[Track, Chain]]:
    with home.database.read() as session:
        return unprocessed_in(session, home.editions.open(session, edition_id).edition, home.vault)


LOOK_SECONDS = 1.0
"""So often it is looked whether what is worked on is still wanted."""


def _side_by_side(workshop: Workshop, job: Job, waiting: Mapping[Track, Chain], progress: Callable[[Ticks], None]) -> None:
    """Send tracks through their chains, one for each processor of the machine; what is not wanted any more is given up."""
    edition_id = job.subject
    reached = dict.fromkeys(waiting, 0)
    given_up: set[Track] = set()

    def onward(track: Track, at: Ticks) -> None:
        reached[track] = at
        if track in given_up:
            raise Superseded

    def one(number: int, track: Track, chain: Chain) -> None:
        while not (others.made(number) or others.taken(number)):
            onward(track, reached[track])
            others.wait()
        process_track(workshop, track, chain, partial(onward, track))  # at once, where it has been made

    with (
        Parts(workshop.home, job, "process", edition_id, _makes(workshop, waiting.items()), lambda: None) as others,
        ThreadPoolExecutor(os.cpu_count() or 1) as threads,
    ):
        running = {threads.submit(one, number, *each): each for number, each in enumerate(waiting.items())}
        try:
            unfinished = {*running}
            while unfinished:
                finished, unfinished = wait(unfinished, LOOK_SECONDS, FIRST_COMPLETED)
                for each in finished:
                    with suppress(Superseded):
                        each.result()
                progress(sum(reached.values()))
                wanted = _waiting(workshop.home, edition_id)
                given_up |= {track for track, chain in (running[each] for each in unfinished) if (track, chain) not in wanted}
        except BaseException:
            given_up |= {*waiting}
            raise


def _makes(workshop: Workshop, waiting: Iterable[tuple[Track, Chain]]) -> dict[str, Make]:
    """Tracks that wait, as parts by their prints: what comes of one lies in its place in the vault, so its file is empty."""

    def make(track: Track, chain: Chain, path: Path, progress: Callable[[Ticks], None]) -> None:
        process_track(workshop, track, chain, progress)
        path.touch()

    return {print_of(track.recording, track.drift, name_of(chain)): partial(make, track, chain) for track, chain in waiting}


def make_part(workshop: Workshop, _whole: Job, part: Job, progress: Progress) -> None:
    """Send one track through its chain, for the worker that processes an edition."""
    make_wanted(workshop.home, part, _makes(workshop, _waiting(workshop.home, part.details["subject"])), progress)


def process_track(workshop: Workshop, track: Track, chain: Chain, progress: Callable[[Ticks], None]) -> None:
    """Make the file of one track and chain, unless it is there; what a costly processor makes is kept in one of its own."""
    vault = workshop.home.vault
    with workshop.home.database.read() as session:
        digest = session.get_one(Recording, track.recording).digest
    _make(vault, digest, track.drift, before_the_cut(chain), progress)
    if any(isinstance(each, Leveller) for each in by_words(chain)):
        _measure(vault, digest, track, chain)


def _make(vault: Vault, digest: str, drift: float, chain: Chain, progress: Callable[[Ticks], None]) -> Path:
    out = vault.sound(digest, drift, name_of(chain))
    made: dict[int, Path] = {}
    for number, each in enumerate(chain):
        whole = (*chain[:number], replace(each, amount=100))
        if each.costly and whole != chain and not out.exists():
            made[number] = _make(vault, digest, drift, whole, progress)
    # Another job may want the same meanwhile: it waits for this one.
    lock = FileLock(out.with_suffix(".lock"))
    while not out.exists():
        try:
            with lock.acquire(timeout=1):
                if not out.exists():
                    with vault.making(out) as new:
                        process(vault.sound(digest, drift), chain, new, progress, made)
        except Timeout:
            progress(0)
    return out


def loudness_over_time(workshop: Workshop, track: Track, chain: Chain, progress: Callable[[Ticks], None]) -> Sequence[float]:
    """The loudness of a track after its chain (see :mod:`jaskel.media.weighted`), measured when it is first wanted."""
    process_track(workshop, track, chain, progress)
    vault = workshop.home.vault
    with workshop.home.database.read() as session:
        digest = session.get_one(Recording, track.recording).digest
    return read_weighted(_measure(vault, digest, track, chain))


def _measure(vault: Vault, digest: str, track: Track, chain: Chain) -> Path:
    file = vault.weighted(digest, track.drift, name_of(chain))
    if not file.exists():
        with vault.making(file) as new:
            measure_weighted(vault.sound(digest, track.drift, name_of(chain)), new)
    return file
