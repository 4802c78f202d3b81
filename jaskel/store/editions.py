"""Editions in the database: the operation log is the document, snapshots only shorten reading it."""

from __future__ import annotations

from collections.abc import Iterable
from dataclasses import dataclass
from threading import Lock
from typing import Literal, cast

from cachetools import LRUCache
from sqlalchemy import delete, event, select
from sqlalchemy.orm import Session

from jaskel.core.codec import edition_from_json, edition_to_json, from_json, to_json
from jaskel.core.edition import Edition
from jaskel.core.history import Authors, Entry, History, StepKind, Turn, are_one
from jaskel.core.locks import check_locks
from jaskel.core.operations import Operation, Telling, apply, taken_back
from jaskel.core.problem import Missing, Problem, Stale
from jaskel.core.rebase import Overlap, Since, Step
from jaskel.core.retype import Change, put_in
from jaskel.core.shape import PictureShape
from jaskel.core.transcript import Transcript
from jaskel.store.models import EditionRow, LogEntry, MaterialEntry, Recording, Snapshot
from jaskel.store.transcripts import Transcripts

SNAPSHOT_EVERY = 40
CACHED = 16


@dataclass(frozen=True)
class Opened:
    """An edition at a revision, with what can be undone there."""

    id: str
    revision: int
    edition: Edition
    history: History


@dataclass(frozen=True)
class Author:
    """Whose step it is: ``who`` is a person's name, where they gave one; ``window`` tells apart those who did not."""

    who: str = ""
    window: str = ""

    @property
    def keys(self) -> Authors:
        """What undo goes by: the name as well as the window, for some give their name later."""
        return frozenset(filter(None, (self.who, self.window)))


NOBODY = Author()


