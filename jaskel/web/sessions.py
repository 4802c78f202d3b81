"""Sessions: proposing, shifting and joining recordings that were made at the same time."""

from __future__ import annotations

from flask import Response
from sqlalchemy import select
from sqlalchemy.orm import Session

from jaskel.core.problem import Problem
from jaskel.core.source import Recorded
from jaskel.core.timebase import clock
from jaskel.jobs.join import put_on_page
from jaskel.jobs.prepare import place_alone, start_sync
from jaskel.jobs.queue import ACTIVE, send
from jaskel.media.sound import wav_bytes
from jaskel.store.home import Home
from jaskel.store.models import Episode, Job, SessionRow, TrackRow, Voice
from jaskel.store.notices import post
from jaskel.store.sessions import clock_of, find_session, new_session, new_voice
from jaskel.web.context import context
from jaskel.web.recordings import find_recording
from jaskel.web.resource import binary, resource
from jaskel.web.schemas.common import EpisodePath
from jaskel.web.schemas.sessions import HearQuery, NewSession, SessionOut, SessionPath, TrackChange, TrackPath
from jaskel.web.serializers import reply, session_out
from jaskel.web.shows import find_episode

api = resource("sessions", __name__)

SET_BY_HAND = -1.0


@api.post("/episodes/<episode_id>/sessions", responses={201: SessionOut})
def make(path: EpisodePath, body: NewSession):  # type: ignore[no-untyped-def]
    """Propose that recordings were made at the same time; how they lie to one another is found from their sound."""
    home = context().workshop.home
    with home.database.write() as session:
        episode = find_episode(session, path.episode_id)
        row = new_session(session, episode, [find_recording(session, name) for name in dict.fromkeys(body.recordings)])
        jobs = start_sync(session, row)
        _told(session, row)
        out = session_out(row)
    for job in jobs:
        send(home, job)
    return reply(out, 201)


@api.post("/sessions/<session_id>/sync", responses={200: SessionOut})
def sync(path: SessionPath):  # type: ignore[no-untyped-def]
    """Find the places of the tracks by their sound once more."""
    home = context().workshop.home
    with home.database.write() as session:
        row = find_session(session, path.session_id)
        if row.state == "joined":
            raise Problem("joined", "This session is on the page, so its tracks are only shifted by hand.")
        row.state = "syncing"
        jobs = start_sync(session, row)
        _told(session, row)
    for job in jobs:
        send(home, job)
    return reply(session_out(row))


@api.patch("/sessions/<session_id>/tracks/<recording_id>", responses={200: SessionOut})
def change_track(path: TrackPath, body: TrackChange):  # type: ignore[no-untyped-def]
    """Shift a track, say whose voice it is, or whether it is heard."""
    with context().workshop.home.database.write() as session:
        row = find_session(session, path.session_id)
        track = session.get(TrackRow, path.recording_id)
        if track is None or track.session_id != row.id:
            raise Problem("no-track", "This recording is not part of the session.")
        if body.offset is not None:
            _shift(row, track, body.offset)
        if body.sounds is not None:
            track.sounds = body.sounds
            if not any(each.sounds for each in row.tracks):
                raise Problem("silent", "At least one track has to be heard.")
        if body.voice is not None:
            track.voice_id = _voice_called(session, row, body.voice).id if body.voice else None
        for each in row.tracks if body.offset is not None or body.sounds is not None else ():
            each.own = None
        row.length = max(row.length if row.state == "joined" else 0, clock_of(row).length)
        row.revision += 1
        _told(session, row)
        return reply(session_out(row))


def _shift(row: SessionRow, track: TrackRow, offset: int) -> None:
    others = [each for each in clock_of(row).tracks if each.recording != track.recording_id]
    end = offset + round(track.recording.length * (1 + track.drift))
    if not any(offset < each.end and end > each.offset for each in others):
        raise Problem(
            "no-overlap",
            f"“{track.recording.name}” would begin at {clock(max(0, offset))} and overlap no other track. "
            "What was not recorded at the same time is no part of a session: keep it apart.",
        )
    if row.state == "joined" and end <= 0:
        raise Problem("no-overlap", f"“{track.recording.name}” would end before the session begins.")
    track.offset, track.sure = offset, SET_BY_HAND


def _voice_called(session: Session, row: SessionRow, name: str) -> Voice:
    show = session.get_one(Episode, row.episode_id).show
    return next((voice for voice in show.voices if voice.name.casefold() == name.casefold()), None) or new_voice(
        session, show.id, name
    )


@api.post("/sessions/<session_id>/join", responses={200: SessionOut})
def join(path: SessionPath):  # type: ignore[no-untyped-def]
    """Put the session on the page, in the place of those of its recordings that are there, and have its voices transcribed."""
    home = context().workshop.home
    with home.database.write() as session:
        row = find_session(session, path.session_id)
        if row.state == "syncing" or (row.state == "joined" and _on_page(home, session, row)):
            raise Problem("not-proposed", "This session is on the page already, or its sound is still being compared.")
        jobs = put_on_page(home, session, row)
        _told(session, row)
        out = session_out(row)
    for job in jobs:
        send(home, job)
    return reply(out)


def _on_page(home: Home, session: Session, row: SessionRow) -> bool:
    """Whether some edition uses a session: a join may have been undone."""
    editions = session.get_one(Episode, row.episode_id).editions
    return any(row.id in home.editions.open(session, edition.id).edition.recordings for edition in editions)


@api.delete("/sessions/<session_id>", responses={204: None})
def keep_apart(path: SessionPath):  # type: ignore[no-untyped-def]
    """Drop a proposal: the recordings go on the page one after the other."""
    home = context().workshop.home
    jobs: list[str] = []
    with home.database.write() as session:
        row = find_session(session, path.session_id)
        if row.state == "joined" and _on_page(home, session, row):
            raise Problem("joined", "This session is on the page. Undo the join there first, or go on with it.")
        on_page = {
            name for edition in session.get_one(Episode, row.episode_id).editions
            for name in home.editions.open(session, edition.id).edition.recordings
        }  # fmt: skip
        for track in row.tracks:
            track.recording.placed = True
            if track.recording.state == "ready" and track.recording_id not in on_page:
                jobs += place_alone(home, session, track.recording)
        for comparing in session.scalars(select(Job).where(Job.subject == row.id, Job.state.in_(ACTIVE))):
            comparing.cancel = True
        post(session, "session", row.episode_id, id=row.id)
        session.delete(row)
    for job in jobs:
        send(home, job)
    return Response(status=204)


@api.get("/sessions/<session_id>/sound", responses=binary("audio/wav"))
def hear(path: SessionPath, query: HearQuery):  # type: ignore[no-untyped-def]
    """A stretch of a session as it lies now, all its sounding tracks together, as 16-bit WAV."""
    with context().workshop.home.database.read() as session:
        row = find_session(session, path.session_id)
    sound = context().workshop.heard(Recorded(row.id), query.at, query.at + query.length)
    return Response(wav_bytes(sound), mimetype="audio/wav", headers={"Cache-Control": "no-store"})


def _told(session: Session, row: SessionRow) -> None:
    session.flush()
    post(session, "session", row.episode_id, id=row.id)
