"""Mending words from within a job: the step goes into the history of an edition that uses the recording."""

from __future__ import annotations

from sqlalchemy.orm import Session

from jaskel.core.operations import Retype, Telling
from jaskel.jobs.workshop import Workshop
from jaskel.store.models import EditionRow, Recording, TrackRow
from jaskel.store.notices import post


def correct(workshop: Workshop, session: Session, recording: Recording, operation: Retype) -> None:
    """Mend words of a recording, as a step of the history of an edition that uses it, if one does."""
    home = workshop.home
    edition = edition_with(workshop, session, recording)
    if edition is None:
        for change in operation.changes:
            home.transcripts.carry_out(session, change)
        return
    opened = home.editions.open(session, edition.id)
    done = home.editions.perform(session, edition.id, opened.revision, operation, Telling())
    post(session, "edition", recording.episode_id, id=edition.id, revision=done.revision)


def edition_with(workshop: Workshop, session: Session, recording: Recording) -> EditionRow | None:
    """The edition in whose history the step belongs: the first that uses the recording."""
    track = session.get(TrackRow, recording.id)
    name = track.session_id if track else recording.id
    editions = recording.episode.editions
    return next((e for e in editions if name in workshop.home.editions.open(session, e.id).edition.recordings), None)
