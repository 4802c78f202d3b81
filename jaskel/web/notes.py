"""Notes in the margin: they stay with the sound they are about, whatever is cut or moved, and are seen in every edition.

A note is answered, given to somebody, and ticked off. One that suggests a cut has the stretches it would take out; an editor
accepts it by striking them.
"""

from __future__ import annotations

from dataclasses import replace

from flask import Response
from sqlalchemy.orm import Session

from jaskel.core.edition import Edition
from jaskel.core.marks.anchor import Anchor, Place, Stretch
from jaskel.core.marks.note import Answer, Note
from jaskel.core.operations.base import Range
from jaskel.core.problem import Missing, Problem
from jaskel.core.roles import Right
from jaskel.core.source import Recorded
from jaskel.core.transcript import shortened
from jaskel.store.accounts import names_of
from jaskel.store.editions import Author
from jaskel.store.material import marks_of, set_marks
from jaskel.store.models import Account, Episode, Member, new_id, now
from jaskel.web.context import context
from jaskel.web.gate import NotAllowed, asking, author_of
from jaskel.web.resource import resource
from jaskel.web.schemas.common import EpisodePath
from jaskel.web.schemas.editions import LookedFor
from jaskel.web.schemas.notes import MarkPath, NewAnswer, NewNote, NoteChange, NoteOut
from jaskel.web.serializers import note_out, reply
from jaskel.web.shows import find_episode
from jaskel.web.stretches import stretches_in

api = resource("notes", __name__)


@api.post("/episodes/<episode_id>/notes", responses={201: NoteOut})
def write(path: EpisodePath, body: NewNote):  # type: ignore[no-untyped-def]
    """Write a note beside what stands at a place of an edition, or suggest to cut what stands in ranges of it."""
    home, person = context().workshop.home, asking()
    if person.is_guest and body.edition != person.edition:
        raise NotAllowed("not-allowed-to", "A guest writes notes on this one edition alone.")
    with home.database.write() as session:
        episode = find_episode(session, path.episode_id)
        edition = home.editions.open(session, body.edition).edition
        anchors: tuple[Anchor, ...] = (
            _stretches(edition, [(each.begin, each.end) for each in body.cuts]) if body.cuts else (_place(edition, body.laid),)
        )
        author = author_of(body)
        note = Note(new_id(), anchors, body.text, author.who, person.id, _known(session, episode, body.to))
        told = f"suggested a cut: “{shortened(note.text)}”" if body.cuts else f"wrote “{shortened(note.text)}” in the margin"
        return _set(session, episode, note, told, author, 201)


@api.patch("/episodes/<episode_id>/notes/<mark_id>", responses={200: NoteOut})
def change(path: MarkPath, body: NoteChange):  # type: ignore[no-untyped-def]
    """Write a note anew, give it to somebody, or tick it off."""
    with context().workshop.home.database.write() as session:
        episode = find_episode(session, path.episode_id)
        note = _found(marks_of(episode).marks.get(path.mark_id))
        told = "changed a note"
        if body.text is not None:
            _require_own(episode, note)
            note, told = replace(note, text=body.text), f"wrote a note anew: “{shortened(body.text)}”"
        if body.to is not None:
            _require_part(episode, note)
            note, told = replace(note, to=_known(session, episode, body.to)), f"gave on the note “{shortened(note.text)}”"
        if body.done is not None:
            _require_part(episode, note)
            ticked = "ticked off" if body.done else "opened again"
            note, told = replace(note, done=body.done), f"{ticked} the note “{shortened(note.text)}”"
        return _set(session, episode, note, told, author_of(body))


@api.post("/episodes/<episode_id>/notes/<mark_id>/answers", responses={201: NoteOut})
def answer(path: MarkPath, body: NewAnswer):  # type: ignore[no-untyped-def]
    """Answer a note."""
    with context().workshop.home.database.write() as session:
        episode = find_episode(session, path.episode_id)
        note, author = _found(marks_of(episode).marks.get(path.mark_id)), author_of(body)
        by = asking().id
        said = Answer(body.text, author.who, by, f"{now():%Y-%m-%dT%H:%M:%SZ}")
        note = replace(note, answers=(*note.answers, said))
        return _set(session, episode, note, f"answered a note: “{shortened(body.text)}”", author, 201)


@api.delete("/episodes/<episode_id>/notes/<mark_id>", responses={204: None})
def remove(path: MarkPath, query: LookedFor):  # type: ignore[no-untyped-def]
    """Delete a note; undo brings it back."""
    with context().workshop.home.database.write() as session:
        episode = find_episode(session, path.episode_id)
        note = _found(marks_of(episode).marks.get(path.mark_id))
        _require_own(episode, note)
        set_marks(session, episode, {note.id: None}, f"deleted the note “{shortened(note.text)}”", author_of(query))
    return Response(status=204)


def _set(session: Session, episode: Episode, note: Note, told: str, author: Author, status: int = 200) -> Response:
    set_marks(session, episode, {note.id: note}, told, author)
    return reply(note_out(note, names_of(session)), status)


def _place(edition: Edition, laid: int) -> Place:
    run = next((run for run in edition.runs if run.laid <= laid < run.laid + run.end - run.start), None)
    if run is None or not isinstance(run.source, Recorded):
        raise Problem("nothing-there", "There is no recorded sound here for a note to stand beside. Choose a word.")
    return Place(run.source.recording, run.start + laid - run.laid)


def _stretches(edition: Edition, ranges: list[Range]) -> tuple[Stretch, ...]:
    found = stretches_in(edition.kept_runs, ranges)
    if not found:
        raise Problem("nothing-there", "Nothing that is kept is selected, so there is nothing to cut. Select words.")
    return found


def _known(session: Session, episode: Episode, account_id: str) -> str:
    """The account a note is given to, which has to be part of the show."""
    if account_id:
        account, member = session.get(Account, account_id), session.get(Member, (episode.show_id, account_id))
        if not account or not (member or account.keeper):
            raise Problem("no-member", "Nobody of this show has that account (any more). Choose somebody else.")
    return account_id


def _require_own(episode: Episode, note: Note) -> None:
    person = asking()
    if note.by != person.id and Right.EDIT not in person.rights_in(episode.show_id):
        raise NotAllowed("not-allowed-to", f"{note.who or 'Somebody else'} wrote this note. Answer it instead.")


def _require_part(episode: Episode, note: Note) -> None:
    person = asking()
    if person.id not in (note.by, note.to) and Right.EDIT not in person.rights_in(episode.show_id):
        raise NotAllowed("not-allowed-to", "This note is neither yours nor given to you. Answer it instead.")


def _found(note: object) -> Note:
    person = asking()
    if not isinstance(note, Note) or (person.is_guest and note.by != person.id):
        raise Missing("no-note", "This note was deleted meanwhile.")
    return note
