"""Transcribing a recording part by part; what is stored is never recognised again."""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np
from scipy.ndimage import uniform_filter1d
from sqlalchemy import func, select
from sqlalchemy.orm import Session

from jaskel.core.problem import Problem
from jaskel.core.timebase import Ticks
from jaskel.core.transcript import Transcript, Word, with_corrections
from jaskel.jobs.aside import put_aside
from jaskel.jobs.progress import Progress
from jaskel.jobs.queue import send
from jaskel.jobs.spell import spellings_of
from jaskel.jobs.sync import attribute
from jaskel.jobs.tidy import start_tidying
from jaskel.jobs.voices import note_prints
from jaskel.jobs.workshop import Workshop
from jaskel.speech.activity import Sound16k
from jaskel.speech.house import house, mended
from jaskel.speech.language import AUTO, spoken_in
from jaskel.speech.transcribe import as_heard, check_language, transcribe
from jaskel.speech.weights import ENGLISH, recogniser_for
from jaskel.store.models import Episode, Job, Recording, TrackRow
from jaskel.store.notices import post

FADE = 160
"""Samples at 16 kHz (10 ms) over which a muted stretch fades."""


def transcribe_recording(workshop: Workshop, job: Job, progress: Progress) -> None:
    """Go on with the transcript of a recording from where it stands."""
    old = put_aside(workshop.home, job.id) if job.details.get("anew") else ()
    transcribe_on(workshop, job.subject, progress, old)
    note_prints(workshop, job.subject)
    with workshop.home.database.write() as session:
        jobs = start_tidying(session, session.get_one(Recording, job.subject))
    for each in jobs:
        send(workshop.home, each)


def transcribe_on(workshop: Workshop, recording_id: str, progress: Progress, old: Sequence[Word] = ()) -> None:
    """See :func:`transcribe_recording`; corrections of the ``old`` words are kept."""
    home = workshop.home
    with home.database.write() as session:
        recording = session.get_one(Recording, recording_id)
        recording.transcript_state = "running"
        reached = home.transcripts.reached(session, recording.id)
        spellings = spellings_of(session, recording.episode.show_id)
    progress.report(reached)
    sound = _own_sound(workshop, recording)
    language = settled_language(workshop, recording, sound)
    known = house(spellings)
    parts = transcribe(
        sound,
        recording.length,
        recogniser_for(language, workshop.settings.model),
        language,
        reached,
        (lambda words, again: mended(words, known, again)) if spellings else as_heard,
    )
    for part in parts:
        with home.database.write() as session:
            recording = session.get_one(Recording, recording_id)
            home.transcripts.extend(session, recording, part.start, part.end, part.words)
            post(session, "transcript", recording.episode_id, recording=recording.id, revision=recording.transcript_revision)
        progress.report(part.end)
        progress(part.end)
    with home.database.write() as session:
        recording = session.get_one(Recording, recording_id)
        words = home.transcripts.of(session, recording).words
        recording.transcript_state = "done"
        try:
            check_language(words, language)
            if any(word.by_hand for word in old):
                home.transcripts.store(session, recording, Transcript(recording.length, with_corrections(words, old)))
                told = {"recording": recording.id, "revision": recording.transcript_revision}
                post(session, "transcript", recording.episode_id, **told)
        except Problem:
            home.transcripts.clear(session, recording)
            post(session, "transcript", recording.episode_id, recording=recording.id, revision=recording.transcript_revision)
            session.commit()
            raise
        post(session, "recording", recording.episode_id, id=recording.id)


def settled_language(workshop: Workshop, recording: Recording, sound: Sound16k) -> str:
    """The language of a recording; where nobody said which it is, it is found from the sound and written down."""
    if recording.language != AUTO:
        return recording.language
    home = workshop.home
    with home.database.read() as session:
        expected = usual_language(session, recording)
    found = spoken_in(sound, recording.length, expected, workshop.settings.model)
    with home.database.write() as session:
        recording = session.get_one(Recording, recording.id)
        if recording.language == AUTO:  # nobody chose one meanwhile
            recording.language = found.language
        post(session, "recording", recording.episode_id, id=recording.id)
        return recording.language


def usual_language(session: Session, recording: Recording) -> str:
    """The language most recordings of a show are in, which is expected where one cannot be told from the sound."""
    of_show = (
        select(Recording.language)
        .join(Episode)
        .where(Episode.show_id == session.get_one(Episode, recording.episode_id).show_id, Recording.language != AUTO)
        .group_by(Recording.language)
        .order_by(func.count().desc(), Recording.language)
    )
    return session.scalar(of_show.limit(1)) or ENGLISH


def _own_sound(workshop: Workshop, recording: Recording) -> Sound16k:
    """The sound of a recording; of a track in a session only its own voice, so that nothing is written down twice."""

    def whole(start: Ticks, end: Ticks) -> np.ndarray:
        return workshop.sound.mono_16k(recording.id, start, end)

    with workshop.home.database.read() as session:
        track = session.get(TrackRow, recording.id)
    if track is None:
        return whole
    attribute(workshop, track.session_id)
    with workshop.home.database.read() as session:
        own = session.get_one(TrackRow, recording.id).own or []

    def gated(start: Ticks, end: Ticks) -> np.ndarray:
        sound = whole(start, end)
        gate = np.zeros(len(sound), np.float32)
        for begin, until in own:
            if until > start and begin < end:
                gate[max(0, begin - start) // 3 : (until - start) // 3] = 1.0
        return sound * uniform_filter1d(gate, FADE)

    return gated
