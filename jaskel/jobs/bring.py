"""A text becomes the transcript of a recording, fitted to its sound."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import replace

from sqlalchemy.orm import Session

from jaskel.core.operations import Retype
from jaskel.core.problem import Problem
from jaskel.core.retype import Change
from jaskel.core.session import without_overlap
from jaskel.core.transcript import Word
from jaskel.jobs.carry_out import Progress
from jaskel.jobs.workshop import Workshop
from jaskel.media.brought import TextWord
from jaskel.speech.align import spread
from jaskel.speech.recognise import packaged_weights, whisper
from jaskel.speech.script import Script, fit_text
from jaskel.store.models import BroughtText, EditionRow, Job, Recording, TrackRow, Voice
from jaskel.store.notices import post
from jaskel.store.sessions import new_voice

SHOWN_WORDS = 40


def bring(workshop: Workshop, job: Job, progress: Progress) -> None:
    """Fit a brought text and let it become the transcript; one step of the edition's history."""
    home = workshop.home
    with home.database.read() as session:
        text = session.get_one(BroughtText, job.subject)
        recording = session.get_one(Recording, text.recording_id)
        known = home.transcripts.of(session, recording)
        track = session.get(TrackRow, recording.id)
        said = [TextWord(*word) for word in text.words]
        if track and track.voice and track.voice.name in {word.voice for word in said}:
            # A script of several voices, for the microphone of one.
            said = [word for word in said if word.voice == track.voice.name]
    recogniser = whisper(workshop.settings.model or packaged_weights())
    if job.details.get("own_times") or recording.language not in recogniser.languages:
        script = _by_its_own_times(said, recording)
    else:
        heard = known.words if recording.transcript_state == "done" else None
        script = fit_text(
            lambda start, end: workshop.sound.mono_16k(recording.id, start, end),
            recording.length,
            [word.text for word in said],
            recogniser,
            recording.language,
            progress,
            heard,
        )
    progress(recording.length)
    with home.database.write() as session:
        recording = session.get_one(Recording, text.recording_id)
        voices = _voices(session, recording, said)
        words = [replace(word, voice=voices.get(said[index].voice or "")) for index, word in script.words]
        _become(workshop, session, recording, [*words, *script.besides])
        text = session.get_one(BroughtText, job.subject)
        text.state, text.trouble, text.report = "taken", "", _report(script, said)
        post(session, "transcript", recording.episode_id, recording=recording.id, revision=recording.transcript_revision)
        post(session, "recording", recording.episode_id, id=recording.id)


def _by_its_own_times(said: Sequence[TextWord], recording: Recording) -> Script:
    """Captions spread over the times at which they are shown, for languages without weights."""
    if not all(word.start is not None for word in said):
        raise Problem(
            "no-times",
            f"No weights for the language “{recording.language}” are installed, so only captions with times can be brought.",
        )
    words: list[tuple[int, Word]] = []
    first = 0
    while first < len(said):
        last = first
        while last < len(said) and said[last].start == said[first].start:
            last += 1
        begin, end = (edge / 48_000 for edge in (said[first].start or 0, said[first].end or 0))
        places = spread([len(word.text) for word in said[first:last]], begin, end, [(begin, end)])
        for index, (a, b) in zip(range(first, last), places, strict=True):
            words.append((index, Word(said[index].text, round(a * 48_000), max(round(b * 48_000), round(a * 48_000) + 1))))
        first = last
    return Script(tuple(item for item in words if item[1].end <= recording.length), (), (), 1.0)


def _voices(session: Session, recording: Recording, said: Sequence[TextWord]) -> dict[str, str]:
    """Ids of the voices a text names; those the show does not know yet are new."""
    show = recording.episode.show
    known: dict[str, Voice] = {voice.name.casefold(): voice for voice in show.voices if voice.name}
    names = dict.fromkeys(word.voice for word in said if word.voice)
    return {name: (known.get(name.casefold()) or new_voice(session, show.id, name)).id for name in names}


def _become(workshop: Workshop, session: Session, recording: Recording, words: Sequence[Word]) -> None:
    home = workshop.home
    known = home.transcripts.of(session, recording)
    new = without_overlap(words, recording.length)
    if known.reached == 0 or not known.words:
        home.transcripts.clear(session, recording)
        home.transcripts.extend(session, recording, 0, recording.length, new)
    else:
        change = Change(recording.id, known.words, new)
        edition = edition_with(workshop, session, recording)
        if edition is None:
            home.transcripts.carry_out(session, change)
        else:
            opened = home.editions.open(session, edition.id)
            done = home.editions.perform(session, edition.id, opened.revision, Retype((change,)), lambda _: "")
            post(session, "edition", recording.episode_id, id=edition.id, revision=done.revision)
    recording.transcript_state, recording.transcript_trouble = "done", ""


def edition_with(workshop: Workshop, session: Session, recording: Recording) -> EditionRow | None:
    """The edition in whose history the step belongs: the first that uses the recording."""
    track = session.get(TrackRow, recording.id)
    name = track.session_id if track else recording.id
    editions = recording.episode.editions
    return next((e for e in editions if name in workshop.home.editions.open(session, e.id).edition.recordings), None)


def _report(script: Script, said: Sequence[TextWord]) -> dict[str, object]:
    """What the comparison of text and sound came to, for the page."""

    def shown(words: Sequence[str]) -> str:
        return " ".join(words[:SHOWN_WORDS]) + (" …" if len(words) > SHOWN_WORDS else "")

    return {
        "share": round(script.share, 3),
        "unspoken": [shown([word.text for word in said[a:b]]) for a, b in script.unspoken],
        "besides": [[word.text, word.start] for word in script.besides],
    }
