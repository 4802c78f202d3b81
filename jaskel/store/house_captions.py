"""How a show has its captions: its rules, its look, looks it has saved by name, and fonts of its own."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass, field

from sqlalchemy.orm import Session

from jaskel.core.captions.house import HouseCaptions
from jaskel.core.captions.look import Look
from jaskel.core.codec import codec
from jaskel.core.edition import Edition
from jaskel.store.models import Episode, Recording, SessionRow, Show


@dataclass(frozen=True)
class ShowCaptions:
    """What a show keeps: its ``house``, its own ``looks``, and the names of its ``fonts`` by the digests of their files."""

    house: HouseCaptions = field(default_factory=HouseCaptions)
    looks: tuple[Look, ...] = ()
    fonts: Mapping[str, str] = field(default_factory=dict)


def captions_of(show: Show) -> ShowCaptions:
    """What a show has kept of captions."""
    return codec.structure(show.captions, ShowCaptions)


def keep_captions(show: Show, captions: ShowCaptions) -> None:
    """Keep it with the show."""
    show.captions = codec.unstructure(captions)


def house_of(session: Session, edition: Edition) -> HouseCaptions:
    """The captions of the show that an edition belongs to; as usual where nothing is in it."""
    for name in edition.recordings:
        owner = session.get(Recording, name) or session.get(SessionRow, name)
        if owner is not None:
            return captions_of(session.get_one(Episode, owner.episode_id).show).house
    return HouseCaptions()
