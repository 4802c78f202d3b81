"""How the pictures of a show look, and who is seen in them."""

from __future__ import annotations

from sqlalchemy.orm import Session

from jaskel.core.codec import codec
from jaskel.core.edition import Edition
from jaskel.core.picture.style import Style
from jaskel.store.models import Episode, Recording, SessionRow, Show
from jaskel.store.sessions import shown_name


def style_of(show: Show) -> Style:
    """The house style of a show."""
    return codec.structure(show.style, Style)


def keep_style(show: Show, style: Style) -> None:
    """Keep it with the show."""
    show.style = codec.unstructure(style)


def episode_in(session: Session, edition: Edition) -> Episode | None:
    """The episode whose recordings an edition is made of; None where nothing is in it."""
    for name in edition.recordings:
        owner = session.get(Recording, name) or session.get(SessionRow, name)
        if owner is not None:
            return session.get_one(Episode, owner.episode_id)
    return None


def people_of(show: Show) -> dict[str, tuple[str, str]]:
    """The names and roles of a show's voices, by their ids."""
    return {voice.id: (shown_name(voice), voice.role) for voice in show.voices}
