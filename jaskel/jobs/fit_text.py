"""A text becomes the transcript of a recording, fitted to its sound."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import replace
from functools import partial

from sqlalchemy.orm import Session

from jaskel.core.operations import Retype
from jaskel.core.problem import Problem
from jaskel.core.retype import Change
from jaskel.core.session import without_overlap
from jaskel.core.transcript import Word, with_sounds_of
from jaskel.jobs.correct import correct
from jaskel.jobs.fit import start_fitting
from jaskel.jobs.progress import Progress
from jaskel.jobs.queue import send
from jaskel.jobs.transcribe import settled_language, transcribe_on
from jaskel.jobs.workshop import Workshop
from jaskel.media.text_files import TextWord
from jaskel.speech.align import spread
from jaskel.speech.script import Script, fit_text, guided
from jaskel.speech.weights import recogniser_for
from jaskel.store.models import BroughtText, Job, Recording, TrackRow, Voice
from jaskel.store.notices import post
from jaskel.store.sessions import new_voice

SHOWN_WORDS = 40


def fit_brought_text(workshop: Workshop, job: Job, progress: Progress) -> None:
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
    if job.details.get("guides"):
        _guide(workshop, job, recording, said, progress)
        return
    sound = partial(workshop.sound.mono_16k, recording.id)
    own_times = job.details.get("own_times")
    language = recording.language if own_times else settled_language(workshop, recording, sound)
    recogniser = recogniser_for(language, workshop.settings.model)
    if own_times or language not in recogniser.languages:
        script = _by_its_own_times(said, recording)
    else:
        spoken = [word for word in known.words if not word.is_sound]
        heard = spoken if recording.transcript_state == "done" else None
        script = fit_text(
            sound,
            recording.length,
            [word.text for word in said],
            recogniser,
            language,
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


def _guide(workshop: Workshop, job: Job, recording: Recording, said: Sequence[TextWord], progress: Progress) -> None:
    """Let a text put right what was recognised, after recognising it where that was not done."""
    home = workshop.home
    if recording.transcript_state != "done":
        transcribe_on(workshop, job, recording.id, progress)
    jobs: list[str] = []
    with home.database.write() as session:
        recording = session.get_one(Recording, recording.id)
        known = tuple(word for word in home.transcripts.of(session, recording).words if not word.is_sound)
        new = guided(known, [word.text for word in said])
        changed = sum(old.text != word.text for old, word in zip(known, new, strict=False)) + abs(len(new) - len(known))
        text = session.get_one(BroughtText, job.subject)
        text.state, text.trouble, text.report = "guided", "", {"changed": changed}
        if new != known:
            operation = _become(workshop, session, recording, new)
            jobs = start_fitting(session, operation) if operation else []
        post(session, "transcript", recording.episode_id, recording=recording.id, revision=recording.transcript_revision)
        post(session, "recording", recording.episode_id, id=recording.id)
    for each in jobs:
        send(home, each)


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


def _become(workshop: Workshop, session: Session, recording: Recording, words: Sequence[Word]) -> Retype | None:
    """Give a recording other words, as a step of its edition's history where it had some; gives that step."""
    home = workshop.home
    known = home.transcripts.of(session, recording)
    # A text says what is spoken; the sounds that were found between its words stay.
    new = with_sounds_of(known.words, without_overlap(words, recording.length))
    operation: Retype | None = None
    if known.reached == 0 or not known.words:
        home.transcripts.clear(session, recording)
        home.transcripts.extend(session, recording, 0, recording.length, new)
    else:
        operation = Retype((Change(recording.id, known.words, new),))
        correct(workshop, session, recording, operation)
    recording.transcript_state, recording.transcript_trouble = "done", ""
    return operation


def _report(script: Script, said: Sequence[TextWord]) -> dict[str, object]:
    """What the comparison of text and sound came to, for the page."""

    def shown(words: Sequence[str]) -> str:
        return " ".join(words[:SHOWN_WORDS]) + (" …" if len(words) > SHOWN_WORDS else "")

    return {
        "share": round(script.share, 3),
        "unspoken": [shown([word.text for word in said[a:b]]) for a, b in script.unspoken],
        "besides": [[word.text, word.start] for word in script.besides],
    }
