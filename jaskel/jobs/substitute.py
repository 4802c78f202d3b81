"""Another file takes the place of a recording: the better one of two that were made at once, or a corrected copy."""

from __future__ import annotations

from dataclasses import replace

from jaskel.core.marks.anchor import Carry
from jaskel.core.operations import Replace, Substitute, Telling
from jaskel.core.problem import Problem
from jaskel.core.timebase import RATE, Ticks, from_seconds
from jaskel.core.transcript import Transcript
from jaskel.jobs.prepare import start_transcript
from jaskel.jobs.progress import Progress
from jaskel.jobs.queue import send
from jaskel.jobs.sync import listen_to
from jaskel.jobs.workshop import Workshop
from jaskel.speech.sync import sync
from jaskel.store.material import carry_marks
from jaskel.store.models import Job, Recording
from jaskel.store.notices import post

APART: Ticks = RATE // 50
"""Clocks that take the two apart by more than 20 ms make them different sounds."""


def substitute(workshop: Workshop, job: Job, progress: Progress) -> None:
    """Compare two recordings, and put one in the place of the other on every page.

    Raises
    ------
    Problem
        ``other-sound`` where they are not the same sound and that was asked for.
    """
    home, whole = workshop.home, bool(job.details.get("whole"))
    with home.database.read() as session:
        old, new = session.get_one(Recording, job.subject), session.get_one(Recording, job.details["by"])
    shift: Ticks = 0
    if not whole:
        heard = [listen_to(workshop, recording) for recording in (new, old)]
        progress(old.length // 2)
        found = sync(heard[0], heard[1])
        if not found.known or abs(found.drift) * old.length > APART:
            raise Problem(
                "other-sound",
                f"“{new.name}” is not the same sound as “{old.name}”, so its cuts and words cannot be kept. "
                "Replace it as a whole, or keep both.",
            )
        shift = from_seconds(found.offset)
    jobs: list[str] = []
    with home.database.write() as session:
        old, new = session.get_one(Recording, job.subject), session.get_one(Recording, job.details["by"])
        operation: Replace | Substitute
        if whole:
            operation = Replace((old.id,), new.id, new.length, (Carry(old.id, new.id, new.id, 0, 0.0, new.length),))
        else:
            operation = Substitute(old.id, new.id, shift, new.length)
        for edition in old.episode.editions:
            opened = home.editions.open(session, edition.id)
            if old.id in opened.edition.recordings:
                done = home.editions.perform(session, edition.id, opened.revision, operation, Telling())
                post(session, "edition", old.episode_id, id=edition.id, revision=done.revision)
        carry_marks(session, old.episode, operation.carries)
        old.placed, new.placed = False, True
        if not whole and new.transcript_state == "none" and old.transcript_state == "done":
            known = home.transcripts.of(session, old)
            home.transcripts.extend(session, new, 0, new.length, _shifted(known, shift, new.length))
            new.transcript_state, new.language = "done", old.language
        elif new.transcript_state == "none":
            jobs.append(start_transcript(session, new))
        for recording in (old, new):
            post(session, "recording", recording.episode_id, id=recording.id)
    for each in jobs:
        send(home, each)


def _shifted(known: Transcript, shift: Ticks, length: Ticks):  # type: ignore[no-untyped-def]
    """Words at their new places; those that the new recording does not have are left out."""
    least = RATE // 50
    moved = [(word, max(0, word.start + shift), min(length, word.end + shift)) for word in known.words]
    return tuple(replace(word, start=start, end=end) for word, start, end in moved if end - start >= least)
