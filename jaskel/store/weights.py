"""Weights that were added to those that come with Jaskel."""

from __future__ import annotations

from pathlib import Path

from sqlalchemy import select
from sqlalchemy.orm import Session

from jaskel.core.problem import Missing
from jaskel.settings import Settings
from jaskel.store.models import Weights

SHIPPED = ("english", "many-languages")
"""Ids of the rows of those that come with Jaskel."""


def added(session: Session) -> list[Weights]:
    """All of them, in the order in which they came."""
    own = select(Weights).where(Weights.id.not_in(SHIPPED))
    return list(session.scalars(own.order_by(Weights.created, Weights.id)))


def find_weights(session: Session, weights_id: str) -> Weights:
    """The weights with an id.

    Raises
    ------
    Missing
        When there are none.
    """
    row = session.get(Weights, weights_id)
    if row is None or row.id in SHIPPED:
        raise Missing("no-weights", "These weights are not there any more.")
    return row


def note_speed(session: Session, weights_id: str, speed: float) -> None:
    """Note how many seconds of sound some weights have just heard in one."""
    if row := session.get(Weights, weights_id):
        row.speed = round(speed, 2)


def careful_weights(session: Session, settings: Settings, language: str) -> Path | None:
    """The folder of the largest weights that were added and know a language; None where there are none."""
    able = [row for row in added(session) if row.state == "ready" and language in row.languages]
    able = [row for row in able if settings.weights(row.id).is_dir()]
    return settings.weights(max(able, key=lambda row: row.size).id) if able else None
