"""Indexing what was said by what it means, in the background: see :mod:`jaskel.store.meant`."""

from __future__ import annotations

import numpy as np
from sqlalchemy import func, select
from sqlalchemy.orm import Session

from jaskel.core.reuse.stretches import SaidStretch, stretches_of
from jaskel.jobs.progress import Progress
from jaskel.jobs.queue import ACTIVE, add_job
from jaskel.jobs.workshop import Workshop
from jaskel.store.meant import SIZE, MeantFiles, digest_of, forget_all, missing, note, rows_of
from jaskel.store.models import Job, Meant, Recording

KIND, LIBRARY = "meant", "library"

AT_ONCE = 64

FEW = 20_000
"""Rows of what reads otherwise by now that nobody minds."""


def start_indexing(session: Session) -> str | None:
    """Write down the job that indexes what is not indexed yet, unless there is nothing to do or it is under way."""
    from jaskel.speech.meaning import ENGLISH

    count = len(missing(session, ENGLISH))
    active = session.scalar(select(Job.id).where(Job.kind == KIND, Job.state.in_(ACTIVE)).limit(1))
    return add_job(session, KIND, None, LIBRARY, count).id if count and not active else None


def index(workshop: Workshop, _job: Job, progress: Progress) -> None:
    """Index recordings one by one; stopped, it goes on where it was."""
    from jaskel.speech.meaning import ENGLISH, meanings_of

    home, files = workshop.home, MeantFiles(workshop.home.vault.meant)
    with home.database.write() as session:
        standing = session.scalar(select(func.sum(Meant.count))) or 0
        last = session.scalar(select(func.max(Meant.first + Meant.count))) or 0
        if last > len(files) or len(files) > 2 * standing + FEW:
            # The files were removed, or most of what they hold reads otherwise by now.
            forget_all(session)
            files.clear()
        wanted = missing(session, ENGLISH)
    for done, recording_id in enumerate(wanted):
        with home.database.read() as session:
            recording = session.get(Recording, recording_id)
            if recording is None:
                continue
            revision, said = recording.transcript_revision, home.transcripts.of(session, recording).words
            before = session.get(Meant, recording_id)
        stretches = stretches_of(said)
        known = _known(files, before)
        new = [each for each in stretches if digest_of(each.text) not in known]
        for begin in range(0, len(new), AT_ONCE):
            some = new[begin : begin + AT_ONCE]
            for each, meaning in zip(some, meanings_of([each.text for each in some]), strict=True):
                known[digest_of(each.text)] = meaning
            progress(done)
        first = _append(files, recording_id, stretches, known)
        with home.database.write() as session:
            note(session, recording_id, revision, first, len(stretches))
        progress(done + 1)


def _known(files: MeantFiles, before: Meant | None) -> dict[int, np.ndarray]:
    """What is known of the stretches of a recording as it read before, by the digests of their texts."""
    if before is None or not before.count:
        return {}
    rows = slice(before.first, before.first + before.count)
    vectors = files.vectors[rows].astype(np.float32)
    vectors /= np.maximum(np.linalg.norm(vectors, axis=1, keepdims=True), 1e-9)
    return dict(zip(files.places[rows]["text"].tolist(), vectors, strict=True))


def _append(files: MeantFiles, recording: str, said: list[SaidStretch], known: dict[int, np.ndarray]) -> int:
    if not said:
        return len(files)
    meanings = np.array([known[digest_of(each.text)] for each in said], np.float32).reshape(-1, SIZE)
    return files.append(*rows_of(recording, said, meanings))
