"""All rows of one database in another: from the file to a PostgreSQL, and back. Each row is read again and compared."""

from __future__ import annotations

from collections.abc import Callable, Iterator, Sequence
from typing import Any

from sqlalchemy import Connection, Row, Table, delete, func, insert, inspect, select, text, tuple_
from sqlalchemy.orm import Session

from jaskel.core.problem import Problem
from jaskel.store import full_text
from jaskel.store.database import Database
from jaskel.store.models import Base, SpokenPart, TranscriptPart, Weights
from jaskel.store.weights import SHIPPED

BATCH = 200
"""Rows that are held at a time: parts of transcripts are large."""


def copy_rows(source: Database, target: Database, say: Callable[[str, int], None] = lambda _table, _rows: None) -> int:
    """Fill an empty database with what another has at one moment; gives how many rows there are. All of it comes or nothing.

    Raises
    ------
    Problem
        ``not-empty``, or ``not-the-same`` where a row is read otherwise than it was written.
    """
    target.migrate()
    total = 0
    with source.read() as old, target.write() as new:
        new.execute(delete(Weights).where(Weights.id.in_(SHIPPED)))  # they are in every new one
        for table in Base.metadata.sorted_tables:
            if new.scalar(select(func.count()).select_from(table)):
                raise Problem("not-empty", "There are data where this should go. Name an empty database.")
        for table in Base.metadata.sorted_tables:
            count = sum(_copied(table, rows, new.connection()) for rows in _batches(old, table))
            _number_on(new.connection(), table)
            say(table.name, count)
            total += count
        _index(new)
    return total


def _batches(session: Session, table: Table) -> Iterator[Sequence[Row[Any]]]:
    return session.execute(select(table).execution_options(yield_per=BATCH)).partitions()


def _copied(table: Table, rows: Sequence[Row[Any]], connection: Connection) -> int:
    connection.execute(insert(table), [dict(row._mapping) for row in rows])
    keys = list(table.primary_key)
    wanted = {tuple(row._mapping[key] for key in keys): tuple(row) for row in rows}
    written = connection.execute(select(table).where(tuple_(*keys).in_(wanted)))
    if {tuple(row._mapping[key] for key in keys): tuple(row) for row in written} != wanted:
        raise Problem("not-the-same", f"Rows of {table.name} are not the same after copying, so nothing was moved.")
    return len(rows)


def _number_on(connection: Connection, table: Table) -> None:
    """PostgreSQL numbers rows by counters that know nothing of rows that came with their numbers."""
    key = table.autoincrement_column
    if key is None or connection.dialect.name != "postgresql":
        return
    place = {"table": table.name, "column": key.name}
    if connection.scalar(text("SELECT pg_get_serial_sequence(:table, :column)"), place):
        last = connection.scalar(select(func.max(key)))
        connection.execute(
            text("SELECT setval(pg_get_serial_sequence(:table, :column), :last, :used)"),
            place | {"last": last or 1, "used": last is not None},
        )


def _index(session: Session) -> None:
    """The index of words is made anew: each database has its own."""
    assert inspect(session.connection()).has_table("spoken")
    full_text.clear(session)
    parts = select(SpokenPart.id, TranscriptPart.words).join(
        TranscriptPart,
        (TranscriptPart.recording_id == SpokenPart.recording_id) & (TranscriptPart.start == SpokenPart.start),
    )
    for batch in session.execute(parts.execution_options(yield_per=BATCH)).partitions():
        for part, words in batch:
            full_text.put(session, part, [str(word[0]) for word in words])
