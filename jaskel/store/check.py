"""Looking whether everything that is stored is whole: the database, every edition by its log, every original by its digest."""

from __future__ import annotations

import hashlib
from collections.abc import Iterator
from contextlib import suppress
from dataclasses import dataclass
from pathlib import Path
from typing import cast

from sqlalchemy import delete, select, text
from sqlalchemy.orm import Session

from jaskel.core.codec import edition_from_json, from_json
from jaskel.core.edition import Edition
from jaskel.core.operations import apply
from jaskel.core.shape import PictureShape
from jaskel.store.home import Home
from jaskel.store.models import EditionRow, Episode, Export, LogEntry, Recording, Snapshot


@dataclass(frozen=True)
class Fault:
    """Something that is not as it should be, in a sentence; ``mended`` says that it is now."""

    told: str
    mended: bool = False


def check(home: Home, *, mend: bool = False) -> Iterator[Fault]:
    """Look through everything; with ``mend``, make good what can be made good from what is whole.

    A snapshot that disagrees with the log it shortens is deleted, for the log is the document.
    """
    yield from _database(home)
    with home.database.read() as session:
        editions = [(row.id, row.name, row.episode_id) for row in session.scalars(select(EditionRow))]
    for edition_id, name, episode_id in editions:
        with home.database.read() as session:
            title = session.get_one(Episode, episode_id).title
            wrong = list(_replayed(session, session.get_one(EditionRow, edition_id), f"“{name}” of “{title}”"))
        for revision, told in wrong:
            mended = mend and revision is not None
            if mended:
                with home.database.write() as session:
                    session.execute(delete(Snapshot).where(Snapshot.edition_id == edition_id, Snapshot.revision == revision))
            yield Fault(told, mended)
    yield from _originals(home)
    yield from _exports(home)


def _database(home: Home) -> Iterator[Fault]:
    if not home.database.is_file:
        return  # PostgreSQL keeps its own pages and references whole
    with home.database.read() as session:
        for (told,) in session.execute(text("PRAGMA integrity_check")):
            if told != "ok":
                yield Fault(f"The database is damaged: {told}")
        for table, row, parent, _ in session.execute(text("PRAGMA foreign_key_check")):
            yield Fault(f"Row {row} of {table} names something in {parent} that is not there")


def _replayed(session: Session, row: EditionRow, name: str) -> Iterator[tuple[int | None, str]]:
    """What is wrong with the log of an edition, which is replayed from its beginning; of snapshots with their revision."""
    empty = edition = Edition(crossfade=row.crossfade, shape=cast(PictureShape, row.first_shape))
    snapshots = {each.revision: each for each in session.scalars(select(Snapshot).where(Snapshot.edition_id == row.id))}
    number = 0
    entries = select(LogEntry).where(LogEntry.edition_id == row.id, LogEntry.number <= row.revision).order_by(LogEntry.number)
    for entry in session.scalars(entries):
        number += 1
        if entry.number != number:
            yield None, f"{name} lacks step {number} of its history"
            return
        try:
            edition, _ = apply(edition, from_json(entry.operation))
        except Exception as error:  # whatever is wrong with a step, it is the step that is wrong
            yield None, f"Step {number} of {name} cannot be carried out: {error}"
            return
        if snapshot := snapshots.get(number):
            with suppress(Exception):
                if edition_from_json(snapshot.state, empty) == edition:
                    continue
            yield number, f"The snapshot of step {number} of {name} is not what its history makes"
    if number != row.revision:
        yield None, f"{name} has {number} steps in its history, and should have {row.revision}"
    elif edition.kept_length != row.length:
        yield None, f"{name} is {edition.kept_length} ticks long, and {row.length} are noted"


def _originals(home: Home) -> Iterator[Fault]:
    with home.database.read() as session:
        known = {each.digest: each for each in session.scalars(select(Recording))}
    for digest, recording in known.items():
        path = home.vault.original(digest)
        if not path.exists():
            yield Fault(f"The original of “{recording.name}” is not in the vault")
        elif digest_of(path) != digest:
            yield Fault(f"The original of “{recording.name}” is not what it was when it came")


def digest_of(path: Path) -> str:
    with path.open("rb") as file:
        return hashlib.file_digest(file, "sha256").hexdigest()


def _exports(home: Home) -> Iterator[Fault]:
    with home.database.read() as session:
        for export in session.scalars(select(Export)):
            path = home.vault.export(export.id)
            if not path.exists():
                yield Fault(f"The finished file {export.file_name} is not there any more")
            elif path.stat().st_size != export.size:
                yield Fault(f"The finished file {export.file_name} is not as long as it was")
