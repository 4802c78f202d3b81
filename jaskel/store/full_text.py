"""The index of words: FTS5 in SQLite, ``tsvector`` in PostgreSQL. Which words follow one another is told by both."""

from __future__ import annotations

from collections.abc import Sequence

from sqlalchemy import Connection, text
from sqlalchemy.orm import Session
from sqlalchemy.sql.elements import TextClause


def create(connection: Connection) -> None:
    """Make the index in an empty PostgreSQL; that of SQLite comes with a migration."""
    connection.execute(text("CREATE TABLE spoken (id BIGINT PRIMARY KEY, words TSVECTOR NOT NULL)"))
    connection.execute(text("CREATE INDEX spoken_words ON spoken USING gin (words)"))


def put(session: Session, part: int, words: Sequence[str]) -> None:
    """Make a part of a transcript findable by its words as they are now."""
    take_out(session, part)
    row = (
        "INSERT INTO spoken (rowid, words) VALUES (:part, :words)"
        if _is_sqlite(session)
        else "INSERT INTO spoken (id, words) VALUES (:part, to_tsvector('simple', :words))"
    )
    session.execute(text(row), {"part": part, "words": " ".join(words)})


def take_out(session: Session, part: int) -> None:
    """Take a part out of the index."""
    session.execute(text(f"DELETE FROM spoken WHERE {'rowid' if _is_sqlite(session) else 'id'} = :part"), {"part": part})


def clear(session: Session) -> None:
    """Take everything out of it."""
    session.execute(text("DELETE FROM spoken"))


def parts_with(session: Session, words: Sequence[str], *, whole: bool) -> TextClause:
    """The parts in which words (letters and digits only) follow one another; unless ``whole``, the last may be a beginning."""
    if _is_sqlite(session):
        phrase = f'"{" ".join(words)}"' + ("" if whole else "*")
        return text("SELECT rowid FROM spoken WHERE spoken MATCH :phrase").bindparams(phrase=phrase)
    phrase = " <-> ".join(f"'{word}'" for word in words) + ("" if whole else ":*")
    return text("SELECT id FROM spoken WHERE words @@ to_tsquery('simple', :phrase)").bindparams(phrase=phrase)


def _is_sqlite(session: Session) -> bool:
    return session.get_bind().dialect.name == "sqlite"
