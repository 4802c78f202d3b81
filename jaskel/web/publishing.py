"""Publishing: the feed of a show, and what is in it."""

from __future__ import annotations

from flask import Response
from sqlalchemy import select
from sqlalchemy.orm import Session

from jaskel.core.feed import SOUNDS, persons_of
from jaskel.core.problem import Missing, Problem
from jaskel.jobs.publish import host_of
from jaskel.jobs.queue import add_job, send
from jaskel.media.feed import feed_xml
from jaskel.store.models import Episode, Export, Publication, Show
from jaskel.store.publications import feed_of, publications_of
from jaskel.web.context import context
from jaskel.web.resource import binary, resource
from jaskel.web.schemas.common import EpisodePath, ShowPath
from jaskel.web.schemas.publishing import FeedFields, FeedOut, FeedQuery, NewPublication, PersonField, PublishedOut
from jaskel.web.schemas.work import JobOut
from jaskel.web.serializers import job_out, reply
from jaskel.web.shows import find_episode, find_show

api = resource("publishing", __name__)


@api.get("/shows/<show_id>/feed", responses={200: FeedOut})
def feed(path: ShowPath, query: FeedQuery):  # type: ignore[no-untyped-def]
    """What was published of a show, and who speaks in an episode that is to be next."""
    with context().workshop.home.database.read() as session:
        show = find_show(session, path.show_id)
        return reply(_feed(session, show, find_episode(session, query.episode) if query.episode else None))


def _feed(session: Session, show: Show, episode: Episode | None) -> FeedOut:
    host = context().workshop.settings.publishing_host
    rows = publications_of(session, show)
    return FeedOut(
        address=feed_of(session, show, host).address if host else "",
        host=f"{host.rstrip('/')}/" if host else "",
        fields=FeedFields(**show.feed),
        next=1 + max((each.number for each in rows), default=0),
        published=[_out(each) for each in rows],
        persons=_persons(session, episode) if episode else [],
    )


def _persons(session: Session, episode: Episode) -> list[PersonField]:
    """The voices that say something in an episode."""
    transcripts = context().workshop.home.transcripts
    said: set[str] = set()
    for recording in episode.recordings:
        said |= {word.voice for word in transcripts.of(session, recording).words if word.voice}
    said |= {track.voice_id for row in episode.sessions for track in row.tracks if track.voice_id}
    known = [(voice.name, voice.role) for voice in episode.show.voices if voice.id in said]
    return [PersonField(name=each.name, role=each.role) for each in persons_of(known)]  # type: ignore[arg-type]


def _out(row: Publication) -> PublishedOut:
    files = sorted(row.files, key=lambda each: each[0] not in SOUNDS)
    return PublishedOut(
        id=row.id,
        episode_id=row.episode_id,
        title=row.title,
        summary=row.summary,
        season=row.season,
        number=row.number,
        length=row.length,
        created=f"{row.created:%Y-%m-%dT%H:%M:%SZ}",
        files=[each[2] for each in files],
        persons=[PersonField(name=name, role=role) for name, role in row.persons],  # type: ignore[arg-type]
    )


@api.put("/shows/<show_id>/feed", responses={200: FeedOut})
def describe(path: ShowPath, body: FeedFields):  # type: ignore[no-untyped-def]
    """Say what the feed tells of the show; it is sent with the next episode."""
    with context().workshop.home.database.write() as session:
        show = find_show(session, path.show_id)
        show.feed = body.model_dump()
        return reply(_feed(session, show, None))


@api.get("/shows/<show_id>/feed.xml", responses=binary("application/rss+xml"))
def as_file(path: ShowPath):  # type: ignore[no-untyped-def]
    """The feed as a file."""
    with context().workshop.home.database.read() as session:
        show = find_show(session, path.show_id)
        content = feed_xml(feed_of(session, show, context().workshop.settings.publishing_host))
    headers = {"Content-Disposition": 'attachment; filename="feed.xml"'}
    return Response(content, mimetype="application/rss+xml", headers=headers)


@api.post("/episodes/<episode_id>/publish", responses={202: JobOut})
def publish(path: EpisodePath, body: NewPublication):  # type: ignore[no-untyped-def]
    """Publish what was exported of an episode; published before, it is replaced."""
    home = context().workshop.home
    host_of(context().workshop)
    with home.database.write() as session:
        episode = find_episode(session, path.episode_id)
        exports = [*session.scalars(select(Export).where(Export.job_id == body.export, Export.deleted.is_(None)))]
        if not exports or any(each.edition_id not in {row.id for row in episode.every_edition} for each in exports):
            raise Missing("no-export", "This export is not there any more. Export it again.")
        if not any(each.form in SOUNDS for each in exports):
            raise Problem("nothing-to-hear", "There is no sound or film among these files. Export for a podcast feed first.")
        details = body.model_dump() | {"persons": [[each.name, each.role] for each in body.persons]}
        job = add_job(session, "publish", episode.id, episode.id, sum(each.size for each in exports), **details)
    send(home, job.id)
    return reply(job_out(job), 202)


@api.post("/episodes/<episode_id>/withdraw", responses={202: JobOut})
def withdraw(path: EpisodePath):  # type: ignore[no-untyped-def]
    """Take an episode out of the feed, and its files off the host. The exports stay."""
    home = context().workshop.home
    host_of(context().workshop)
    with home.database.write() as session:
        episode = find_episode(session, path.episode_id)
        if session.scalar(select(Publication.id).where(Publication.episode_id == episode.id)) is None:
            raise Missing("not-published", "This episode is not published, or not any more.")
        job = add_job(session, "withdraw", episode.id, episode.id)
    send(home, job.id)
    return reply(job_out(job), 202)
