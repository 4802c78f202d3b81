"""Finding faces in the pictures of a recording."""

from __future__ import annotations

from sqlalchemy import select
from sqlalchemy.orm import Session

from jaskel.jobs.progress import Progress
from jaskel.jobs.queue import ACTIVE, add_job
from jaskel.jobs.workshop import Workshop
from jaskel.media.faces import follow_faces
from jaskel.store.home import Home
from jaskel.store.material import write_faces
from jaskel.store.models import Job, Recording
from jaskel.store.notices import post


def start_faces(home: Home, session: Session, recording: Recording) -> str | None:
    """Write down the job that finds the faces of a film whose light copy is there, unless they are known; gives its id."""
    shown = recording.info.get("picture") and recording.kind != "still" and recording.has_working_copy
    known = select(Job.id).where(Job.kind == "faces", Job.subject == recording.id, Job.state.in_(ACTIVE))
    if not shown or home.vault.faces(recording.digest).exists() or session.scalar(known.limit(1)):
        return None
    return add_job(session, "faces", recording.episode_id, recording.id, recording.length).id


def find_faces(workshop: Workshop, job: Job, progress: Progress) -> None:
    """Follow the faces of a recording through its light copy, which shows them large enough."""
    home = workshop.home
    with home.database.read() as session:
        recording = session.get_one(Recording, job.subject)
    faces = home.vault.faces(recording.digest)
    if not faces.exists():
        found = follow_faces(home.vault.working_copy(recording.digest), recording.length, progress)
        with home.vault.making(faces) as new:
            write_faces(new, found)
    with home.database.write() as session:
        post(session, "recording", recording.episode_id, id=recording.id)
