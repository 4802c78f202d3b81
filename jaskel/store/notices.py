"""What happened, for the windows that are open: written by any process, read by the server.

In a PostgreSQL a bell is rung for each transaction that has some (``NOTIFY``); of a file the server asks now and then.
"""

from __future__ import annotations

from typing import Any

import psycopg
from sqlalchemy import delete, func, select, text
from sqlalchemy.orm import Session

from jaskel.store.models import Episode, Notice

KEPT = 2000
BELL = "jaskel"
"""The channel on which PostgreSQL tells that there is something new."""


def post(session: Session, kind: str, episode_id: str = "", /, **facts: Any) -> None:
    """Write a notice; it is seen when the transaction it is part of is stored."""
    notice = Notice(kind=kind, episode_id=episode_id, facts=facts)
    session.add(notice)
    session.flush()
    if session.get_bind().dialect.name == "postgresql":
        session.execute(text(f"NOTIFY {BELL}"))
    if notice.id % 200 == 0:
        session.execute(delete(Notice).where(Notice.id < notice.id - KEPT))


def newest(session: Session) -> int:
    """The number of the newest notice."""
    return session.scalar(select(func.max(Notice.id))) or 0


def since(session: Session, number: int) -> list[tuple[Notice, str]]:
    """Notices after ``number``, in order, each with the show it is about; empty where it is about none."""
    found = (
        select(Notice, Episode.show_id)
        .outerjoin(Episode, Episode.id == Notice.episode_id)
        .where(Notice.id > number)
        .order_by(Notice.id)
        .limit(500)
    )
    return [(notice, show or "") for notice, show in session.execute(found)]


class Bell:
    """Waits until there is something new in a PostgreSQL, on a connection of its own."""

    def __init__(self, address: str) -> None:
        self._address = address
        self._connection: psycopg.Connection | None = None

    def listen(self) -> None:
        """From now on it is heard, also while nobody waits."""
        if self._connection is None or self._connection.closed:
            self._connection = psycopg.connect(self._address, autocommit=True, connect_timeout=10)
            self._connection.execute(f"LISTEN {BELL}")

    def wait(self, seconds: float) -> None:
        """Wait until it rings, or for so long.

        Raises
        ------
        psycopg.Error
            Where the database does not answer; nothing is heard until :meth:`listen` is called again.
        """
        self.listen()
        assert self._connection
        try:
            for _ in self._connection.notifies(timeout=seconds, stop_after=1):
                pass
        except psycopg.Error:
            self.close()
            raise

    def close(self) -> None:
        if self._connection:
            self._connection.close()
        self._connection = None
