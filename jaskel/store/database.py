"""The SQLite database: opening it, bringing its tables up to date, and transactions."""

from __future__ import annotations

from collections.abc import Iterator
from contextlib import contextmanager
from errno import EACCES, EDQUOT, EIO, ENOSPC, EPERM, EROFS
from pathlib import Path
from typing import Any

from sqlalchemy import create_engine, event
from sqlalchemy.exc import DBAPIError
from sqlalchemy.orm import Session, sessionmaker

from jaskel.core.problem import Problem

PATIENCE_SECONDS = 60
"""How long a transaction waits for one that writes."""

MIGRATIONS = Path(__file__).with_name("migrations")


class Database:
    """A database file. Reading and writing go through :meth:`read` and :meth:`write`."""

    def __init__(self, path: Path) -> None:
        path.parent.mkdir(parents=True, exist_ok=True)
        self.engine = create_engine(f"sqlite:///{path}", connect_args={"timeout": PATIENCE_SECONDS})
        event.listen(self.engine, "connect", _configure)
        event.listen(self.engine, "begin", _begin)
        self._sessions = sessionmaker(self.engine, expire_on_commit=False)
        event.listen(self._sessions, "loaded_as_persistent", _hold)

    def migrate(self, to: str = "head") -> None:
        """Bring the tables to a version, by default the newest.

        Foreign keys rest meanwhile: SQLite alters some tables by making them anew, and dropping the old one would take along
        everything that refers to it.
        """
        from alembic import command
        from alembic.config import Config

        config = Config()
        config.set_main_option("script_location", str(MIGRATIONS))
        with self.engine.connect() as connection:
            driver: Any = connection.connection.dbapi_connection
            driver.execute("PRAGMA foreign_keys=OFF")
            try:
                config.attributes["connection"] = connection
                command.upgrade(config, to)
                connection.commit()
            finally:
                driver.execute("PRAGMA foreign_keys=ON")

    @contextmanager
    def read(self) -> Iterator[Session]:
        """A session for reading; what it changes is not stored."""
        with self._sessions() as session:
            yield session

    @contextmanager
    def write(self) -> Iterator[Session]:
        """A transaction that holds the write lock from its first statement, stored as a whole or not at all."""
        with self._sessions() as session:
            session.connection(execution_options={"jaskel_write": True})
            try:
                yield session
                session.commit()
            except BaseException:
                session.rollback()
                raise

    def close(self) -> None:
        self.engine.dispose()


def problem_of(error: BaseException) -> Problem | None:
    """What a person is told where an error is about the machine: a full disk, a file that must not be written, a lock."""
    code = error.errno if isinstance(error, OSError) else None
    told = str(error.orig) if isinstance(error, DBAPIError) else ""
    if code in (ENOSPC, EDQUOT) or "disk is full" in told:
        return Problem("disk-full", "The disk is full, so this could not be stored. Make room and try again; nothing is lost.")
    if code in (EROFS, EACCES, EPERM) or "readonly" in told or "unable to open" in told:
        return Problem("not-allowed", "Jaskel may not write in its data folder. Allow it, and try again; nothing is lost.")
    if "locked" in told:
        return Problem("busy", "The database has been in use for too long. Wait a moment and try again; nothing is lost.")
    if "disk I/O error" in told or code == EIO:
        return Problem(
            "disk-failed", "The disk could not be read or written. Check whether it is full or damaged, and try again."
        )
    return None


def _hold(session: Session, row: object) -> None:
    """Keep a row as long as its session: SQLAlchemy lets go of what nobody holds, and would load it again and again."""
    session.info.setdefault("held", []).append(row)


def _configure(connection: Any, _record: Any) -> None:
    connection.isolation_level = None  # the transaction is begun below, not by the driver's own guess
    cursor = connection.cursor()
    cursor.execute("PRAGMA journal_mode=WAL")
    cursor.execute("PRAGMA synchronous=FULL")
    cursor.execute("PRAGMA foreign_keys=ON")
    cursor.close()


def _begin(connection: Any) -> None:
    writing = connection.get_execution_options().get("jaskel_write")
    connection.exec_driver_sql("BEGIN IMMEDIATE" if writing else "BEGIN")
