"""Sending the sound of an edition's tracks through their chains, before it is cut."""

from __future__ import annotations

from collections.abc import Callable
from functools import partial

from sqlalchemy import select
from sqlalchemy.orm import Session

from jaskel.core.edition import Edition
from jaskel.core.session import Track
from jaskel.core.sound.processor import Chain, name_of
from jaskel.core.timebase import Ticks
from jaskel.jobs.progress import Progress
from jaskel.jobs.queue import ACTIVE, add_job
from jaskel.jobs.workshop import Workshop
from jaskel.media.process import process
from jaskel.store.home import Home
from jaskel.store.material import unprocessed_in
from jaskel.store.models import EditionRow, Job, Recording
from jaskel.store.notices import post


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


def process_tracks(workshop: Workshop, job: Job, progress: Progress) -> None:
    """Process what an edition's chains ask for, also what they come to ask for meanwhile."""
    home = workshop.home
    done = 0
    while True:
        with home.database.read() as session:
            waiting = unprocessed_in(session, home.editions.open(session, job.subject).edition, home.vault)
        if not waiting:
            return
        track, chain = waiting[0]
        process_track(workshop, track, chain, partial(_onward, progress, done))
        done += track.length
        with home.database.write() as session:
            row = session.get_one(EditionRow, job.subject)
            post(session, "edition", row.episode_id, id=row.id, revision=row.revision)


def _onward(progress: Progress, done: Ticks, at: Ticks) -> None:
    progress(done + at)


def process_track(workshop: Workshop, track: Track, chain: Chain, progress: Callable[[Ticks], None]) -> None:
    """Make the file of one track and chain, unless it is there."""
    vault = workshop.home.vault
    with workshop.home.database.read() as session:
        digest = session.get_one(Recording, track.recording).digest
    out = vault.sound(digest, track.drift, name_of(chain))
    if not out.exists():
        with vault.making(out) as new:
            process(vault.sound(digest, track.drift), chain, new, progress)
