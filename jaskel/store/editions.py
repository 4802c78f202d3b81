"""Editions in the database: the operation log is the document, snapshots only shorten reading it."""

from __future__ import annotations

from collections import OrderedDict
from collections.abc import Callable
from dataclasses import dataclass
from threading import Lock
from typing import Literal

from sqlalchemy import delete, event, select
from sqlalchemy.orm import Session

from jaskel.core.edition import Edition, Piece
from jaskel.core.history import Entry, History, Step
from jaskel.core.operations import Operation, apply, corrections, taken_back
from jaskel.core.operations_json import from_json, levels_from_json, levels_to_json, splices_from_json, splices_to_json, to_json
from jaskel.core.problem import Missing, Problem, Stale
from jaskel.core.retype import Change, put_in
from jaskel.core.telling import describe
from jaskel.core.transcript import Transcript
from jaskel.store.models import EditionRow, LogEntry, Recording, Snapshot
from jaskel.store.transcripts import Transcripts

SNAPSHOT_EVERY = 40
CACHED = 16

Words = Callable[[tuple[int, int]], str]


@dataclass(frozen=True)
class Opened:
    """An edition at a revision, with what can be undone there."""

    id: str
    revision: int
    edition: Edition
    history: History


class Editions:
    """Reads and changes editions. Keeps the newest state of those in use; safe to use from several threads."""

    def __init__(self, transcripts: Transcripts) -> None:
        self._transcripts = transcripts
        self._cache: OrderedDict[str, Opened] = OrderedDict()
        self._lock = Lock()

    def open(self, session: Session, edition_id: str) -> Opened:
        """The edition as it is now.

        Raises
        ------
        Missing
            When there is no such edition.
        """
        row = session.get(EditionRow, edition_id, populate_existing=True)
        if row is None:
            raise Missing("no-edition", "This edition is not there any more. Go back to the library and open another.")
        with self._lock:
            cached = self._cache.get(edition_id)
        if cached and cached.revision == row.revision:
            return cached
        opened = self._catch_up(session, row, cached if cached and cached.revision < row.revision else None)
        self._keep(opened)
        return opened

    def perform(
        self, session: Session, edition_id: str, revision: int, operation: Operation, words: Words, who: str = ""
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
        return self._append(session, opened, "do", None, operation, describe(operation, words), who)

    def arrive(self, session: Session, edition_id: str, operation: Operation, summary: str = "added a recording") -> Opened:
        """Add material at the end, or begin with some, whatever the revision. It is not part of what can be undone."""
        opened = self.open(session, edition_id)
        return self._append(session, opened, "base", None, operation, summary)

    def undo(self, session: Session, edition_id: str, revision: int) -> Opened:
        """Take back the newest step that has not been taken back."""
        return self.turn(session, edition_id, revision, "undo")[0]

    def redo(self, session: Session, edition_id: str, revision: int) -> Opened:
        """Do again what was taken back last."""
        return self.turn(session, edition_id, revision, "redo")[0]

    def turn(
        self, session: Session, edition_id: str, revision: int, step: Literal["undo", "redo"], who: str = ""
    ) -> tuple[Opened, Operation]:
        """Undo or redo; also gives the operation that did it."""
        opened = self._unless_edited(session, edition_id, revision)
        stack = opened.history.undoable if step == "undo" else opened.history.redoable
        if not stack:
            raise Problem(f"nothing-to-{step}", f"There is nothing to {step}.")
        entry = session.get_one(LogEntry, (edition_id, stack[-1]))
        operation = from_json(entry.inverse if step == "undo" else entry.operation)
        return self._append(session, opened, step, entry.number, operation, entry.summary, who), operation

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

    def _unless_edited(self, session: Session, edition_id: str, revision: int) -> Opened:
        """The edition, if nobody has done anything since ``revision``: material that arrives by itself is no hindrance."""
        opened = self.open(session, edition_id)
        if revision < opened.revision and all(entry.step == "base" for entry in self.since(session, edition_id, revision)):
            return opened
        return self.at(session, edition_id, revision)

    def _append(
        self,
        session: Session,
        opened: Opened,
        step: Step | Literal["base"],
        target: int | None,
        operation: Operation,
        summary: str,
        who: str = "",
    ) -> Opened:
        edition, inverse = apply(opened.edition, operation)
        for change in corrections(operation):
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
                who=who,
            )
        )
        row = session.get_one(EditionRow, opened.id)
        row.revision, row.length = number, edition.kept_length
        if number % SNAPSHOT_EVERY == 0:
            self._snapshot(session, opened.id, number, edition)
        history = opened.history if step == "base" else opened.history.after(Entry(number, step, target))
        appended = Opened(opened.id, number, edition, history)
        # Remembered once it is stored, so that the next edit need not carry it out again.
        event.listen(session, "after_commit", lambda _: self._keep(appended), once=True)
        return appended

    def _snapshot(self, session: Session, edition_id: str, revision: int, edition: Edition) -> None:
        rows = [[p.recording, p.start, p.end, p.kept, p.why, p.lifted] for p in edition.pieces]
        by_hand = {"splices": splices_to_json(edition.splices), **levels_to_json(edition.levels)}
        session.add(Snapshot(edition_id=edition_id, revision=revision, pieces=rows, by_hand=by_hand))
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
                select(LogEntry.number, LogEntry.step, LogEntry.target)
                .where(LogEntry.edition_id == row.id, LogEntry.number <= at, LogEntry.step != "base")
                .order_by(LogEntry.number)
            )
            history = History.read(Entry(number, step, target) for number, step, target in steps)  # type: ignore[arg-type]
        for entry in session.scalars(entries.where(LogEntry.number > at)):
            edition, _ = apply(edition, from_json(entry.operation))
            if entry.step != "base":
                history = history.after(Entry(entry.number, entry.step, entry.target))  # type: ignore[arg-type]
        return Opened(row.id, row.revision, edition, history)

    def _from_snapshot(self, session: Session, row: EditionRow, revision: int) -> tuple[Edition, int]:
        newest = session.scalar(
            select(Snapshot)
            .where(Snapshot.edition_id == row.id, Snapshot.revision <= revision)
            .order_by(Snapshot.revision.desc())
            .limit(1)
        )
        if newest is None:
            return Edition((), row.crossfade), 0
        pieces = tuple(Piece(*piece) for piece in newest.pieces)
        splices = splices_from_json(newest.by_hand.get("splices", ()))
        by_hand = tuple((meeting, splice) for meeting, splice in splices if splice)
        return Edition(pieces, row.crossfade, by_hand, levels_from_json(newest.by_hand)), newest.revision

    def _keep(self, opened: Opened) -> None:
        with self._lock:
            self._cache[opened.id] = opened
            self._cache.move_to_end(opened.id)
            while len(self._cache) > CACHED:
                self._cache.popitem(last=False)
