"""Texts brought to recordings: seen first, then taken as the transcript."""

from __future__ import annotations

from dataclasses import astuple

from flask import Response, request
from sqlalchemy.orm import Session

from jaskel.core.problem import Missing, Problem
from jaskel.jobs.queue import add_job, send
from jaskel.media.text_files import LONGEST, read_text
from jaskel.store.deleted import found
from jaskel.store.models import BroughtText, Recording, now
from jaskel.store.notices import post
from jaskel.web.context import context
from jaskel.web.recordings import find_recording
from jaskel.web.resource import resource
from jaskel.web.schemas.common import RecordingPath
from jaskel.web.schemas.texts import TakeText, TextOut, TextPath, TextQuery
from jaskel.web.serializers import reply, text_out

api = resource("texts", __name__)


@api.post("/recordings/<recording_id>/texts", responses={201: TextOut})
def bring(path: RecordingPath, query: TextQuery):  # type: ignore[no-untyped-def]
    """Bring a text, sent as the body of the request as it is. It is understood and shown; nothing is changed yet."""
    brought = read_text(request.stream.read(LONGEST + 1), query.name)
    words = [list(astuple(word)) for word in brought.words]  # before the transaction, in which others would wait for it
    with context().workshop.home.database.write() as session:
        recording = find_recording(session, path.recording_id)
        if recording.state != "ready":
            raise Problem("not-ready", "This recording is not ready yet. Wait until its sound has been read.")
        text = BroughtText(recording_id=recording.id, name=query.name, form=brought.form, timed=brought.timed, words=words)
        session.add(text)
        session.flush()
        post(session, "recording", recording.episode_id, id=recording.id)
        return reply(text_out(text), 201)


@api.post("/texts/<text_id>/take", responses={202: TextOut})
def take(path: TextPath, body: TakeText):  # type: ignore[no-untyped-def]
    """Let a text become the transcript of its recording, fitted to the sound. It can be undone on the page."""
    home = context().workshop.home
    with home.database.write() as session:
        text = _find(session, path.text_id)
        recording = session.get_one(Recording, text.recording_id)
        if recording.transcript_state in ("waiting", "running"):
            raise Problem("being-transcribed", "The recording is being transcribed. Wait until that is done, or cancel it.")
        if body.own_times and not text.timed:
            raise Problem("no-times", "This text has no times of its own. Let it be fitted to the sound.")
        job = add_job(
            session, "bring", recording.episode_id, text.id, recording.length, own_times=body.own_times, guides=body.guides
        )
        text.state, text.trouble = "fitting", ""
        out = text_out(text)
    send(home, job.id)
    return reply(out, 202)


@api.delete("/texts/<text_id>", responses={204: None})
def remove(path: TextPath):  # type: ignore[no-untyped-def]
    """Remove a text; for a week it can be brought back. What became of it on the page stays."""
    _set_deleted(path.text_id, True)
    return Response(status=204)


@api.post("/texts/<text_id>/restore", responses={204: None})
def restore(path: TextPath):  # type: ignore[no-untyped-def]
    """Bring a removed text back."""
    _set_deleted(path.text_id, False)
    return Response(status=204)


def _set_deleted(text_id: str, deleted: bool) -> None:
    with context().workshop.home.database.write() as session:
        text = _found(session.get(BroughtText, text_id))
        text.deleted = now() if deleted else None
        recording = session.get_one(Recording, text.recording_id)
        post(session, "recording", recording.episode_id, id=recording.id)


def _find(session: Session, text_id: str) -> BroughtText:
    return _found(found(session, BroughtText, text_id))


def _found(text: BroughtText | None) -> BroughtText:
    if text is None:
        raise Missing("no-text", "This text is not there any more. Bring it again.")
    return text
