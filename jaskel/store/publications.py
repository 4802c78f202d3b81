"""What was published of a show, as its feed."""

from __future__ import annotations

from sqlalchemy import select
from sqlalchemy.orm import Session

from jaskel.core.feed import CHAPTERS, SOUNDS, TIMED, TRANSCRIPTS, Feed, FeedEpisode, FeedFile, Person
from jaskel.store.house_captions import captions_of
from jaskel.store.models import Episode, Publication, Show


def publications_of(session: Session, show: Show) -> list[Publication]:
    """The newest first."""
    known = select(Publication).join(Episode, Episode.id == Publication.episode_id).where(Episode.show_id == show.id)
    return [*session.scalars(known.order_by(Publication.created.desc()))]


def feed_of(session: Session, show: Show, host: str) -> Feed:
    """The feed of a show on a host."""
    told = show.feed
    return Feed(
        show.name,
        show.about,
        f"{host.rstrip('/')}/shows/{show.id}/feed.xml",
        told.get("site", ""),
        told.get("author", ""),
        told.get("language") or (captions_of(show).language or "en").replace("_", "-"),
        tuple(_episode(each) for each in publications_of(session, show)),
    )


def _episode(row: Publication) -> FeedEpisode:
    files = [(form, FeedFile(address, _type(form), size, form in TIMED)) for form, _, address, size in row.files]
    media = next(file for form, file in files if form in SOUNDS)
    transcripts = tuple(file for form, file in files if form in TRANSCRIPTS)
    chapters = next((file for form, file in files if form == "chapters"), None)
    persons = tuple(Person(name, role) for name, role in row.persons)
    return FeedEpisode(
        row.id, row.title, row.summary, row.created, row.length, media, transcripts, chapters, persons, row.season, row.number
    )


def _type(form: str) -> str:
    return SOUNDS.get(form) or TRANSCRIPTS.get(form) or CHAPTERS
