"""Laying joins where they are heard least, after so many splices came about at once that nobody could wait for it."""

from __future__ import annotations

from itertools import pairwise

from sqlalchemy import select
from sqlalchemy.orm import Session

from jaskel.core.edition import Edition, Run
from jaskel.core.marks.anchor import Meeting
from jaskel.core.marks.splice import Splice, set_splices
from jaskel.core.operations import SetMarks
from jaskel.core.source import Recorded
from jaskel.jobs.progress import Progress
from jaskel.jobs.queue import ACTIVE, add_job
from jaskel.jobs.workshop import Workshop
from jaskel.media.joins import best_join
from jaskel.store.models import EditionRow, Job
from jaskel.store.notices import post


def unsettled(edition: Edition) -> list[tuple[Meeting, Run, Run]]:
    """The splices where something was taken out and nobody, nor this job, has set anything yet."""
    return [
        (meeting, before, after)
        for before, after in pairwise(edition.kept_runs)
        if isinstance(before.source, Recorded)
        and isinstance(after.source, Recorded)
        and (meeting := Meeting(before.source, before.end, after.source, after.start)) not in edition.by_meeting
    ]


def settled(workshop: Workshop, edition: Edition, before: Run, after: Run) -> Splice:
    """The splice of two runs, made where it is heard least."""
    taken_out = after.start - before.end if after.start >= before.end and before.source == after.source else None
    join = best_join(workshop.heard, before.source, before.end, after.source, after.start, edition.crossfade, taken_out)
    return Splice(join.crossfade, before=join.before, after=join.after, settled=True)


def start_settling(session: Session, edition_id: str) -> str | None:
    """Write down the job for an edition, unless it waits or works already (it goes on until all is settled); gives its id."""
    row = session.get_one(EditionRow, edition_id)
    known = select(Job.id).where(Job.kind == "settle", Job.subject == edition_id, Job.state.in_(ACTIVE))
    if session.scalar(known.limit(1)):
        return None
    return add_job(session, "settle", row.episode_id, edition_id, 0).id


def settle(workshop: Workshop, job: Job, progress: Progress) -> None:
    """Settle until nothing is left. It is no step that undo takes back: splices that are undone are not there any more."""
    home = workshop.home
    done: set[Meeting] = set()
    while True:
        with home.database.read() as session:
            edition = home.editions.open(session, job.subject).edition
        waiting = [each for each in unsettled(edition) if each[0] not in done]
        if not waiting:
            return
        made: list[tuple[Meeting, Splice | None]] = []
        for number, (meeting, before, after) in enumerate(waiting):
            made.append((meeting, settled(workshop, edition, before, after)))
            progress(number)
        done.update(meeting for meeting, _ in made)
        with home.database.write() as session:
            now = home.editions.open(session, job.subject).edition
            # What was set by hand, or undone, meanwhile stays as it is.
            there = {meeting for meeting, _, _ in unsettled(now)}
            made = [(meeting, splice) for meeting, splice in made if meeting in there]
            if made:
                told = f"laid {len(made)} {'join' if len(made) == 1 else 'joins'} where they are heard least"
                opened = home.editions.arrive(session, job.subject, SetMarks.of(set_splices(now.marks, made), told), told)
                post(session, "edition", job.of_episode, id=opened.id, revision=opened.revision)
