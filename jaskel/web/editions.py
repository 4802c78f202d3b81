"""Editions: their words, and the operations on them."""

from __future__ import annotations

from dataclasses import asdict
from typing import Literal

from flask import Response
from sqlalchemy import select
from sqlalchemy.orm import Session

from jaskel.core.edition import merged
from jaskel.core.operations import Become, Operation, Retype, corrections, joined
from jaskel.core.operations_json import from_json
from jaskel.core.page import UNSURE, Paragraph, Token, phrase_for, text_in
from jaskel.core.problem import Problem
from jaskel.core.rebase import Overlap, Since
from jaskel.core.splice import CROSSFADE, Meeting
from jaskel.core.tidy.judged import Places
from jaskel.jobs.fit import start_fitting
from jaskel.jobs.queue import send
from jaskel.jobs.settle import start_settling
from jaskel.jobs.spell import spellings_of
from jaskel.jobs.voices import start_prints
from jaskel.store.editions import Opened
from jaskel.store.models import EditionRow, Episode, LogEntry, Recording, TrackRow
from jaskel.store.notices import post
from jaskel.store.sessions import clock_of
from jaskel.web.context import context
from jaskel.web.operations import carried, check_words, leaves_joins, operation_of, splice_at
from jaskel.web.present import reply
from jaskel.web.resource import resource
from jaskel.web.schemas.common import EditionPath, EpisodePath
from jaskel.web.schemas.editions import (
    AsideOut,
    CopyIn,
    CopyOut,
    EditionChange,
    HeadOut,
    LevelOut,
    NewEdition,
    OperationIn,
    PageOut,
    PassageOut,
    PieceField,
    PlaceOut,
    PlaceQuery,
    RevisionIn,
    SpliceOut,
    SpliceQuery,
    StepOut,
    TokenOut,
    TrackLevelOut,
)
from jaskel.web.schemas.texts import NewSpelling
from jaskel.web.shows import find_episode

api = resource("editions", __name__)


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
        place = Places(opened.edition).laid(name, at, at + 1)
        return reply(PlaceOut(laid=place[0] if place else None))


@api.post("/episodes/<episode_id>/editions", responses={201: HeadOut})
def make_edition(path: EpisodePath, body: NewEdition):  # type: ignore[no-untyped-def]
    """Make an edition: empty, a copy of another, or of ranges of it."""
    editions = context().workshop.home.editions
    with context().workshop.home.database.write() as session:
        episode = find_episode(session, path.episode_id)
        row = EditionRow(name=body.name, crossfade=CROSSFADE, episode_id=episode.id)
        session.add(row)
        session.flush()
        opened = editions.open(session, row.id)
        if body.copy_of:
            source = editions.open(session, body.copy_of).edition
            ranges = joined([(r.begin, r.end) for r in body.ranges])
            pieces = tuple(piece for a, b in ranges for piece in source.cut_out(a, b)) if ranges else source.pieces
            row.shape = session.get_one(EditionRow, body.copy_of).shape
            if pieces:
                become = Become(tuple(merged(pieces)), source.splices, source.levels)
                opened = editions.arrive(session, row.id, become, f"began as a copy of {_name_of(session, body.copy_of)}")
        return _changed(session, opened, 201)


def _name_of(session: Session, edition_id: str) -> str:
    return session.get_one(EditionRow, edition_id).name


@api.patch("/editions/<edition_id>", responses={200: HeadOut})
def change_edition(path: EditionPath, body: EditionChange):  # type: ignore[no-untyped-def]
    """Rename an edition, or say how long it is to become, or in which shape."""
    editions = context().workshop.home.editions
    with context().workshop.home.database.write() as session:
        opened = editions.open(session, path.edition_id)
        row = session.get_one(EditionRow, path.edition_id)
        row.name = body.name or row.name
        row.target = row.target if body.target is None else body.target
        row.target_kind = body.target_kind or row.target_kind
        row.shape = body.shape or row.shape
        return _changed(session, opened)


@api.delete("/editions/<edition_id>", responses={204: None})
def delete_edition(path: EditionPath):  # type: ignore[no-untyped-def]
    """Delete an edition with its history; the last one of an episode stays."""
    with context().workshop.home.database.write() as session:
        context().workshop.home.editions.open(session, path.edition_id)
        row = session.get_one(EditionRow, path.edition_id)
        if len(row.episode.editions) < 2:
            raise Problem("last-edition", "An episode keeps at least one edition. Make another one first.")
        post(session, "recording", row.episode_id)
        session.delete(row)
    return Response(status=204)


@api.post("/editions/<edition_id>/copy", responses={200: CopyOut})
def copy(path: EditionPath, body: CopyIn):  # type: ignore[no-untyped-def]
    """What stands in ranges, to be inserted elsewhere."""
    with context().workshop.home.database.read() as session:
        opened = context().workshop.home.editions.open(session, path.edition_id)
        ranges = joined([(r.begin, min(r.end, opened.edition.length)) for r in body.ranges])
        pieces = [piece for begin, end in ranges for piece in opened.edition.cut_out(begin, end) if piece.kept]
        if not pieces:
            raise Problem("nothing-kept", "Nothing that is kept is selected, so there is nothing to copy.")
        page = context().layout(session, opened)[1]()
        text = " ".join(filter(None, (text_in(page, each) for each in ranges)))
        out = [PieceField(**asdict(piece)) for piece in merged(pieces)]
        return reply(CopyOut(pieces=out, text=text, length=sum(piece.length for piece in pieces)))


