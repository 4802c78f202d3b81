"""Editions: their words, and the operations on them."""

from __future__ import annotations

from bisect import bisect_left, bisect_right
from collections.abc import Sequence
from dataclasses import asdict
from typing import Literal

from flask import Response
from flask_openapi3 import APIBlueprint
from sqlalchemy import select
from sqlalchemy.orm import Session

from jaskel.core.operations import Operation, PutBack, Retype, Strike
from jaskel.core.page import UNSURE, Paragraph, Token
from jaskel.jobs.fit import start_fitting
from jaskel.jobs.queue import send
from jaskel.jobs.spell import spellings_of
from jaskel.store.corrections import Corrections
from jaskel.store.editions import Opened
from jaskel.store.models import EditionRow, Episode, LogEntry, Recording, TrackRow, Voice
from jaskel.store.notices import post
from jaskel.store.sessions import clock_of, new_voice
from jaskel.web.context import context
from jaskel.web.present import reply
from jaskel.web.schemas import (
    AcceptIn,
    AsideOut,
    EditionPath,
    GiveVoiceIn,
    HeadOut,
    NewSpelling,
    OperationIn,
    PageOut,
    PassageIn,
    PassageOut,
    PlaceOut,
    PlaceQuery,
    PutBackIn,
    RangeField,
    RetypeIn,
    RevisionIn,
    StepOut,
    StrikeIn,
    TokenOut,
)

AnyOperation = StrikeIn | PutBackIn | RetypeIn | GiveVoiceIn | AcceptIn | PassageIn

api = APIBlueprint("editions", __name__, url_prefix="/api")


@api.get("/editions/<edition_id>", responses={200: HeadOut})
def get_edition(path: EditionPath):  # type: ignore[no-untyped-def]
    """What is struck in an edition, how long it is, and what can be undone."""
    with context().workshop.home.database.read() as session:
        return reply(_head(session, context().workshop.home.editions.open(session, path.edition_id)))


@api.get("/editions/<edition_id>/page", responses={200: PageOut})
def get_page(path: EditionPath):  # type: ignore[no-untyped-def]
    """All words and rests of an edition, struck or not, in passages."""
    with context().workshop.home.database.read() as session:
        opened = context().workshop.home.editions.open(session, path.edition_id)
        name, lay_out = context().layout(session, opened)
        return context().memory.get(("page reply", name), lambda: reply(_page(name, opened, lay_out())))


@api.get("/editions/<edition_id>/place", responses={200: PlaceOut})
def get_place(path: EditionPath, query: PlaceQuery):  # type: ignore[no-untyped-def]
    """Where a place of a recording lies in an edition, also where the recording is a track of a session."""
    with context().workshop.home.database.read() as session:
        opened = context().workshop.home.editions.open(session, path.edition_id)
        name, at = query.recording, query.at
        if track := session.get(TrackRow, query.recording):
            clock = next(t for t in clock_of(track.session).tracks if t.recording == query.recording)
            name, at = track.session_id, clock.to_session(query.at)
        for recording, start, end, laid in opened.edition.runs(struck=True):
            if recording == name and start <= at < end:
                return reply(PlaceOut(laid=laid + at - start))
        return reply(PlaceOut(laid=None))


@api.post("/editions/<edition_id>/operations", responses={200: HeadOut})
def perform(path: EditionPath, body: OperationIn):  # type: ignore[no-untyped-def]
    """Carry out an operation that was made on a revision of the edition; refused when that is not the newest."""
    editions = context().workshop.home.editions
    with context().workshop.home.database.write() as session:
        opened = editions.at(session, path.edition_id, body.revision)
        _, lay_out = context().layout(session, opened)
        operation = _operation(session, opened, body.operation)
        performed = editions.perform(session, path.edition_id, body.revision, operation, lambda r: _words(lay_out(), r))
        response, jobs = _changed(session, performed), _follow(session, operation)
    for job in jobs:
        send(context().workshop.home, job)
    return response


@api.post("/editions/<edition_id>/undo", responses={200: HeadOut})
def undo(path: EditionPath, body: RevisionIn):  # type: ignore[no-untyped-def]
    """Take back the newest step."""
    return _turn(path.edition_id, body.revision, "undo")


@api.post("/editions/<edition_id>/redo", responses={200: HeadOut})
def redo(path: EditionPath, body: RevisionIn):  # type: ignore[no-untyped-def]
    """Do again what was taken back last."""
    return _turn(path.edition_id, body.revision, "redo")


def _turn(edition_id: str, revision: int, step: Literal["undo", "redo"]) -> Response:
    home = context().workshop.home
    with home.database.write() as session:
        opened, operation = home.editions.turn(session, edition_id, revision, step)
        response, jobs = _changed(session, opened), _follow(session, operation)
    for job in jobs:
        send(home, job)
    return response


def _operation(session: Session, opened: Opened, wanted: AnyOperation) -> Operation:
    corrections = Corrections(session, opened.edition, context().workshop.home.transcripts)
    match wanted:
        case StrikeIn():
            return Strike(_ranges(wanted.ranges), wanted.why)
        case PutBackIn():
            return PutBack(_ranges(wanted.ranges))
        case RetypeIn():
            for laid in _ranges(wanted.ranges):
                corrections.retype(laid, wanted.text)
        case GiveVoiceIn():
            corrections.give_voice((wanted.begin, wanted.end), _voice(session, opened, wanted.voice).id, onward=wanted.onward)
        case AcceptIn():
            corrections.accept((wanted.begin, wanted.end))
        case PassageIn():
            corrections.begin_passage(wanted.at, wanted.begins)
    return corrections.operation


