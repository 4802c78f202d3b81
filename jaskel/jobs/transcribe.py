"""Transcribing a recording part by part; what is stored is never recognised again."""

from __future__ import annotations

from jaskel.core.problem import Problem
from jaskel.jobs.carry_out import Progress
from jaskel.jobs.workshop import Workshop
from jaskel.speech.recognise import packaged_weights, whisper
from jaskel.speech.transcribe import check_language, transcribe
from jaskel.store.models import Job, Recording
from jaskel.store.notices import post


def transcribe_recording(workshop: Workshop, job: Job, progress: Progress) -> None:
    """Go on with the transcript of a recording from where it stands."""
    home = workshop.home
    with home.database.write() as session:
        recording = session.get_one(Recording, job.subject)
        recording.transcript_state = "running"
        reached = home.transcripts.reached(session, recording.id)
    progress.report(reached)
    recogniser = whisper(workshop.settings.model or packaged_weights())
    parts = transcribe(
        lambda start, end: workshop.sound.mono_16k(recording.id, start, end),
        recording.length,
        recogniser,
        recording.language,
        reached,
    )
    for part in parts:
        with home.database.write() as session:
            recording = session.get_one(Recording, job.subject)
            home.transcripts.extend(session, recording, part.start, part.end, part.words)
            post(session, "transcript", recording.episode_id, recording=recording.id, revision=recording.transcript_revision)
        progress.report(part.end)
        progress(part.end)
    with home.database.write() as session:
        recording = session.get_one(Recording, job.subject)
        words = home.transcripts.of(session, recording).words
        recording.transcript_state = "done"
        try:
            check_language(words)
        except Problem:
            home.transcripts.clear(session, recording)
            post(session, "transcript", recording.episode_id, recording=recording.id, revision=recording.transcript_revision)
            session.commit()
            raise
        post(session, "recording", recording.episode_id, id=recording.id)