@api.get("/editions/<edition_id>/splice", responses={200: SpliceOut})
def get_splice(path: EditionPath, query: SpliceQuery):  # type: ignore[no-untyped-def]
    """How the splice is made whose later side begins at a laid time."""
    with context().workshop.home.database.read() as session:
        opened = context().workshop.home.editions.open(session, path.edition_id)
        before, after = splice_at(opened.edition, query.at)
        plan = context().programme(session, opened, "edited").plan
    span = next(span for span, run in zip(plan.spans, opened.edition.kept_runs, strict=True) if run is after)
    meeting = Meeting(before.recording, before.end, after.recording, after.start)
    out = SpliceOut(
        at=query.at,
        programme=span.handover,
        **meeting._asdict(),
        crossfade=span.fade_in,
        shape=span.shape_in,
        lead=span.lead,
        by_hand=meeting in opened.edition.by_meeting and not opened.edition.by_meeting[meeting].settled,
    )
    return reply(out)


@api.post("/editions/<edition_id>/operations", responses={200: HeadOut})
def perform(path: EditionPath, body: OperationIn):  # type: ignore[no-untyped-def]
    """Carry out an operation that was made on a revision of the edition.

    What others did since on other passages is no hindrance; where they changed the same, it is refused with what happened.
    """
    editions = context().workshop.home.editions
    with context().workshop.home.database.write() as session:
        opened = editions.open(session, path.edition_id)
        wanted = body.operation
        meanwhile = editions.since(session, opened.id, body.revision) if opened.revision > body.revision else []
        try:
            if meanwhile:
                wanted = carried(wanted, Since([from_json(entry.inverse) for entry in meanwhile]))
            operation = operation_of(session, opened, wanted)
            check_words(operation, [from_json(entry.operation) for entry in meanwhile])
        except Overlap:
            editions.at(session, opened.id, body.revision)  # says what happened
        _, lay_out = context().layout(session, opened)
        performed = editions.perform(
            session, opened.id, opened.revision, operation, lambda r: phrase_for(lay_out(), r), body.who
        )
        response, jobs = _changed(session, performed), _follow(session, operation)
        if leaves_joins(wanted, operation):
            jobs += filter(None, [start_settling(session, opened.id)])
    for job in jobs:
        send(context().workshop.home, job)
    return response


@api.post("/editions/<edition_id>/undo", responses={200: HeadOut})
def undo(path: EditionPath, body: RevisionIn):  # type: ignore[no-untyped-def]
    """Take back the newest step."""
    return _turn(path.edition_id, body, "undo")


@api.post("/editions/<edition_id>/redo", responses={200: HeadOut})
def redo(path: EditionPath, body: RevisionIn):  # type: ignore[no-untyped-def]
    """Do again what was taken back last."""
    return _turn(path.edition_id, body, "redo")


def _turn(edition_id: str, body: RevisionIn, step: Literal["undo", "redo"]) -> Response:
    home = context().workshop.home
    with home.database.write() as session:
        opened, operation = home.editions.turn(session, edition_id, body.revision, step, body.who)
        response, jobs = _changed(session, opened), _follow(session, operation)
    for job in jobs:
        send(home, job)
    return response


def _follow(session: Session, operation: Operation) -> list[str]:
    """What has to be told and done after words were mended; gives the ids of jobs."""
    changes = tuple(corrections(operation))
    if not changes:
        return []
    for recording_id in dict.fromkeys(change.recording for change in changes):
        recording = session.get_one(Recording, recording_id)
        post(session, "transcript", recording.episode_id, recording=recording.id, revision=recording.transcript_revision)
    return [*start_fitting(session, Retype(changes)), *start_prints(session, Retype(changes))]


def _changed(session: Session, opened: Opened, status: int = 200) -> Response:
    head = _head(session, opened)
    post(session, "edition", head.episode_id, id=opened.id, revision=opened.revision)
    return reply(head, status)


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
        lifted=[*map(list, opened.edition.lifted_ranges)],
        muted=[*map(list, context().muted(session, opened))],
        splices=[run.laid for run in opened.edition.kept_runs[1:]],
        levels=[LevelOut(**level._asdict()) for level in opened.edition.levels.stretches],
        tracks=[TrackLevelOut(track=track, decibels=decibels) for track, decibels in opened.edition.levels.tracks],
        target=row.target,
        target_kind=row.target_kind,
        shape=row.shape,
        opening=_length(opened.edition.card(closing=False)),
        closing=_length(opened.edition.card(closing=True)),
        undo=_step(entries[opened.history.undoable[-1]]) if opened.history.undoable else None,
        redo=_step(entries[opened.history.redoable[-1]]) if opened.history.redoable else None,
        newest=_step(newest, session) if newest else None,
        proposal=_proposal(session, row, newest) if newest and newest.step == "do" else None,
    )


def _step(entry: LogEntry, session: Session | None = None) -> StepOut:
    """A step as it is told: of an undo or redo it is told whose step it is about."""
    about = session.get(LogEntry, (entry.edition_id, entry.target)) if session and entry.step in ("undo", "redo") else None
    told = about or entry
    return StepOut(number=told.number, step=entry.step, summary=entry.summary, who=told.who)


def _length(place: tuple[int, int] | None) -> int:
    return place[1] - place[0] if place else 0


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
