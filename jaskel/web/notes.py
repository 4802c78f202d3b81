"""Notes in the margin: they stay with the sound they are about, whatever is cut or moved."""

from __future__ import annotations

from flask import Response
from sqlalchemy.orm import Session

from jaskel.core.edition import is_rest
from jaskel.core.problem import Missing, Problem
from jaskel.store.models import Note
from jaskel.store.notices import post
from jaskel.web.context import context
from jaskel.web.present import note_out, reply
from jaskel.web.resource import resource
from jaskel.web.schemas.common import EpisodePath
from jaskel.web.schemas.notes import NewNote, NoteChange, NoteOut, NotePath
from jaskel.web.shows import find_episode

api = resource("notes", __name__)


@api.post("/episodes/<episode_id>/notes", responses={201: NoteOut})
def write(path: EpisodePath, body: NewNote):  # type: ignore[no-untyped-def]
    """Write a note beside what stands at a place of an edition."""
    home = context().workshop.home
    with home.database.write() as session:
        episode = find_episode(session, path.episode_id)
        edition = home.editions.open(session, body.edition).edition
        run = next((run for run in edition.runs(struck=True) if run.laid <= body.laid < run.laid + run.end - run.start), None)
        if run is None or is_rest(run.recording):
            raise Problem("nothing-there", "There is no recorded sound here for a note to stand beside. Choose a word.")
        at = run.start + body.laid - run.laid
        note = Note(episode_id=episode.id, recording=run.recording, at=at, text=body.text, who=body.who)
        session.add(note)
        session.flush()
        post(session, "recording", episode.id)
        return reply(note_out(note), 201)


@api.patch("/notes/<note_id>", responses={200: NoteOut})
def change(path: NotePath, body: NoteChange):  # type: ignore[no-untyped-def]
    """Write a note anew."""
    with context().workshop.home.database.write() as session:
        note = _find(session, path.note_id)
        note.text = body.text
        post(session, "recording", note.episode_id)
        return reply(note_out(note))


@api.delete("/notes/<note_id>", responses={204: None})
def remove(path: NotePath):  # type: ignore[no-untyped-def]
    """Rub a note out."""
    with context().workshop.home.database.write() as session:
        note = _find(session, path.note_id)
        post(session, "recording", note.episode_id)
        session.delete(note)
    return Response(status=204)


def _find(session: Session, note_id: str) -> Note:
    note = session.get(Note, note_id)
    if note is None:
        raise Missing("no-note", "This note was rubbed out meanwhile.")
    return note
