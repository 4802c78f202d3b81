"""Giving the words of a mixed recording to its voices."""

from __future__ import annotations

from dataclasses import replace

import numpy as np
from sqlalchemy import select
from sqlalchemy.orm import Session

from jaskel.core.operations import Operation, Retype
from jaskel.core.problem import Problem
from jaskel.core.retype import Change
from jaskel.core.timebase import Ticks
from jaskel.core.transcript import Word
from jaskel.jobs.correct import correct
from jaskel.jobs.progress import Progress
from jaskel.jobs.queue import ACTIVE, add_job
from jaskel.jobs.workshop import Workshop
from jaskel.store.models import Job, Recording, TrackRow, Voice, VoicePrint
from jaskel.store.notices import post
from jaskel.store.sessions import new_voice


def tell_apart(workshop: Workshop, job: Job, progress: Progress) -> None:
    """Find who says what in a recording, and where several speak at once; one step of the edition's history."""
    from jaskel.speech.together import spoken_over, together  # the server, which only starts jobs, starts sooner without it
    from jaskel.speech.voices import voices_of

    home = workshop.home
    with home.database.read() as session:
        recording = session.get_one(Recording, job.subject)
        words = home.transcripts.of(session, recording).words

    def sound(start: Ticks, end: Ticks) -> np.ndarray:
        return workshop.sound.mono_16k(recording.id, start, end)

    told = voices_of(sound, words, job.details.get("count"))
    progress(recording.length // 2)
    at_once = together(sound, recording.length) if len(set(told)) > 1 else []
    progress(recording.length)
    with home.database.write() as session:
        recording = session.get_one(Recording, job.subject)
        known = home.transcripts.of(session, recording).words
        if [word.text for word in known] != [word.text for word in words]:
            raise Problem("changed", "The words were changed meanwhile. Let the voices be told apart again.")
        voices = [new_voice(session, recording.episode.show_id).id for _ in range(max(told) + 1)]
        marked = spoken_over(known, at_once)
        new = tuple(replace(word, voice=voices[number]) for word, number in zip(marked, told, strict=True))
        operation = Retype((Change(recording.id, known, new),))
        correct(workshop, session, recording, operation)
        post(session, "transcript", recording.episode_id, recording=recording.id, revision=recording.transcript_revision)
    note_prints(workshop, recording.id)


def start_prints(session: Session, operation: Operation) -> list[str]:
    """Write down the jobs that listen to voices anew, where words were given to other ones; gives their ids."""
    changes = operation.changes if isinstance(operation, Retype) else ()
    given = {
        c.recording for c in changes if {word.voice for word in c.old} != {word.voice for word in c.new} and c.old and c.new
    }
    started = []
    for name in sorted(given):
        known = select(Job.id).where(Job.kind == "prints", Job.subject == name, Job.state.in_(ACTIVE))
        if session.scalar(known.limit(1)) is None:
            recording = session.get_one(Recording, name)
            started.append(add_job(session, "prints", recording.episode_id, name, recording.length).id)
    return started


def listen_to_voices(workshop: Workshop, job: Job, _progress: Progress) -> None:
    """See :func:`note_prints`."""
    note_prints(workshop, job.subject)


def note_prints(workshop: Workshop, recording_id: str) -> None:
    """Remember how each voice of a recording sounds, so that it is recognised in other episodes."""
    from jaskel.speech.voices import print_of

    home = workshop.home
    with home.database.read() as session:
        recording = session.get_one(Recording, recording_id)
        track = session.get(TrackRow, recording_id)
        words = home.transcripts.of(session, recording).words
    said: dict[str, list[Word]] = {}
    for word in words:
        if voice := word.voice or (track.voice_id if track else None):
            said.setdefault(voice, []).append(word)
    prints = {
        voice: found
        for voice, mine in said.items()
        if (found := print_of(lambda a, b: workshop.sound.mono_16k(recording_id, a, b), mine))
    }
    with home.database.write() as session:
        for voice, found in prints.items():
            if session.get(Voice, voice):
                session.merge(VoicePrint(voice_id=voice, recording_id=recording_id, print=found))
        post(session, "voice", recording.episode_id)
