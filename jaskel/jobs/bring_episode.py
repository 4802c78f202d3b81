"""Bringing in the episode of an archive that has come."""

from __future__ import annotations

from sqlalchemy import delete
from sqlalchemy.orm import Session

from jaskel.core.problem import Problem
from jaskel.core.roles import Right, Role
from jaskel.jobs.archive import unpack
from jaskel.jobs.progress import HOLDING, Cancelled, Progress
from jaskel.jobs.queue import send
from jaskel.jobs.workshop import Workshop
from jaskel.store.accounts import person_of, set_role
from jaskel.store.home import Home
from jaskel.store.models import Account, Episode, Job, Member, Upload

KIND = "bring episode"


def bring_episode(workshop: Workshop, job: Job, progress: Progress) -> None:
    """Unpack the archive; its recordings are then read again. What has come of it is gone
    afterwards, unless it is to go on later.
    """
    home, path = workshop.home, workshop.home.vault.upload(job.subject)
    with home.database.read() as session:
        account = session.get(Account, job.details["sender"]) if job.details["sender"] else None
        person = person_of(session, account) if account else None

    def settle(session: Session, episode: Episode) -> None:
        # Stored together with the episode: a job that is begun again does not bring it twice.
        known = session.get_one(Job, job.id)
        known.details = {**known.details, "episode": episode.id, "show": episode.show.name, "title": episode.title}
        # Of a show that came with it, whoever brought it is the owner.
        if person and not person.keeper and session.get(Member, (episode.show_id, person.id)) is None:
            set_role(session, episode.show_id, person.id, Role.OWNER)

    try:
        if "episode" not in job.details:
            progress.report(0)
            _, jobs = unpack(home, path, lambda show: not person or Right.EDIT in person.rights_in(show), progress, settle)
            for each in jobs:
                send(home, each)
    except Cancelled:
        forget(home, job.subject)
        raise
    except Problem as problem:
        if problem.code not in HOLDING:
            forget(home, job.subject)
        raise
    forget(home, job.subject)


def forget(home: Home, upload: str) -> None:
    """Throw away what has come of an archive."""
    with home.database.write() as session:
        session.execute(delete(Upload).where(Upload.id == upload))
    home.vault.upload(upload).unlink(missing_ok=True)
