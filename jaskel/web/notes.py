"""Notes in the margin: they stay with the sound they are about, whatever is cut or moved, and are seen in every edition."""

from __future__ import annotations

from dataclasses import replace

from flask import Response

from jaskel.core.marks.anchor import Place
from jaskel.core.marks.note import Note
from jaskel.core.problem import Missing, Problem
from jaskel.core.source import Recorded
from jaskel.core.transcript import shortened
from jaskel.store.editions import Author
from jaskel.store.material import marks_of, set_marks
from jaskel.store.models import new_id
from jaskel.web.context import context
from jaskel.web.resource import resource
from jaskel.web.schemas.common import EpisodePath
from jaskel.web.schemas.editions import LookedFor
from jaskel.web.schemas.notes import MarkPath, NewNote, NoteChange, NoteOut
from jaskel.web.serializers import note_out, reply
from jaskel.web.shows import find_episode

api = resource("notes", __name__)


@api.post("/episodes/<episode_id>/notes", responses={201: NoteOut})
def write(path: EpisodePath, body: NewNote):  # type: ignore[no-untyped-def]
    """Write a note beside what stands at a place of an edition."""
    home = context().workshop.home
    with home.database.write() as session:
        episode = find_episode(session, path.episode_id)
        edition = home.editions.open(session, body.edition).edition
        run = next((run for run in edition.runs if run.laid <= body.laid < run.laid + run.end - run.start), None)
        if run is None or not isinstance(run.source, Recorded):
            raise Problem("nothing-there", "There is no recorded sound here for a note to stand beside. Choose a word.")
        place = Place(run.source.recording, run.start + body.laid - run.laid)
        note = Note(new_id(), (place,), body.text, body.who)
        set_marks(
            session, episode, {note.id: note}, f"wrote “{shortened(note.text)}” in the margin", Author(body.who, body.window)
        )
        return reply(note_out(note), 201)


@api.patch("/episodes/<episode_id>/notes/<mark_id>", responses={200: NoteOut})
def change(path: MarkPath, body: NoteChange):  # type: ignore[no-untyped-def]
    """Write a note anew."""
    with context().workshop.home.database.write() as session:
        episode = find_episode(session, path.episode_id)
        note = replace(_found(marks_of(episode).marks.get(path.mark_id)), text=body.text)
        author = Author(body.who, body.window)
        set_marks(session, episode, {note.id: note}, f"wrote a note anew: “{shortened(note.text)}”", author)
        return reply(note_out(note))


@api.delete("/episodes/<episode_id>/notes/<mark_id>", responses={204: None})
def remove(path: MarkPath, query: LookedFor):  # type: ignore[no-untyped-def]
    """Delete a note; undo brings it back."""
    with context().workshop.home.database.write() as session:
        episode = find_episode(session, path.episode_id)
        note = _found(marks_of(episode).marks.get(path.mark_id))
        told = f"deleted the note “{shortened(note.text)}”"
        set_marks(session, episode, {note.id: None}, told, Author(query.who, query.window))
    return Response(status=204)


def _found(note: object) -> Note:
    if not isinstance(note, Note):
        raise Missing("no-note", "This note was deleted meanwhile.")
    return note
