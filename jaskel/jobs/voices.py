"""Giving the words of a mixed recording to its voices."""

from __future__ import annotations

from dataclasses import replace

from jaskel.core.operations import Retype
from jaskel.core.problem import Problem
from jaskel.core.retype import Change
from jaskel.jobs.bring import edition_with
from jaskel.jobs.carry_out import Progress
from jaskel.jobs.workshop import Workshop
from jaskel.speech.voices import voices_of
from jaskel.store.models import Job, Recording
from jaskel.store.notices import post
from jaskel.store.sessions import new_voice


def tell_apart(workshop: Workshop, job: Job, progress: Progress) -> None:
    """Find who says what in a recording; one step of the edition's history."""
    home = workshop.home
    with home.database.read() as session:
        recording = session.get_one(Recording, job.subject)
        words = home.transcripts.of(session, recording).words
    told = voices_of(lambda a, b: workshop.sound.mono_16k(recording.id, a, b), words, job.details.get("count"))
    progress(recording.length)
    with home.database.write() as session:
        recording = session.get_one(Recording, job.subject)
        known = home.transcripts.of(session, recording).words
        if [word.text for word in known] != [word.text for word in words]:
            raise Problem("changed", "The words were changed meanwhile. Let the voices be told apart again.")
        voices = [new_voice(session, recording.episode.show_id).id for _ in range(max(told) + 1)]
        new = tuple(replace(word, voice=voices[number]) for word, number in zip(known, told, strict=True))
        operation = Retype((Change(recording.id, known, new),))
        edition = edition_with(workshop, session, recording)
        if edition is None:
            home.transcripts.carry_out(session, operation.changes[0])
        else:
            revision = home.editions.open(session, edition.id).revision
            done = home.editions.perform(session, edition.id, revision, operation, lambda _: "")
            post(session, "edition", recording.episode_id, id=edition.id, revision=done.revision)
        post(session, "transcript", recording.episode_id, recording=recording.id, revision=recording.transcript_revision)
