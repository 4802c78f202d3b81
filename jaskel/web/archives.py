"""Episodes as one archive: brought in from another Jaskel. They are written by Export, as a form.

An archive comes in parts, as all files do, and is then unpacked by the worker.
"""

from __future__ import annotations

from flask import Response
from sqlalchemy import select
from sqlalchemy.orm import Session

from jaskel.core.problem import Missing, Problem
from jaskel.jobs import queue
from jaskel.jobs.bring_episode import KIND, forget
from jaskel.store.models import Job, Upload
from jaskel.web.context import context
from jaskel.web.gate import asking
from jaskel.web.resource import resource
from jaskel.web.schemas.archives import ArchiveOut, ArchivePath
from jaskel.web.serializers import job_out, reply
from jaskel.web.uploads import TUS, begun, come_of, extended, missing

api = resource("archives", __name__)


@api.post("/archives", responses={201: None})
def begin():  # type: ignore[no-untyped-def]
    """Begin an archive, by tus as other files."""
    upload = begun(None, asking().id)
    return Response(status=201, headers={**TUS, "Location": f"/api/archives/{upload}"})


@api.get("/archives/<archive_id>", responses={200: None})
def progress(path: ArchivePath):  # type: ignore[no-untyped-def]
    """How much of an archive has come, in headers; asked with HEAD."""
    with context().workshop.home.database.read() as session:
        return come_of(_find(session, path.archive_id))


@api.patch("/archives/<archive_id>", responses={204: None})
def go_on(path: ArchivePath):  # type: ignore[no-untyped-def]
    """Store the next part."""
    with context().workshop.home.database.read() as session:
        upload = _find(session, path.archive_id)
    return extended(upload)


@api.post("/archives/<archive_id>/bring", responses={202: ArchiveOut})
def bring(path: ArchivePath):  # type: ignore[no-untyped-def]
    """Bring in the episode of an archive that has come whole; its recordings are then read again."""
    home = context().workshop.home
    with home.database.write() as session:
        upload = _find(session, path.archive_id)
        if home.vault.upload(upload.id).stat().st_size < upload.length or not upload.length:
            raise Problem("no-archive", f"“{upload.name}” is empty, or has not come whole. Choose it again.")
        job = queue.add_job(session, KIND, None, upload.id, upload.length, sender=upload.sender)
        out = _out(job)
    queue.send(home, job.id)
    return reply(out, 202)


@api.get("/archives/<archive_id>/job", responses={200: ArchiveOut})
def unpacking(path: ArchivePath):  # type: ignore[no-untyped-def]
    """How far the episode is in, and what it is once it is there."""
    with context().workshop.home.database.read() as session:
        return reply(_out(_job(session, path.archive_id)))


@api.delete("/archives/<archive_id>", responses={204: None})
def give_up(path: ArchivePath):  # type: ignore[no-untyped-def]
    """Throw away what has come of an archive, and bring its episode in no further."""
    home = context().workshop.home
    with home.database.read() as session:
        job = session.scalar(_jobs_of(path.archive_id))
        if job is None:
            _find(session, path.archive_id)
        elif job.details["sender"] != asking().id:
            raise missing()
    if job is not None:
        job = queue.cancel(home, job.id)
    if job is None or job.state == "cancelled":  # else the worker does it
        forget(home, path.archive_id)
    return Response(status=204, headers=TUS)


def _jobs_of(upload: str):  # type: ignore[no-untyped-def]
    return select(Job).where(Job.kind == KIND, Job.subject == upload).order_by(Job.created.desc()).limit(1)


def _find(session: Session, upload_id: str) -> Upload:
    upload = session.get(Upload, upload_id)
    if upload is None or upload.episode_id or upload.sender != asking().id:
        raise missing()
    return upload


def _job(session: Session, upload_id: str) -> Job:
    job = session.scalar(_jobs_of(upload_id))
    if job is None or job.details["sender"] != asking().id:
        raise Missing("no-job", "This archive is not being brought in. Choose it again.")
    return job


def _out(job: Job) -> ArchiveOut:
    told = {name: job.details.get(name, "") for name in ("episode", "show", "title")}
    return ArchiveOut(job=job_out(job), **told)
