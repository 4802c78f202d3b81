"""Editions: their words, and the operations on them."""

from __future__ import annotations

from dataclasses import asdict, dataclass, replace

from flask import Response
from sqlalchemy.orm import Session

from jaskel.core.codec import from_json
from jaskel.core.edition import merged
from jaskel.core.history import Turn
from jaskel.core.marks.anchor import Meeting, Place
from jaskel.core.marks.loudness import LoudnessMark, loudness_of
from jaskel.core.marks.splice import CROSSFADE
from jaskel.core.operations import Become, Operation, Replace, Retype, SetMarks, Substitute, Telling, joined
from jaskel.core.operations.trim import splice_at
from jaskel.core.page import UNSURE, Paragraph, Token, heard_of, phrase_for, text_in
from jaskel.core.places import Places
from jaskel.core.problem import Missing, Problem
from jaskel.core.rebase import Overlap
from jaskel.core.roles import Right
from jaskel.core.source import Recorded
from jaskel.jobs.fit import start_fitting
from jaskel.jobs.loudness import start_measuring
from jaskel.jobs.process import start_processing
from jaskel.jobs.queue import send
from jaskel.jobs.settle import start_settling
from jaskel.jobs.voices import start_prints
from jaskel.store.editions import NOBODY, Author, Opened, steps_of
from jaskel.store.material import carry_marks, turn_marks
from jaskel.store.models import EditionRow, Episode, LogEntry, MaterialEntry, Recording, SessionRow, TrackRow, now
from jaskel.store.notices import post
from jaskel.store.sessions import clock_of
from jaskel.web.asked import Floor, OperationIn
from jaskel.web.asked.settling import leaves_joins
from jaskel.web.context import context, minutes_of
from jaskel.web.gate import asking, author_of, require
from jaskel.web.head import head_of, next_step
from jaskel.web.resource import resource
from jaskel.web.schemas.common import EditionPath, EpisodePath
from jaskel.web.schemas.editions import (
    AsideOut,
    CopyIn,
    CopyOut,
    EditionChange,
    HeadOut,
    LookedFor,
    NewEdition,
    PageOut,
    PassageOut,
    PlaceOut,
    PlaceQuery,
    RevisionIn,
    SpliceOut,
    SpliceQuery,
    TokenOut,
)
from jaskel.web.schemas.pieces import piece_field
from jaskel.web.serializers import reply
from jaskel.web.shows import find_episode

api = resource("editions", __name__)


@api.get("/editions/<edition_id>", responses={200: HeadOut})
def get_edition(path: EditionPath, query: LookedFor):  # type: ignore[no-untyped-def]
    """What is struck in an edition, how long it is, and what whoever is looking can undo."""
    with context().workshop.home.database.read() as session:
        opened = context().workshop.home.editions.open(session, path.edition_id)
        return reply(head_of(session, opened, author_of(query)))


@api.get("/editions/<edition_id>/page", responses={200: PageOut})
def get_page(path: EditionPath):  # type: ignore[no-untyped-def]
    """All words and rests of an edition, struck or not, in passages."""
    with context().workshop.home.database.read() as session:
        opened = context().workshop.home.editions.open(session, path.edition_id)
        name, lay_out = context().layout(session, opened)
        if asking().is_guest:
            silent = joined([*opened.edition.struck_ranges, *context().muted(session, opened)])
            return reply(_page(name, opened, heard_of(lay_out(), silent)))
        key = "page reply", name
        return context().memory.get(key, lambda: reply(_page(name, opened, lay_out())), minutes_of(opened))


@api.get("/editions/<edition_id>/place", responses={200: PlaceOut})
def get_place(path: EditionPath, query: PlaceQuery):  # type: ignore[no-untyped-def]
    """Where a place of a recording lies in an edition, also where the recording is a track of a session."""
    with context().workshop.home.database.read() as session:
        opened = context().workshop.home.editions.open(session, path.edition_id)
        name, at = query.recording, query.at
        if track := session.get(TrackRow, query.recording):
            clock = next(t for t in clock_of(track.session).tracks if t.recording == query.recording)
            name, at = track.session_id, clock.to_session(query.at)
        places = Places(opened.edition).of(Place(name, at))
        return reply(PlaceOut(laid=places[0][0] if places else None))


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
            if pieces:
                become = Become(replace(source, pieces=tuple(merged(pieces))))
                opened = editions.arrive(session, row.id, become, f"began as a copy of {_name_of(session, body.copy_of)}")
        return _changed(session, opened, 201)


