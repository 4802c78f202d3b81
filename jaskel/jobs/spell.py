"""Putting house spellings right in what is transcribed already: one step of the edition's history for each recording."""

from __future__ import annotations

from typing import cast

from sqlalchemy import select
from sqlalchemy.orm import Session

from jaskel.core.numbers import Style, rewritten
from jaskel.core.operations import Retype
from jaskel.core.retype import Change, put_in, retype
from jaskel.core.spellings import House, Spelling
from jaskel.core.transcript import Transcript
from jaskel.jobs.correct import correct
from jaskel.jobs.fit import start_fitting
from jaskel.jobs.progress import Progress
from jaskel.jobs.queue import send
from jaskel.jobs.workshop import Workshop
from jaskel.speech.house import house
from jaskel.speech.language import AUTO
from jaskel.speech.weights import ENGLISH
from jaskel.store.models import Episode, Job, Recording, Show, SpellingRow, Voice
from jaskel.store.notices import post


def spellings_of(session: Session, show_id: str) -> list[Spelling]:
    """The house spellings of a show. The full name of a voice is one by itself; "Guest" or "Voice 2" is none."""
    rows = session.scalars(select(SpellingRow).where(SpellingRow.show_id == show_id).order_by(SpellingRow.created))
    listed = [Spelling(row.term, tuple(row.heard)) for row in rows]
    known = {spelling.term.casefold() for spelling in listed}
    voices = session.scalars(select(Voice.name).where(Voice.show_id == show_id).order_by(Voice.number))
    return [*listed, *(Spelling(name) for name in voices if is_full_name(name) and name.casefold() not in known)]


def is_full_name(name: str) -> bool:
    """Whether a voice is called by two names and more, each with a capital, and not by what it does or its number."""
    parts = name.split()
    return len(parts) >= 2 and all(part[0].isupper() and part[-1].isalpha() for part in parts)


def style_of(show: Show) -> Style:
    """How a show wants its numbers."""
    return cast(Style, show.numbers)


def spell(workshop: Workshop, job: Job, progress: Progress) -> None:
    """Mend the transcripts of an episode by the spellings of its show, and write its numbers as the show wants them."""
    home = workshop.home
    with home.database.read() as session:
        episode = session.get_one(Episode, job.subject)
        spellings, style = spellings_of(session, episode.show_id), style_of(episode.show)
        names = [recording.id for recording in episode.recordings if recording.transcript_state == "done"]
    for number, name in enumerate(names, 1):
        jobs: list[str] = []
        with home.database.write() as session:
            recording = session.get_one(Recording, name)
            heard = home.transcripts.of(session, recording)
            language = ENGLISH if recording.language == AUTO else recording.language
            changes = changes_by(house(spellings, language), name, heard)
            for change in changes:
                heard = put_in(heard, change)
            changes += changes_of_numbers(style, language, name, heard)
            if changes:
                operation = Retype(changes)
                correct(workshop, session, recording, operation)
                post(session, "transcript", episode.id, recording=name, revision=recording.transcript_revision)
                jobs = start_fitting(session, operation)
        for each in jobs:
            send(home, each)
        progress(number)


def changes_by(spellings: House, recording: str, transcript: Transcript) -> tuple[Change, ...]:
    """What the spellings change in a transcript, last first so that places before stay where they are."""
    changes: list[Change] = []
    words = transcript.words
    for mending in reversed(spellings.mendings(words)):
        if mending.sure:
            change = retype(recording, transcript, words[mending.first].start, words[mending.last - 1].end, mending.text)
            changes.append(change)
            transcript = put_in(transcript, change)
    return tuple(changes)


def changes_of_numbers(style: Style, language: str, recording: str, transcript: Transcript) -> tuple[Change, ...]:
    """What the numbers of a transcript become in a style, last first."""
    words = transcript.words
    return tuple(
        retype(recording, transcript, words[each.first].start, words[each.last - 1].end, each.text)
        for each in reversed(rewritten([word.text for word in words], style, language))
    )