class Editions:
    """Reads and changes editions. Keeps the newest state of those in use; safe to use from several threads."""

    def __init__(self, transcripts: Transcripts) -> None:
        self._transcripts = transcripts
        self._cache: LRUCache[str, Opened] = LRUCache(CACHED)
        self._lock = Lock()

    def open(self, session: Session, edition_id: str) -> Opened:
        """The edition as it is now.

        Raises
        ------
        Missing
            When there is no such edition.
        """
        row = session.get(EditionRow, edition_id, populate_existing=True)
        if row is None or row.deleted:
            raise Missing("no-edition", "This edition is not there any more. Go back to the library and open another.")
        with self._lock:
            cached = self._cache.get(edition_id)
        if cached and cached.revision == row.revision:
            return cached
        opened = self._catch_up(session, row, cached if cached and cached.revision < row.revision else None)
        self._keep(opened)
        return opened

    def perform(
        self, session: Session, edition_id: str, revision: int, operation: Operation, telling: Telling, author: Author = NOBODY
    ) -> Opened:
        """Carry out ``operation``, which was made on ``revision``.

        Raises
        ------
        Stale
            When the edition has moved on; ``facts["since"]`` says what happened.
        Problem
            When the operation does not apply.
        """
        opened = self.at(session, edition_id, revision)
        return self._append(session, opened, "do", None, operation, operation.summary(telling), author)

    def arrive(self, session: Session, edition_id: str, operation: Operation, summary: str = "added a recording") -> Opened:
        """Add material at the end, or begin with some, whatever the revision. It is not part of what can be undone."""
        opened = self.open(session, edition_id)
        return self._append(session, opened, "base", None, operation, summary)

    def undo(self, session: Session, edition_id: str, revision: int, author: Author = NOBODY) -> Opened:
        """Take back the newest step of an author that has not been taken back."""
        return self.turn(session, edition_id, revision, "undo", author)[0]

    def redo(self, session: Session, edition_id: str, revision: int, author: Author = NOBODY) -> Opened:
        """Do again what an author took back last."""
        return self.turn(session, edition_id, revision, "redo", author)[0]

    def turn(
        self, session: Session, edition_id: str, revision: int, turn: Turn, author: Author = NOBODY
    ) -> tuple[Opened, Operation]:
        """Undo or redo; also gives the operation that did it.

        What did or undid the step last has an inverse; that is carried over what others did since.

        Raises
        ------
        Stale
            When the author has done something since ``revision``: in another window, say.
        Problem
            ``nothing-to-undo``, ``nothing-to-redo``, or ``in-the-way`` where somebody changed the same since.
        """
        opened = self.open(session, edition_id)
        mine = [
            e
            for e in self.since(session, edition_id, revision)
            if e.step != "base" and are_one(Author(e.who, e.author).keys, author.keys)
        ]
        if mine:
            self.at(session, edition_id, revision)
        step = opened.history.next(turn, author.keys)
        if step is None:
            raise Problem(f"nothing-to-{turn}", f"There is nothing to {turn}.")
        last = session.get_one(LogEntry, (edition_id, step.last))
        target = session.get_one(LogEntry, (edition_id, step.target))
        operation = carried_over(from_json(last.inverse), self.since(session, edition_id, step.last), turn)
        return self._append(session, opened, turn, step.target, operation, target.summary, author), operation

    def since(self, session: Session, edition_id: str, revision: int) -> list[LogEntry]:
        """What happened after a revision, oldest first."""
        entries = select(LogEntry).where(LogEntry.edition_id == edition_id, LogEntry.number > revision)
        return list(session.scalars(entries.order_by(LogEntry.number)))

    def as_it_was(self, session: Session, edition_id: str, revision: int) -> Edition:
        """The edition at an earlier revision.

        Raises
        ------
        Missing
            When it never had that one.
        """
        row = session.get_one(EditionRow, edition_id)
        if not 0 <= revision <= row.revision:
            raise Missing("no-revision", "This edition has no such step in its history.")
        edition, at = self._from_snapshot(session, row, revision)
        for entry in self.since(session, edition_id, at):
            if entry.number <= revision:
                edition, _ = apply(edition, from_json(entry.operation))
        return edition

    def words_as_they_were(
        self, session: Session, edition_id: str, revision: int
    ) -> tuple[dict[str, Transcript], list[Change]]:
        """The transcripts that corrections in an edition's history changed after ``revision``, as they were then.

        Also gives the changes that make them so. What was changed elsewhere since stays as it is.
        """
        known: dict[str, Transcript] = {}
        made: list[Change] = []
        since = [from_json(entry.operation) for entry in self.since(session, edition_id, revision)]
        for change in taken_back(since):
            recording = session.get(Recording, change.recording)
            if recording is None:
                continue
            now = known.get(recording.id) or self._transcripts.of(session, recording)
            try:
                known[recording.id] = put_in(now, change)
            except Problem:
                continue
            made.append(change)
        return known, made

    def at(self, session: Session, edition_id: str, revision: int) -> Opened:
        """The edition, if ``revision`` is its newest.

        Raises
        ------
        Stale
            When it has moved on.
        """
        opened = self.open(session, edition_id)
        if opened.revision != revision:
            since = [{"step": entry.step, "summary": entry.summary} for entry in self.since(session, edition_id, revision)]
            told = "; ".join(entry["summary"] for entry in since[-3:])
            raise Stale(
                "stale",
                f"This edition was changed in another window ({told}). The page now shows it as it is: look, and repeat yours.",
                revision=opened.revision,
                since=since,
            )
        return opened

    def _append(
        self,
        session: Session,
        opened: Opened,
        step: StepKind | Literal["base"],
        target: int | None,
        operation: Operation,
        summary: str,
        author: Author = NOBODY,
    ) -> Opened:
        operation = operation.resolved(opened.edition)
        edition, inverse = apply(opened.edition, operation)
        if step != "base":
            check_locks(opened.edition, operation, inverse, author.keys)
        for change in operation.corrections:
            self._transcripts.carry_out(session, change)
        number = opened.revision + 1
        target = target or number
        session.add(
            LogEntry(
                edition_id=opened.id,
                number=number,
                step=step,
                target=target,
                operation=to_json(operation),
                inverse=to_json(inverse),
                summary=summary,
                who=author.who,
                author=author.window,
            )
        )
        row = session.get_one(EditionRow, opened.id)
        row.revision, row.length, row.shape = number, edition.kept_length, edition.shape
        if number % SNAPSHOT_EVERY == 0:
            self._snapshot(session, opened.id, number, edition)
        history = opened.history if step == "base" else opened.history.after(Entry(number, step, target, author.keys))
        appended = Opened(opened.id, number, edition, history)
        # Remembered once it is stored, so that the next edit need not carry it out again.
        event.listen(session, "after_commit", lambda _: self._keep(appended), once=True)
        return appended

    def _snapshot(self, session: Session, edition_id: str, revision: int, edition: Edition) -> None:
        session.add(Snapshot(edition_id=edition_id, revision=revision, state=edition_to_json(edition)))
        session.execute(
            delete(Snapshot).where(Snapshot.edition_id == edition_id, Snapshot.revision < revision - 10 * SNAPSHOT_EVERY)
        )

    def _catch_up(self, session: Session, row: EditionRow, known: Opened | None) -> Opened:
        entries = (
            select(LogEntry).where(LogEntry.edition_id == row.id, LogEntry.number <= row.revision).order_by(LogEntry.number)
        )
        if known:
            edition, history, at = known.edition, known.history, known.revision
        else:
            edition, at = self._from_snapshot(session, row, row.revision)
            steps = session.execute(
                select(LogEntry.number, LogEntry.step, LogEntry.target, LogEntry.who, LogEntry.author)
                .where(LogEntry.edition_id == row.id, LogEntry.number <= at, LogEntry.step != "base")
                .order_by(LogEntry.number)
            )
            history = History.read(entry_of(*step) for step in steps)
        for entry in session.scalars(entries.where(LogEntry.number > at)):
            edition, _ = apply(edition, from_json(entry.operation))
            if entry.step != "base":
                history = history.after(entry_of(entry.number, entry.step, entry.target, entry.who, entry.author))
        return Opened(row.id, row.revision, edition, history)

    def _from_snapshot(self, session: Session, row: EditionRow, revision: int) -> tuple[Edition, int]:
        empty = Edition(crossfade=row.crossfade, shape=cast(PictureShape, row.first_shape))
        newest = session.scalar(
            select(Snapshot)
            .where(Snapshot.edition_id == row.id, Snapshot.revision <= revision)
            .order_by(Snapshot.revision.desc())
            .limit(1)
        )
        return (edition_from_json(newest.state, empty), newest.revision) if newest else (empty, 0)

    def _keep(self, opened: Opened) -> None:
        with self._lock:
            self._cache[opened.id] = opened


def entry_of(number: int, step: str, target: int, who: str, window: str) -> Entry:
    """An entry of a log as the core's history reads it."""
    return Entry(number, cast(StepKind, step), target, Author(who, window).keys)


def steps_of(entries: Iterable[LogEntry | MaterialEntry]) -> Since:
    """What entries of a log did, for carrying something over them."""
    return Since(
        Step(from_json(each.inverse), each.number, each.target, each.summary, each.who, each.step == "base") for each in entries
    )


def carried_over(operation: Operation, entries: Iterable[LogEntry | MaterialEntry], turn: Turn) -> Operation:
    """What undoes or redoes a step, carried over what happened since.

    Raises
    ------
    Problem
        ``in-the-way``, with whose step it is.
    """
    try:
        return operation.carried(steps_of(entries))
    except Overlap as overlap:
        step = overlap.step
        whose = f"{step.who}’s step {step.number}" if step.who else f"step {step.number}"
        raise Problem(
            "in-the-way",
            f"That cannot be {'undone' if turn == 'undo' else 'done again'} by itself any more: {whose} ({step.summary}) "
            "changed the same since. Take that back first, or go back to a state in the history.",
            step=step.number,
            who=step.who,
        ) from overlap