def _name_of(session: Session, edition_id: str) -> str:
    return session.get_one(EditionRow, edition_id).name


@api.patch("/editions/<edition_id>", responses={200: HeadOut})
def change_edition(path: EditionPath, body: EditionChange):  # type: ignore[no-untyped-def]
    """Rename an edition, or say how long it is to become."""
    editions = context().workshop.home.editions
    with context().workshop.home.database.write() as session:
        opened = editions.open(session, path.edition_id)
        row = session.get_one(EditionRow, path.edition_id)
        row.name = body.name or row.name
        row.target = row.target if body.target is None else body.target
        row.target_kind = body.target_kind or row.target_kind
        return _changed(session, opened)


@api.delete("/editions/<edition_id>", responses={204: None})
def delete_edition(path: EditionPath):  # type: ignore[no-untyped-def]
    """Delete an edition; it can be brought back. The last one of an episode stays."""
    with context().workshop.home.database.write() as session:
        context().workshop.home.editions.open(session, path.edition_id)
        row = session.get_one(EditionRow, path.edition_id)
        if len(row.episode.editions) < 2:
            raise Problem("last-edition", "An episode keeps at least one edition. Make another one first.")
        row.deleted = now()
        post(session, "recording", row.episode_id)
    return Response(status=204)


@api.post("/editions/<edition_id>/restore", responses={200: HeadOut})
def restore_edition(path: EditionPath):  # type: ignore[no-untyped-def]
    """Bring a deleted edition back, with its history."""
    editions = context().workshop.home.editions
    with context().workshop.home.database.write() as session:
        row = session.get(EditionRow, path.edition_id)
        if row is None:
            raise Missing("no-edition", "This edition is not there any more.")
        row.deleted = None
        session.flush()
        opened = editions.open(session, path.edition_id)
        if any(not session.get(Recording, name) and not session.get(SessionRow, name) for name in opened.edition.recordings):
            raise Problem("recording-gone", "A recording of this edition was removed since it was deleted, so it stays away.")
        post(session, "recording", row.episode_id)
        return _changed(session, opened)


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
        out = [piece_field(piece) for piece in merged(pieces)]
        return reply(CopyOut(pieces=out, text=text, length=sum(piece.length for piece in pieces)))


@api.get("/editions/<edition_id>/splice", responses={200: SpliceOut})
def get_splice(path: EditionPath, query: SpliceQuery):  # type: ignore[no-untyped-def]
    """How the splice is made whose later side begins at a laid time."""
    with context().workshop.home.database.read() as session:
        opened = context().workshop.home.editions.open(session, path.edition_id)
        before, after = splice_at(opened.edition, query.at)
        plan = context().plan(session, opened)
    span = next(span for span, run in zip(plan.spans, opened.edition.kept_runs, strict=True) if run is after)
    meeting = Meeting(before.source, before.end, after.source, after.start)
    out = SpliceOut(
        at=query.at,
        programme=span.handover,
        crossfade=span.fade_in,
        shape=span.shape_in,
        lead=span.lead,
        by_hand=meeting in opened.edition.by_meeting and not opened.edition.by_meeting[meeting].settled,
    )
    return reply(out)


@dataclass(frozen=True)
class Prepared:
    """An operation that was asked for, made for the edition as it is at a revision."""

    revision: int
    operation: Operation


def _prepared(session: Session, edition_id: str, body: OperationIn) -> Prepared:
    """What was asked for, carried over what happened since it was made."""
    editions = context().workshop.home.editions
    opened = editions.open(session, edition_id)
    since = steps_of(editions.since(session, opened.id, body.revision) if opened.revision > body.revision else [])
    try:
        operation = body.operation.carried(since).operation(Floor(session, opened, context()))
        since.check_words(operation.corrections)
        for recording in dict.fromkeys(change.recording for change in operation.corrections):
            # What was pasted from another show is corrected there, too.
            require(session.get_one(Recording, recording).episode.show_id, Right.WORDS)
    except Overlap:
        editions.at(session, opened.id, body.revision)  # says what happened
        raise
    return Prepared(opened.revision, operation)


