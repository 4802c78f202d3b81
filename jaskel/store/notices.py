"""What happened, for the windows that are open: written by any process, read by the server."""

from __future__ import annotations

from typing import Any

from sqlalchemy import delete, func, select
from sqlalchemy.orm import Session

from jaskel.store.models import Episode, Notice

KEPT = 2000


def post(session: Session, kind: str, episode_id: str = "", /, **facts: Any) -> None:
    """Write a notice; it is seen when the transaction it is part of is stored."""
    notice = Notice(kind=kind, episode_id=episode_id, facts=facts)
    session.add(notice)
    session.flush()
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
