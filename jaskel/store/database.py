"""The database: opening it, bringing its tables up to date, and transactions.

It is a file of SQLite beside the media, or a PostgreSQL that several machines share. Both have the same models and migrations;
what differs between them stands here and in :mod:`jaskel.store.full_text`.
"""

from __future__ import annotations

from collections.abc import Iterator
from contextlib import contextmanager
from errno import EACCES, EDQUOT, EIO, ENOSPC, EPERM, EROFS
from pathlib import Path
from typing import Any

from sqlalchemy import create_engine, event, insert, inspect, text
from sqlalchemy.exc import DBAPIError
from sqlalchemy.orm import Session, sessionmaker

from jaskel.core.problem import Problem
from jaskel.store import full_text
from jaskel.store.models import Base, Weights
from jaskel.store.weights import SHIPPED

PATIENCE_SECONDS = 60
"""How long a transaction waits for one that writes."""

MIGRATIONS = Path(__file__).with_name("migrations")

WRITING = 1_785_950_316
"""The number of the lock that whoever writes has in PostgreSQL: "jask" as bytes."""


CUT_OFF = {"keepalives_idle": 10, "keepalives_interval": 5, "keepalives_count": 3, "tcp_user_timeout": 30_000}
"""Parameters of libpq by which a connection that the network lost is noticed within half a minute, not within hours."""

_SERVER_SIDE = {
    "lock_timeout": f"{PATIENCE_SECONDS}s",
    "tcp_keepalives_idle": 10,
    "tcp_keepalives_interval": 5,
    "tcp_keepalives_count": 3,
    "tcp_user_timeout": 25_000,
}
SERVER_OPTIONS = " ".join(f"-c {name}={value}" for name, value in _SERVER_SIDE.items())
"""The same for PostgreSQL's end of it: a machine that was cut off while it wrote must not keep all others waiting."""


class Database:
    """The database in a file, or the PostgreSQL at a URL. Reading and writing go through :meth:`read` and :meth:`write`."""

    def __init__(self, where: Path | str) -> None:
        if isinstance(where, Path):
            where.parent.mkdir(parents=True, exist_ok=True)
            self.engine = create_engine(f"sqlite:///{where}", connect_args={"timeout": PATIENCE_SECONDS})
            event.listen(self.engine, "connect", _configure)
            event.listen(self.engine, "begin", _begin)
        else:
            self.engine = create_engine(
                where.replace("postgresql://", "postgresql+psycopg://", 1),
                pool_pre_ping=True,
                connect_args={"connect_timeout": 10, "options": SERVER_OPTIONS, **CUT_OFF},
            )
        self._sessions = sessionmaker(self.engine, expire_on_commit=False)
        event.listen(self._sessions, "loaded_as_persistent", _hold)

    @property
    def is_file(self) -> bool:
        """Whether it is a file of SQLite."""
        return self.engine.dialect.name == "sqlite"

    def migrate(self, to: str = "head") -> None:
        """Bring the tables to a version, by default the newest; an empty PostgreSQL is given them as they are now.

        Foreign keys rest meanwhile: SQLite alters some tables by making them anew, and dropping the old one would take along
        everything that refers to it.
        """
        from alembic import command
        from alembic.config import Config

        config = Config()
        config.set_main_option("script_location", str(MIGRATIONS))
        with self.engine.connect() as connection:
            config.attributes["connection"] = connection
            if not self.is_file:
                # Several machines may start at once.
                connection.execute(text("SELECT pg_advisory_lock(:number)"), {"number": WRITING})
                try:
                    if inspect(connection).has_table("alembic_version"):
                        command.upgrade(config, to)
                    else:
                        Base.metadata.create_all(connection)
                        full_text.create(connection)
                        connection.execute(insert(Weights), [{"id": name, "name": "", "state": "ready"} for name in SHIPPED])
                        command.stamp(config, "head")
                    connection.commit()
                finally:
                    connection.rollback()
                    connection.execute(text("SELECT pg_advisory_unlock(:number)"), {"number": WRITING})
                return
            driver: Any = connection.connection.dbapi_connection
            driver.execute("PRAGMA foreign_keys=OFF")
            try:
                command.upgrade(config, to)
                connection.commit()
            finally:
                driver.execute("PRAGMA foreign_keys=ON")

    @contextmanager
    def read(self) -> Iterator[Session]:
        """A session for reading, which sees everything as it is at one moment; what it changes is not stored."""
        with self._sessions() as session:
            if not self.is_file:
                session.connection(execution_options={"isolation_level": "REPEATABLE READ"})
            yield session

    @contextmanager
    def write(self) -> Iterator[Session]:
        """A transaction that holds the write lock from its first statement, stored as a whole or not at all."""
        with self._sessions() as session:
            session.connection(execution_options={"jaskel_write": True})
            try:
                if not self.is_file:
                    # As with SQLite one writes at a time: what a transaction has read stays true until it is stored.
                    session.execute(text("SELECT pg_advisory_xact_lock(:number)"), {"number": WRITING})
                    session.execute(text(f"SET LOCAL idle_in_transaction_session_timeout = '{PATIENCE_SECONDS}s'"))
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
    if code in (ENOSPC, EDQUOT) or "disk is full" in told or "No space left" in told:
        return Problem("disk-full", "The disk is full, so this could not be stored. Make room and try again; nothing is lost.")
    if code in (EROFS, EACCES, EPERM) or "readonly" in told or "unable to open" in told:
        return Problem("not-allowed", "Jaskel may not write in its data folder. Allow it, and try again; nothing is lost.")
    if "locked" in told or "lock timeout" in told:
        return Problem("busy", "The database has been in use for too long. Wait a moment and try again; nothing is lost.")
    if isinstance(error, DBAPIError) and (error.connection_invalidated or "connection" in told):
        return Problem("no-database", "The database does not answer. Wait a moment and try again; nothing is lost.")
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