@api.post("/editions/<edition_id>/operations", responses={200: HeadOut})
def perform(path: EditionPath, body: OperationIn):  # type: ignore[no-untyped-def]
    """Carry out an operation that was made on a revision of the edition.

    What others did since on other passages is no hindrance; where they changed the same, it is refused with what happened.
    """
    editions, wanted = context().workshop.home.editions, body.operation
    ready: Prepared | None = None
    if wanted.listens:
        with context().workshop.home.database.read() as session:
            ready = _prepared(session, path.edition_id, body)
    with context().workshop.home.database.write() as session:
        opened = editions.open(session, path.edition_id)
        if ready is None or ready.revision != opened.revision:
            ready = _prepared(session, path.edition_id, body)
        operation = ready.operation
        _, lay_out = context().layout(session, opened)
        plan_before = context().plan(session, opened)
        author = author_of(body)
        telling = Telling(lambda stretch: phrase_for(lay_out(), stretch), lambda laid: plan_before.programme_at(laid))
        performed = editions.perform(session, opened.id, opened.revision, operation, telling, author)
        response, jobs = _changed(session, performed, author=author), _follow(session, performed, operation)
        if wanted.settles and leaves_joins(operation):
            jobs += filter(None, [start_settling(session, opened.id)])
    for job in jobs:
        send(context().workshop.home, job)
    return response


@api.post("/editions/<edition_id>/undo", responses={200: HeadOut})
def undo(path: EditionPath, body: RevisionIn):  # type: ignore[no-untyped-def]
    """Take back one's own newest step, also where others did something elsewhere since.

    Steps on the material (notes, selects) count as well: whichever was later is taken back.
    """
    return _turn(path.edition_id, body, "undo")


@api.post("/editions/<edition_id>/redo", responses={200: HeadOut})
def redo(path: EditionPath, body: RevisionIn):  # type: ignore[no-untyped-def]
    """Do again what one took back last."""
    return _turn(path.edition_id, body, "redo")


def _turn(edition_id: str, body: RevisionIn, turn: Turn) -> Response:
    home, author = context().workshop.home, author_of(body)
    jobs: list[str] = []
    with home.database.write() as session:
        opened = home.editions.open(session, edition_id)
        episode = session.get_one(EditionRow, edition_id).episode
        if isinstance(next_step(session, opened, episode, turn, author), MaterialEntry):
            turn_marks(session, episode, turn, author)
        else:
            step = opened.history.next(turn, author.keys)
            opened, operation = home.editions.turn(session, edition_id, body.revision, turn, author)
            if step:
                _carry_back(session, episode, session.get_one(LogEntry, (edition_id, step.target)), turn)
            jobs = _follow(session, opened, operation)
        response = _changed(session, opened, author=author)
    for job in jobs:
        send(home, job)
    return response


def _carry_back(session: Session, episode: Episode, entry: LogEntry, turn: Turn) -> None:
    """Where material took the place of other material, the marks of the episode follow it back, and there again."""
    if entry.operation["kind"] not in FOLLOWED:
        return
    carries = from_json(entry.operation).carries
    if turn == "undo":
        recordings = (session.get(Recording, carry.recording) for carry in carries)
        carries = [c.turned(known.length) for c, known in zip(carries, recordings, strict=True) if known]
    if carries:
        carry_marks(session, episode, carries)


FOLLOWED = (Replace.kind, Substitute.kind)
"""Operations by which material takes the place of other material."""


def _follow(session: Session, opened: Opened, operation: Operation) -> list[str]:
    """What has to be told and done after words were mended, or chains changed; gives the ids of jobs."""
    jobs = [start_processing(context().workshop.home, session, opened.id, opened.edition)]
    if _wants_measuring(opened, operation):
        jobs.append(start_measuring(session, opened.id, context().plan(session, opened).length))
    changes = tuple(operation.corrections)
    for recording_id in dict.fromkeys(change.recording for change in changes):
        recording = session.get_one(Recording, recording_id)
        post(session, "transcript", recording.episode_id, recording=recording.id, revision=recording.transcript_revision)
    if changes:
        jobs += [*start_fitting(session, Retype(changes)), *start_prints(session, Retype(changes))]
    return [job for job in jobs if job]


def _wants_measuring(opened: Opened, operation: Operation) -> bool:
    """Whether a loudness was set that nobody has measured yet: it is at once, and later when somebody asks for it."""
    wanted = loudness_of(opened.edition.marks)
    changed = isinstance(operation, SetMarks) and any(isinstance(each, LoudnessMark) for each in operation.marks)
    return bool(changed and wanted and not wanted.measured)


def _changed(session: Session, opened: Opened, status: int = 200, author: Author = NOBODY) -> Response:
    head = head_of(session, opened, author)
    post(session, "edition", head.episode_id, id=opened.id, revision=opened.revision)
    return reply(head, status)


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
                recording=p.source.recording if isinstance(p.source, Recorded) else None,
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
        over=token.over,
        pickup=token.pickup,
    )
