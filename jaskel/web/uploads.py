"""Files that come in parts: tus 1.0.0 (https://tus.io/protocols/resumable-upload), its core, creation and termination.

What has come stays when a connection or the server ends, and the same file is gone on with when it is chosen again.
"""

from __future__ import annotations

import base64
import binascii
from collections.abc import Iterator
from contextlib import contextmanager
from threading import Lock

from flask import Response, request
from pydantic import ValidationError
from sqlalchemy import delete
from sqlalchemy.orm import Session

from jaskel.core.problem import Missing, Problem
from jaskel.media.probe import room_for
from jaskel.store.models import Upload
from jaskel.web.context import context
from jaskel.web.recordings import keep_received
from jaskel.web.resource import resource
from jaskel.web.schemas.common import EpisodePath
from jaskel.web.schemas.recordings import RecordingOut, UploadPath, UploadQuery
from jaskel.web.shows import find_episode

api = resource("uploads", __name__)

TUS = {"Tus-Resumable": "1.0.0", "Cache-Control": "no-store"}


@api.post("/episodes/<episode_id>/uploads", responses={201: None})
def begin(path: EpisodePath):  # type: ignore[no-untyped-def]
    """Begin a file. Its length stands in ``Upload-Length``; in ``Upload-Metadata`` its name, and what is to become of it."""
    with context().workshop.home.database.read() as session:
        find_episode(session, path.episode_id)
    return Response(status=201, headers={**TUS, "Location": f"/api/uploads/{begun(path.episode_id)}"})


@api.get("/uploads/<upload_id>", responses={200: None})
def progress(path: UploadPath):  # type: ignore[no-untyped-def]
    """How much of a file has come, in headers; asked with HEAD."""
    with context().workshop.home.database.read() as session:
        return come_of(_find(session, path.upload_id))


@api.patch("/uploads/<upload_id>", responses={204: None})
def go_on(path: UploadPath):  # type: ignore[no-untyped-def]
    """Store the next part. What has come of one that breaks off is kept."""
    with context().workshop.home.database.read() as session:
        upload = _find(session, path.upload_id)
    return extended(upload)


@api.post("/uploads/<upload_id>/finish", responses={201: RecordingOut})
def finish(path: UploadPath):  # type: ignore[no-untyped-def]
    """Make a recording of a file that has come whole; where it is refused, it is gone."""
    home = context().workshop.home
    with home.database.read() as session:
        upload = _find(session, path.upload_id)
    if home.vault.upload(upload.id).stat().st_size < upload.length:
        raise Problem("upload-broken", f"“{upload.name}” has not come whole. Add it again: it goes on from where it broke off.")
    try:
        with home.vault.arrived(upload.id) as received:
            wanted = UploadQuery(name=upload.name, transcribe=upload.transcribe, placed=upload.placed)
            assert upload.episode_id
            return keep_received(received, upload.episode_id, wanted)
    finally:
        _forget(upload.id)


@api.delete("/uploads/<upload_id>", responses={204: None})
def give_up(path: UploadPath):  # type: ignore[no-untyped-def]
    """Throw away what has come of a file."""
    with context().workshop.home.database.read() as session:
        upload = _find(session, path.upload_id)
    _forget(upload.id)
    return Response(status=204, headers=TUS)


def begun(episode_id: str | None, sender: str = "") -> str:
    """Begin a file as the headers of this request want it; gives the id of the upload."""
    home = context().workshop.home
    wanted, length = _wanted(), _number("Upload-Length")
    room_for(home.vault.root, length, wanted.name)
    told = {"name": wanted.name, "placed": wanted.placed, "transcribe": wanted.transcribe}
    with home.database.write() as session:
        upload = Upload(episode_id=episode_id, length=length, sender=sender, **told)
        session.add(upload)
        session.flush()
        home.vault.upload(upload.id).touch()
        return upload.id


def come_of(upload: Upload) -> Response:
    """How much of a file has come, as tus tells it."""
    come = context().workshop.home.vault.upload(upload.id).stat().st_size
    return Response(headers={**TUS, "Upload-Offset": str(come), "Upload-Length": str(upload.length)})


def extended(upload: Upload) -> Response:
    """Store the part of a file that this request brings."""
    vault = context().workshop.home.vault
    with _alone(upload.id):
        come = vault.upload(upload.id).stat().st_size
        if _number("Upload-Offset") != come:
            raise Problem("wrong-offset", "A part of this file is missing. It is asked for again.", next=come)
        come = vault.extend(upload.id, request.stream, upload.length - come)  # type: ignore[arg-type]
    return Response(status=204, headers={**TUS, "Upload-Offset": str(come)})


_under_way: set[str] = set()
_lock = Lock()


@contextmanager
def _alone(upload_id: str) -> Iterator[None]:
    """One part at a time: the connection of one that broke off may still stand when the next comes."""
    with _lock:
        if upload_id in _under_way:
            raise Problem("wrong-offset", "This file is being sent by another window. Wait until that is done.")
        _under_way.add(upload_id)
    try:
        yield
    finally:
        with _lock:
            _under_way.discard(upload_id)


def _forget(upload_id: str) -> None:
    home = context().workshop.home
    with home.database.write() as session:
        session.execute(delete(Upload).where(Upload.id == upload_id))
    home.vault.upload(upload_id).unlink(missing_ok=True)


def _find(session: Session, upload_id: str) -> Upload:
    upload = session.get(Upload, upload_id)
    if upload is None or not upload.episode_id or not context().workshop.home.vault.upload(upload_id).exists():
        raise missing()
    return upload


def missing() -> Missing:
    """What is told where nothing has come of a file."""
    return Missing("no-upload", "What had come of this file is not there any more. Add it again.")


def _number(header: str) -> int:
    value = request.headers.get(header, "")
    if not (value.isascii() and value.isdigit() and len(value) < 16):
        raise Problem("bad-request", f"The request does not say its {header}. Add the file again.")
    return int(value)


def _wanted() -> UploadQuery:
    """What ``Upload-Metadata`` says: words with values in Base64, apart by commas."""
    found: dict[str, str] = {}
    try:
        for pair in request.headers.get("Upload-Metadata", "").split(","):
            word, _, value = pair.strip().partition(" ")
            found[word] = base64.b64decode(value, validate=True).decode()
        return UploadQuery.model_validate({**found, "name": found["filename"]})
    except (binascii.Error, UnicodeDecodeError, KeyError, ValidationError) as error:
        raise Problem("bad-request", "The name of the file cannot be read. Rename it and add it again.") from error
