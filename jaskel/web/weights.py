"""Weights of the recogniser: those that come with Jaskel, and larger ones that are added."""

from __future__ import annotations

import shutil

from flask import Response, request
from sqlalchemy import select
from sqlalchemy.orm import Session

from jaskel.core.problem import Problem
from jaskel.jobs import queue
from jaskel.jobs.weights import MOST_BYTES
from jaskel.media.probe import room_for
from jaskel.speech.weights import shipped
from jaskel.store.models import Job, Weights
from jaskel.store.notices import post
from jaskel.store.weights import added, find_weights
from jaskel.web.context import context
from jaskel.web.resource import resource
from jaskel.web.schemas.weights import AllWeightsOut, FilePath, NewWeights, WeightsOut, WeightsPath
from jaskel.web.serializers import job_out, reply

api = resource("weights", __name__)


@api.get("/weights", responses={200: AllWeightsOut})
def listed():  # type: ignore[no-untyped-def]
    """All weights that hear something here."""
    with context().workshop.home.database.read() as session:
        own = [_out(session, row) for row in added(session)]
        speeds = {row.id: row.speed for row in session.scalars(select(Weights))}
    ships = [
        WeightsOut(
            id=each.id,
            name=each.name,
            state="ready",
            trouble="",
            languages=each.languages,
            size=each.size,
            speed=speeds.get(each.id, 0.0),
            ships=True,
        )
        for each in shipped()
    ]
    return reply(AllWeightsOut(weights=[*ships, *own]))


@api.post("/weights", responses={201: WeightsOut})
def begin(body: NewWeights):  # type: ignore[no-untyped-def]
    """Begin to add weights; their files are sent one by one, and then looked at."""
    home = context().workshop.home
    with home.database.write() as session:
        row = Weights(name=body.name)
        session.add(row)
        session.flush()
        home.settings.weights(row.id).mkdir(parents=True)
        return reply(_out(session, row), 201)


@api.put("/weights/<weights_id>/files/<file>", responses={204: None})
def send(path: FilePath):  # type: ignore[no-untyped-def]
    """One of their files, or a zip of all, as the body of the request."""
    home = context().workshop.home
    with home.database.read() as session:
        row = find_weights(session, path.weights_id)
    if row.state != "arriving":
        raise Problem("weights-complete", "These weights have come already. To add others, begin anew.")
    size = request.content_length or 0
    if not 0 < size <= MOST_BYTES:
        raise Problem("no-weights", "This file is empty, or larger than any weights are.")
    folder = home.settings.weights(row.id)
    room_for(folder, size, path.file)
    new = folder / f".{path.file}"
    with new.open("wb") as out:
        shutil.copyfileobj(request.stream, out, 1 << 20)
    if new.stat().st_size != size:
        new.unlink()
        raise Problem("cut-off", "The file broke off on its way. Send it again.")
    try:
        home.scanner.look(new)
    except Problem:
        new.unlink()
        raise
    new.replace(folder / path.file)
    return Response(status=204)


@api.post("/weights/<weights_id>/check", responses={202: WeightsOut})
def check(path: WeightsPath):  # type: ignore[no-untyped-def]
    """Say that all has come: it is unpacked, tried and timed."""
    home = context().workshop.home
    with home.database.write() as session:
        row = find_weights(session, path.weights_id)
        if row.state != "arriving":
            raise Problem("weights-complete", "These weights have been looked at already.")
        row.state = "checking"
        job = queue.add_job(session, "weights", None, row.id, 2)
        out = _out(session, row)
    queue.send(home, job.id)
    return reply(out, 202)


@api.delete("/weights/<weights_id>", responses={204: None})
def remove(path: WeightsPath):  # type: ignore[no-untyped-def]
    """Delete weights that were added. What they heard stays."""
    home = context().workshop.home
    with home.database.write() as session:
        row = find_weights(session, path.weights_id)
        for job in session.scalars(_jobs_of(row.id)):
            job.cancel = True
        session.delete(row)
        post(session, "weights")
    shutil.rmtree(home.settings.weights(path.weights_id), ignore_errors=True)
    return Response(status=204)


def _jobs_of(weights_id: str):  # type: ignore[no-untyped-def]
    return select(Job).where(Job.kind == "weights", Job.subject == weights_id).order_by(Job.created.desc())


def _out(session: Session, row: Weights) -> WeightsOut:
    job = session.scalars(_jobs_of(row.id)).first()
    # A job that died or was cancelled cannot say so in the row.
    ended = row.state == "checking" and job is not None and job.state in ("failed", "cancelled")
    return WeightsOut(
        id=row.id,
        name=row.name,
        state="failed" if ended else row.state,  # type: ignore[arg-type]
        trouble=(job.trouble or "This was cancelled. Delete it, and add it again.") if ended and job else row.trouble,
        languages=row.languages,
        size=row.size,
        speed=row.speed,
        ships=False,
        job=job_out(job) if job else None,
    )
