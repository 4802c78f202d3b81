"""Takes recorded in the browser: stored chunk by chunk while recording runs, then a recording like any other."""

from __future__ import annotations

import time

from flask import Response, request
from sqlalchemy import func, select
from sqlalchemy.orm import Session

from jaskel.core.problem import Missing, Problem
from jaskel.media.probe import probe, room_for
from jaskel.store.deleted import found
from jaskel.store.models import Take, now
from jaskel.store.notices import post
from jaskel.web.context import context
from jaskel.web.recordings import add_recording
from jaskel.web.resource import resource
from jaskel.web.schemas.common import EpisodePath
from jaskel.web.schemas.recordings import ChunkPath, NewTake, RecordingOut, TakeOut, TakePath
from jaskel.web.serializers import reply, take_out
from jaskel.web.shows import find_episode

api = resource("takes", __name__)

MOST_CHUNK = 32_000_000
"""Bytes; a second of any picture a browser records is far below."""


@api.post("/episodes/<episode_id>/takes", responses={201: TakeOut})
def begin(path: EpisodePath, body: NewTake):  # type: ignore[no-untyped-def]
    """Begin a take; its chunks follow while it is recorded."""
    home = context().workshop.home
    room_for(home.vault.root, 100_000_000, body.name or "the take")
    with home.database.write() as session:
        episode = find_episode(session, path.episode_id)
        count = session.scalar(select(func.count()).where(Take.episode_id == episode.id)) or 0
        number = count + 1 + sum(recording.name.startswith("Take ") for recording in episode.recordings)
        take = Take(episode_id=episode.id, name=body.name or f"Take {number}.webm", beat=time.time())
        session.add(take)
        session.flush()
        home.vault.take(take.id).touch()
        return reply(take_out(take), 201)


@api.put("/takes/<take_id>/chunks/<int:number>", responses={200: TakeOut})
def chunk(path: ChunkPath):  # type: ignore[no-untyped-def]
    """Store the next chunk. One that is there already does no harm; one out of order is refused."""
    home = context().workshop.home
    content = request.stream.read(MOST_CHUNK + 1)
    if len(content) > MOST_CHUNK:
        raise Problem("too-large", "This chunk of a take is too large. Record at a lower quality.")
    with home.database.write() as session:
        take = _find(session, path.take_id)
        if path.number > take.chunks:
            raise Problem("out-of-order", "A chunk of this take is missing.", next=take.chunks)
        if path.number == take.chunks:
            home.vault.append(take.id, take.size, content)
            take.chunks, take.size, take.beat = take.chunks + 1, take.size + len(content), time.time()
        return reply(take_out(take))


@api.post("/takes/<take_id>/finish", responses={201: RecordingOut})
def finish(path: TakePath):  # type: ignore[no-untyped-def]
    """Make a recording of a take, also of one that broke off: all that was stored of it."""
    home = context().workshop.home
    with home.database.read() as session:
        take = _find(session, path.take_id)
    place = home.vault.take(take.id)
    info = probe(place, take.name)
    received = home.vault.adopt(place)
    response = add_recording(take.episode_id, take.name, received.digest, received.size, info, transcribe=True, placed=True)
    with home.database.write() as session:
        session.delete(_announced(session, _find(session, path.take_id)))
    place.unlink(missing_ok=True)
    return response


@api.delete("/takes/<take_id>", responses={204: None})
def discard(path: TakePath):  # type: ignore[no-untyped-def]
    """Discard a take; for a week it can be brought back."""
    _set_deleted(path.take_id, True)
    return Response(status=204)


@api.post("/takes/<take_id>/restore", responses={204: None})
def restore(path: TakePath):  # type: ignore[no-untyped-def]
    """Bring a discarded take back."""
    _set_deleted(path.take_id, False)
    return Response(status=204)


def _set_deleted(take_id: str, deleted: bool) -> None:
    with context().workshop.home.database.write() as session:
        take = _announced(session, _found(session.get(Take, take_id)))
        take.deleted = now() if deleted else None


def _announced(session: Session, take: Take) -> Take:
    post(session, "recording", take.episode_id, id=take.id)
    return take


def _find(session: Session, take_id: str) -> Take:
    return _found(found(session, Take, take_id))


def _found(take: Take | None) -> Take:
    if take is None:
        raise Missing("no-take", "This take is not there any more. Begin another.")
    return take
