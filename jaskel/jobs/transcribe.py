"""Transcribing a recording part by part; what is stored is never recognised again."""

from __future__ import annotations

import time
from collections.abc import Iterator, Sequence
from pathlib import Path

import numpy as np
from scipy.ndimage import uniform_filter1d
from sqlalchemy import func, select
from sqlalchemy.orm import Session

from jaskel.core.numbers import Style
from jaskel.core.problem import Problem
from jaskel.core.spellings import House, Spelling
from jaskel.core.timebase import RATE, Ticks
from jaskel.core.transcript import Transcript, Word, with_corrections
from jaskel.jobs.aside import put_aside
from jaskel.jobs.progress import Progress
from jaskel.jobs.queue import send
from jaskel.jobs.spell import spellings_of, style_of
from jaskel.jobs.sync import attribute
from jaskel.jobs.tidy import start_tidying
from jaskel.jobs.voices import note_prints
from jaskel.jobs.workshop import Workshop
from jaskel.speech.activity import Sound16k
from jaskel.speech.house import Again, house, mended
from jaskel.speech.language import AUTO, spoken_in, stretches_of
from jaskel.speech.numbers import with_numbers
from jaskel.speech.recognise import HeardWord
from jaskel.speech.transcribe import Part, check_language, transcribe
from jaskel.speech.weights import ENGLISH, recogniser_for
from jaskel.store.models import Episode, Job, Recording, TrackRow
from jaskel.store.notices import post
from jaskel.store.weights import SHIPPED, careful_weights, note_speed

ENOUGH: Ticks = 30 * RATE
"""From so much sound on, how long it took says how quick the weights are."""

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
        spellings, style = spellings_of(session, recording.episode.show_id), style_of(recording.episode.show)
    progress.report(reached)
    sound = own_sound(workshop, recording)
    language = settled_language(workshop, recording, sound)
    stretches = stretches_in(workshop, recording_id, language)
    begun, listened = time.perf_counter(), 0
    for part in _heard(workshop, recording, sound, stretches, reached, spellings, style):
        listened += part.end - part.start
        with home.database.write() as session:
            recording = session.get_one(Recording, recording_id)
            home.transcripts.extend(session, recording, part.start, part.end, part.words)
            post(session, "transcript", recording.episode_id, recording=recording.id, revision=recording.transcript_revision)
        progress.report(part.end)
        progress(part.end)
    with home.database.write() as session:
        recording = session.get_one(Recording, recording_id)
        if listened >= ENOUGH and len(stretches) == 1:
            weights = own_weights(workshop, recording_id, language)
            name = weights.name if weights else SHIPPED[language != ENGLISH]
            note_speed(session, name, listened / RATE / (time.perf_counter() - begun))
        words = home.transcripts.of(session, recording).words
        recording.transcript_state = "done"
        try:
            if len(stretches) == 1:
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


def _heard(
    workshop: Workshop,
    recording: Recording,
    sound: Sound16k,
    stretches: Sequence[tuple[Ticks, str]],
    reached: Ticks,
    spellings: Sequence[Spelling],
    style: Style,
) -> Iterator[Part]:
    """What is heard from where the transcript stands, each stretch by the weights for its language."""
    ends = [*(start for start, _ in stretches[1:]), recording.length]
    for (start, language), end in zip(stretches, ends, strict=True):
        if end <= reached:
            continue
        known = house(spellings, language)

        def mend(
            words: Sequence[HeardWord], again: Again, known: House = known, language: str = language
        ) -> Sequence[HeardWord]:
            return with_numbers(mended(words, known, again) if spellings else words, style, language)

        weights = own_weights(workshop, recording.id, language) or workshop.settings.model
        yield from transcribe(sound, end, recogniser_for(language, weights), language, max(start, reached), mend)


def stretches_in(workshop: Workshop, recording_id: str, language: str) -> list[tuple[Ticks, str]]:
    """From where on which language is heard: one from the beginning, unless somebody had the recording parted."""
    with workshop.home.database.read() as session:
        recording = session.get_one(Recording, recording_id)
    return [(start, spoken) for start, spoken in recording.languages] if recording.parted else [(0, language)]


def own_weights(workshop: Workshop, recording_id: str, language: str = "") -> Path | None:
    """The weights that were added and are to hear a recording; None where those hear it that come with Jaskel."""
    with workshop.home.database.read() as session:
        recording = session.get(Recording, recording_id)
        if recording is None or recording.care != "careful":
            return None
        return careful_weights(session, workshop.settings, language or recording.language)


def settled_language(workshop: Workshop, recording: Recording, sound: Sound16k) -> str:
    """The language of a recording; where nobody said which it is, it is found from the sound and written down."""
    if recording.language != AUTO:
        return recording.language
    home = workshop.home
    with home.database.read() as session:
        expected = usual_language(session, recording)
    found = spoken_in(sound, recording.length, expected, workshop.settings.model)
    others = stretches_of(sound, recording.length, found.language, workshop.settings.model)
    with home.database.write() as session:
        recording = session.get_one(Recording, recording.id)
        if recording.language == AUTO:  # nobody chose one meanwhile
            recording.language = found.language
            recording.languages = [list(each) for each in others] if len(others) > 1 else []
        post(session, "recording", recording.episode_id, id=recording.id)
        return recording.language


def usual_language(session: Session, recording: Recording) -> str:
    """The language that is expected where it cannot be told from the sound: the voice's own, else that of the show."""
    show_id = session.get_one(Episode, recording.episode_id).show_id
    known = (
        select(Recording.language)
        .join(Episode)
        .where(Episode.show_id == show_id, Recording.language != AUTO)
        .group_by(Recording.language)
        .order_by(func.count().desc(), Recording.language)
        .limit(1)
    )
    track = session.get(TrackRow, recording.id)
    of_voice = (
        known.join(TrackRow, TrackRow.recording_id == Recording.id).where(TrackRow.voice_id == track.voice_id)
        if track
        else None
    )
    own = session.scalar(of_voice) if of_voice is not None and track and track.voice_id else None
    return own or session.scalar(known) or ENGLISH


def own_sound(workshop: Workshop, recording: Recording) -> Sound16k:
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
