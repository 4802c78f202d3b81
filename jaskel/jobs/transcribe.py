"""Transcribing a recording part by part; what is stored is never recognised again."""

from __future__ import annotations

import json
import time
from collections.abc import Callable, Iterator, Sequence
from functools import partial
from pathlib import Path

import numpy as np
from scipy.ndimage import uniform_filter1d
from sqlalchemy import func, select
from sqlalchemy.orm import Session

from jaskel.core.numbers import Style
from jaskel.core.problem import Problem
from jaskel.core.spellings import Spelling
from jaskel.core.timebase import RATE, Ticks
from jaskel.core.transcript import Transcript, Word, with_corrections, word_to_json
from jaskel.jobs.aside import put_aside
from jaskel.jobs.parts import Make, Parts, make_wanted, print_of
from jaskel.jobs.progress import Progress
from jaskel.jobs.queue import send
from jaskel.jobs.spell import spellings_of, style_of
from jaskel.jobs.sync import attribute
from jaskel.jobs.tidy import start_tidying
from jaskel.jobs.voices import note_prints
from jaskel.jobs.workshop import Workshop
from jaskel.speech.activity import Sound16k, spans
from jaskel.speech.house import Again, house, mended
from jaskel.speech.language import AUTO, spoken_in, stretches_of
from jaskel.speech.numbers import with_numbers
from jaskel.speech.recognise import HeardWord
from jaskel.speech.transcribe import Part, check_language, transcribe
from jaskel.speech.weights import ENGLISH, recogniser_for
from jaskel.store.home import Home
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
    transcribe_on(workshop, job, job.subject, progress, old)
    note_prints(workshop, job.subject)
    with workshop.home.database.write() as session:
        jobs = start_tidying(session, session.get_one(Recording, job.subject))
    for each in jobs:
        send(workshop.home, each)


def transcribe_on(workshop: Workshop, job: Job, recording_id: str, progress: Progress, old: Sequence[Word] = ()) -> None:
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
    hearing = Hearing(workshop, recording, sound, stretches, spellings, style)
    begun, listened = time.perf_counter(), 0
    for part in _heard(home, job, hearing, reached, progress):
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


class Hearing:
    """How a recording is heard: in which pieces, and by which weights."""

    def __init__(
        self,
        workshop: Workshop,
        recording: Recording,
        sound: Sound16k,
        stretches: Sequence[tuple[Ticks, str]],
        spellings: Sequence[Spelling],
        style: Style,
    ) -> None:
        self._workshop, self.recording, self._sound = workshop, recording, sound
        self._spellings, self._style = spellings, style
        ends, parted = [*(start for start, _ in stretches[1:]), recording.length], spans(sound, recording.length)
        of_languages = [(start, end, language) for (start, language), end in zip(stretches, ends, strict=True)]
        self.pieces = [
            (max(start, begin), min(end, until), language)
            for start, end, language in of_languages
            for begin, until in parted
            if start < until and begin < end
        ]
        """From-to and language of each; a span is heard in one, unless another language begins in it."""

    def heard(self, piece: tuple[Ticks, Ticks, str], start: Ticks) -> Iterator[Part]:
        """What is heard in a piece from ``start`` on."""
        _, end, language = piece
        known = house(self._spellings, language)

        def mend(words: Sequence[HeardWord], again: Again) -> Sequence[HeardWord]:
            return with_numbers(mended(words, known, again) if self._spellings else words, self._style, language)

        weights = own_weights(self._workshop, self.recording.id, language) or self._workshop.settings.model
        return transcribe(self._sound, end, recogniser_for(language, weights), language, start, mend)

    def makes(self, own: object) -> dict[str, Make]:
        """The pieces by their prints, each to be heard as a whole; ``own`` says what of the sound is heard."""
        known = self.recording.digest, own, self.recording.care, self._spellings, self._style
        return {print_of(known, piece): partial(self._write, piece) for piece in self.pieces}

    def _write(self, piece: tuple[Ticks, Ticks, str], path: Path, progress: Callable[[int], None]) -> None:
        found = []
        for part in self.heard(piece, piece[0]):
            found.append([part.start, part.end, [word_to_json(word) for word in part.words]])
            progress(part.end - piece[0])
        path.write_text(json.dumps(found), encoding="utf-8")


def _read(path: Path) -> Iterator[Part]:
    """What a piece that another worker heard has in it."""
    for start, end, words in json.loads(path.read_text(encoding="utf-8")):
        yield Part(start, end, tuple(Word(*word) for word in words))


def _heard(home: Home, job: Job, hearing: Hearing, reached: Ticks, progress: Progress) -> Iterator[Part]:
    """What is heard from where the transcript stands."""
    left = [
        (piece, print_, make)
        for piece, (print_, make) in zip(hearing.pieces, hearing.makes(_own(home, hearing.recording.id)).items(), strict=True)
        if piece[1] > reached
    ]
    makes = {print_: make for _, print_, make in left}
    with Parts(home, job, "transcribe", hearing.recording.id, makes, lambda: progress(progress.come)) as others:
        for number, (piece, _, _) in enumerate(left):
            file = others.elsewhere(number)
            known = _read(file) if file else hearing.heard(piece, max(piece[0], reached))
            yield from (part for part in known if part.end > reached)


def make_part(workshop: Workshop, _whole: Job, part: Job, progress: Progress) -> None:
    """Hear a piece of a recording for the worker that transcribes it."""
    home = workshop.home
    with home.database.read() as session:
        recording = session.get_one(Recording, part.details["subject"])
        spellings, style = spellings_of(session, recording.episode.show_id), style_of(recording.episode.show)
    stretches = stretches_in(workshop, recording.id, recording.language)
    hearing = Hearing(workshop, recording, own_sound(workshop, recording), stretches, spellings, style)
    make_wanted(home, part, hearing.makes(_own(home, recording.id)), progress)


def _own(home: Home, recording_id: str) -> list[list[Ticks]] | None:
    """From-to of the own voice of a track of a session; None where all is heard."""
    with home.database.read() as session:
        track = session.get(TrackRow, recording_id)
        return (track.own or []) if track else None


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
    own = _own(workshop.home, recording.id) or []

    def gated(start: Ticks, end: Ticks) -> np.ndarray:
        sound = whole(start, end)
        gate = np.zeros(len(sound), np.float32)
        for begin, until in own:
            if until > start and begin < end:
                gate[max(0, begin - start) // 3 : (until - start) // 3] = 1.0
        return sound * uniform_filter1d(gate, FADE)

    return gated
