"""The words of a recording that is transcribed anew: put aside, and brought back where that comes to nothing."""

from __future__ import annotations

from collections.abc import Sequence

from sqlalchemy.orm import Session

from jaskel.core.transcript import Word, word_to_json
from jaskel.store.home import Home
from jaskel.store.models import Job, Recording
from jaskel.store.notices import post


def put_aside(home: Home, job_id: str) -> Sequence[Word]:
    """The words that the recording of a job had until now; the job keeps them, however often it is begun."""
    with home.database.write() as session:
        job = session.get_one(Job, job_id)
        recording = session.get_one(Recording, job.subject)
        if "old" not in job.details:
            words = home.transcripts.of(session, recording).words
            job.details = {**job.details, "old": [word_to_json(word) for word in words]}
            home.transcripts.clear(session, recording)
        return [Word(*word) for word in job.details["old"]]


def bring_back(home: Home, session: Session, job: Job) -> bool:
    """Where a job was to make a transcript anew and did not, the old words stand there again; gives whether that was so."""
    recording = session.get(Recording, job.subject) if job.kind == "transcribe" and job.details.get("anew") else None
    if recording is None:
        return False
    if "old" in job.details:
        home.transcripts.clear(session, recording)
        home.transcripts.extend(session, recording, 0, recording.length, [Word(*word) for word in job.details["old"]])
        job.details = {key: value for key, value in job.details.items() if key != "old"}
    recording.transcript_state = "done"
    post(session, "transcript", recording.episode_id, recording=recording.id, revision=recording.transcript_revision)
    return True
