"""Putting a synced session on the page, as one conversation of its voices."""

from __future__ import annotations

from sqlalchemy.orm import Session

from jaskel.core.marks.anchor import Carry
from jaskel.core.operations import Replace, Telling
from jaskel.jobs.prepare import place, start_transcript
from jaskel.store.home import Home
from jaskel.store.material import carry_marks
from jaskel.store.models import Episode, Recording, SessionRow
from jaskel.store.notices import post
from jaskel.store.sessions import clock_of, new_voice


def put_on_page(home: Home, session: Session, row: SessionRow) -> list[str]:
    """Put a session on the page, in the place of those of its recordings that are there; gives the jobs that transcribe it.

    Its clock begins with its earliest track, and each track that is heard gets a voice where it has none.
    """
    earliest = min(track.offset for track in row.tracks)
    for track in row.tracks:
        track.offset -= earliest
        if track.sounds and track.voice_id is None:
            track.voice_id = new_voice(session, session.get_one(Episode, row.episode_id).show_id).id
    row.state, row.length = "joined", clock_of(row).length
    row.revision += 1
    _replace(home, session, row)
    return [
        start_transcript(session, track.recording)
        for track in row.tracks
        if track.sounds and track.recording.transcript_state in ("none", "stopped", "failed")
    ]


def _replace(home: Home, session: Session, row: SessionRow) -> None:
    members = tuple(track.recording_id for track in row.tracks)
    carries = tuple(
        Carry(track.recording, row.id, track.recording, track.offset, track.drift, row.length) for track in clock_of(row).tracks
    )
    carry_marks(session, session.get_one(Episode, row.episode_id), carries)
    editions = [home.editions.open(session, edition.id) for edition in session.get_one(Episode, row.episode_id).editions]
    if not any(set(members) & set(opened.edition.recordings) for opened in editions):
        place(home, session, row.episode_id, row.id, row.length)
        return
    for opened in editions:
        if set(members) & set(opened.edition.recordings):
            operation = Replace(members, row.id, row.length, carries)
            changed = home.editions.perform(session, opened.id, opened.revision, operation, Telling())
            post(session, "edition", row.episode_id, id=opened.id, revision=changed.revision)


def take_off_page(home: Home, session: Session, recording: Recording) -> None:
    """Take a recording off all pages of its episode; each can undo it."""
    for edition in session.get_one(Episode, recording.episode_id).editions:
        opened = home.editions.open(session, edition.id)
        if recording.id in opened.edition.recordings:
            told = Telling(lambda _: recording.name)
            changed = home.editions.perform(session, opened.id, opened.revision, Replace((recording.id,)), told)
            post(session, "edition", recording.episode_id, id=opened.id, revision=changed.revision)
