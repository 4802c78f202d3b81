"""Shows and their episodes."""

from __future__ import annotations

from sqlalchemy.orm import Session

from jaskel.core.edition import CROSSFADE
from jaskel.store.models import EditionRow, Episode, Show

FIRST_EDITION = "Programme"


def new_show(session: Session, name: str, about: str = "") -> Show:
    """Make a show."""
    show = Show(name=name, about=about, episodes=[])
    session.add(show)
    session.flush()
    return show


def new_episode(session: Session, show: Show, title: str) -> Episode:
    """Make an episode with an empty edition."""
    episode = Episode(title=title, show=show, recordings=[], editions=[EditionRow(name=FIRST_EDITION, crossfade=CROSSFADE)])
    session.add(episode)
    session.flush()
    return episode