def _ranges(ranges: Sequence[RangeField]) -> tuple[tuple[int, int], ...]:
    return tuple((r.begin, r.end) for r in ranges)


def _voice(session: Session, opened: Opened, wanted: str) -> Voice:
    """The voice with an id or a name; a name that nobody has yet makes a new one."""
    show = session.get_one(EditionRow, opened.id).episode.show
    known = next((voice for voice in show.voices if wanted.casefold() in (voice.id, voice.name.casefold())), None)
    return known or new_voice(session, show.id, wanted)


def _follow(session: Session, operation: Operation) -> list[str]:
    """What has to be told and done after words were mended; gives the ids of jobs."""
    if not isinstance(operation, Retype):
        return []
    for recording_id in dict.fromkeys(change.recording for change in operation.changes):
        recording = session.get_one(Recording, recording_id)
        post(session, "transcript", recording.episode_id, recording=recording.id, revision=recording.transcript_revision)
    return start_fitting(session, operation)


def _changed(session: Session, opened: Opened):  # type: ignore[no-untyped-def]
    head = _head(session, opened)
    post(session, "edition", head.episode_id, id=opened.id, revision=opened.revision)
    return reply(head)


def _head(session: Session, opened: Opened) -> HeadOut:
    session.flush()
    row = session.get_one(EditionRow, opened.id)
    wanted = [n for n in (opened.history.undoable[-1:] + opened.history.redoable[-1:] + (opened.revision,)) if n]
    entries = {
        entry.number: entry
        for entry in session.scalars(select(LogEntry).where(LogEntry.edition_id == opened.id, LogEntry.number.in_(wanted)))
    }
    plan = context().programme(session, opened, "edited").plan
    newest = entries.get(opened.revision)
    # Thousands of ranges that the core has just made need no second check.
    return HeadOut.model_construct(
        id=opened.id,
        name=row.name,
        episode_id=row.episode_id,
        revision=opened.revision,
        layout=context().layout(session, opened)[0],
        running_time=plan.length,
        recorded_time=opened.edition.length,
        struck=[*map(list, opened.edition.struck_ranges)],
        splices=[span.laid for span in plan.spans[1:]],
        undo=entries[opened.history.undoable[-1]].summary if opened.history.undoable else None,
        redo=entries[opened.history.redoable[-1]].summary if opened.history.redoable else None,
        newest=StepOut(step=newest.step, summary=newest.summary) if newest else None,
        proposal=_proposal(session, row, newest) if newest and newest.step == "do" else None,
    )


LOOKED_BACK = 200
"""So many earlier corrections are looked through for the same one."""


def _proposal(session: Session, row: EditionRow, newest: LogEntry) -> NewSpelling | None:
    """A house spelling to propose, where the newest correction was made once before in the show."""
    wanted = _corrected(newest)
    if wanted is None:
        return None
    show = row.episode.show
    if any(spelling.term == wanted[1] and wanted[0] in spelling.heard for spelling in spellings_of(session, show.id)):
        return None
    earlier = session.scalars(
        select(LogEntry)
        .join(EditionRow, EditionRow.id == LogEntry.edition_id)
        .join(Episode, Episode.id == EditionRow.episode_id)
        .where(Episode.show_id == show.id, LogEntry.step == "do", LogEntry.summary.startswith("retyped “"))
        .order_by(LogEntry.at.desc())
        .limit(LOOKED_BACK)
    )
    again = any(_corrected(e) == wanted for e in earlier if (e.edition_id, e.number) != (newest.edition_id, newest.number))
    return NewSpelling(term=wanted[1], heard=[wanted[0]]) if again else None


def _corrected(entry: LogEntry) -> tuple[str, str] | None:
    """What was retyped as what, where that was a few words; without the punctuation around them."""
    changes = entry.operation.get("changes", []) if entry.operation["kind"] == Retype.kind else []
    if not 1 <= len(changes) <= 500:
        return None
    old, new = (" ".join(word[0] for word in changes[0][side]).strip('.,;:!?…“”"()') for side in ("old", "new"))
    return (old, new) if old and new and old != new and len(new.split()) <= 4 else None


KINDS = {"word": "w", "rest": "r", "sound": "s"}


def _page(name: str, opened: Opened, page: tuple[Paragraph, ...]) -> PageOut:
    words = [token for passage in page for token in passage.tokens if token.kind == "word"]
    return PageOut.model_construct(
        layout=name,
        words=len(words),
        unsure=sum(token.confidence < UNSURE for token in words),
        length=opened.edition.length,
        passages=[
            PassageOut.model_construct(
                recording=p.recording,
                voice=p.voice,
                at=p.at,
                tokens=[_token(token) for token in p.tokens],
                asides=[AsideOut(**asdict(aside)) for aside in p.asides],
            )
            for p in page
        ],
    )


def _token(token: Token) -> TokenOut:
    return TokenOut.model_construct(
        k=KINDS[token.kind],
        at=token.at,
        len=token.length,
        t=token.start,
        text=token.text,
        p=round(token.confidence, 2),
        loose=token.loose,
    )


def _words(page: tuple[Paragraph, ...], laid: tuple[int, int]) -> str:
    """The text between two laid times."""
    starts = [passage.at for passage in page]
    within = page[max(0, bisect_right(starts, laid[0]) - 1) : bisect_left(starts, laid[1])]
    return " ".join(
        token.text
        for passage in within
        for token in passage.tokens
        if token.kind == "word" and token.at + token.length > laid[0] and token.at < laid[1]
    )
