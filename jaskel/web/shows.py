"""Shows and episodes."""

from __future__ import annotations

from flask_openapi3 import APIBlueprint
from sqlalchemy import select
from sqlalchemy.orm import Session, selectinload

from jaskel.core.problem import Missing
from jaskel.store import library
from jaskel.store.models import EditionRow, Episode, Export, Job, LogEntry, Recording, Show
from jaskel.web.context import context
from jaskel.web.present import export_out, job_out, recording_out, reply, session_out, voice_out
from jaskel.web.schemas import (
    EditionBrief,
    EpisodeBrief,
    EpisodeOut,
    EpisodePath,
    NewEpisode,
    NewShow,
    ShowOut,
    ShowPath,
    ShowsOut,
)

api = APIBlueprint("shows", __name__, url_prefix="/api")


@api.get("/shows", responses={200: ShowsOut})
def list_shows():  # type: ignore[no-untyped-def]
    """Every show with its episodes, the newest last."""
    with context().workshop.home.database.read() as session:
        shows = session.scalars(select(Show).options(selectinload(Show.episodes)).order_by(Show.created))
        return reply(ShowsOut(shows=[_show(session, show) for show in shows]))


@api.post("/shows", responses={201: ShowOut})
def make_show(body: NewShow):  # type: ignore[no-untyped-def]
    """Make a show."""
    with context().workshop.home.database.write() as session:
        return reply(_show(session, library.new_show(session, body.name, body.about)), 201)


@api.post("/shows/<show_id>/episodes", responses={201: EpisodeOut})
def make_episode(path: ShowPath, body: NewEpisode):  # type: ignore[no-untyped-def]
    """Make an episode, with an empty edition called Programme."""
    with context().workshop.home.database.write() as session:
        show = session.get(Show, path.show_id)
        if show is None:
            raise Missing("no-show", "This show is not there any more. Go back to the library.")
        return reply(_episode(session, library.new_episode(session, show, body.title)), 201)


@api.get("/episodes/<episode_id>", responses={200: EpisodeOut})
def get_episode(path: EpisodePath):  # type: ignore[no-untyped-def]
    """An episode with its recordings, editions, work under way and exports."""
    with context().workshop.home.database.read() as session:
        return reply(_episode(session, find_episode(session, path.episode_id)))


def find_episode(session: Session, episode_id: str) -> Episode:
    episode = session.get(Episode, episode_id)
    if episode is None:
        raise Missing("no-episode", "This episode is not there any more. Go back to the library and open another.")
    return episode


def _show(session: Session, show: Show) -> ShowOut:
    return ShowOut(id=show.id, name=show.name, about=show.about, episodes=[_brief(session, e) for e in show.episodes])


def _brief(session: Session, episode: Episode) -> EpisodeBrief:
    recordings = list(session.scalars(select(Recording).where(Recording.episode_id == episode.id)))
    changed = session.scalar(
        select(LogEntry.at)
        .join(EditionRow, EditionRow.id == LogEntry.edition_id)
        .where(EditionRow.episode_id == episode.id)
        .order_by(LogEntry.at.desc())
        .limit(1)
    )
    return EpisodeBrief(
        id=episode.id,
        title=episode.title,
        recordings=len(recordings),
        length=sum(recording.length for recording in recordings),
        transcribed=bool(recordings) and all(recording.transcript_state == "done" for recording in recordings),
        changed=f"{changed or episode.created:%Y-%m-%dT%H:%M:%SZ}",
    )


def _episode(session: Session, episode: Episode) -> EpisodeOut:
    jobs = session.scalars(select(Job).where(Job.episode_id == episode.id, Job.state != "done").order_by(Job.created))
    editions = context().workshop.home.editions
    on_page = {name for row in episode.editions for name in editions.open(session, row.id).edition.recordings}
    session_of = {track.recording_id: row.id for row in episode.sessions for track in row.tracks}
    edition_ids = [edition.id for edition in episode.editions]
    exports = session.scalars(select(Export).where(Export.edition_id.in_(edition_ids)).order_by(Export.created.desc()))
    return EpisodeOut(
        id=episode.id,
        title=episode.title,
        show_id=episode.show_id,
        show=episode.show.name,
        recordings=[
            recording_out(recording, session_of.get(recording.id), recording.id in on_page) for recording in episode.recordings
        ],
        sessions=[session_out(row) for row in episode.sessions],
        voices=[voice_out(voice) for voice in episode.show.voices],
        editions=[EditionBrief(id=e.id, name=e.name, revision=e.revision) for e in episode.editions],
        jobs=[job_out(job) for job in jobs],
        exports=[export_out(export) for export in exports],
    )
