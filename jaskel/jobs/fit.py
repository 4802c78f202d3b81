"""Fitting loose words to the sound they were typed for."""

from __future__ import annotations

from collections.abc import Callable, Iterator, Sequence
from dataclasses import dataclass, replace
from functools import partial

import numpy as np
from sqlalchemy import select
from sqlalchemy.orm import Session

from jaskel.core.operations import Retype
from jaskel.core.timebase import RATE, Ticks, from_seconds
from jaskel.core.transcript import SHORTEST_REST, Transcript, Word
from jaskel.jobs.progress import Progress
from jaskel.jobs.queue import ACTIVE, add_job
from jaskel.jobs.workshop import Workshop
from jaskel.speech.align import fit
from jaskel.speech.attention import fitting
from jaskel.speech.language import AUTO
from jaskel.speech.transcribe import ALIGNERS
from jaskel.speech.weights import recogniser_for
from jaskel.store.models import Job, Recording
from jaskel.store.notices import post

KINDS = ("fit", "fit by ear")
"""Kinds of jobs that fit words: by a dictionary of pronunciations, and by the recogniser."""

TIGHT: Ticks = RATE // 12
"""With less than 83 ms for each word, room is sought in the words beside them."""


CONTEXT = 3
"""So many words on either side help the aligner to find where the ones between begin and end."""


@dataclass(frozen=True)
class LooseRun:
    """Words from index ``first`` to ``last``, and the stretch of sound they must lie in."""

    first: int
    last: int
    begin: Ticks
    end: Ticks


def fit_loose(workshop: Workshop, job: Job, progress: Progress) -> None:
    """Align all loose words of a recording; those that do not fit stay loose."""
    home = workshop.home
    with home.database.read() as session:
        recording = session.get_one(Recording, job.subject)
        transcript = home.transcripts.of(session, recording)
    fits = fitter(workshop, recording.language)
    fitted: dict[Word, Word] = {}
    for run in loose_runs(transcript):
        words = transcript.words[run.first : run.last]
        for word, (start, end) in zip(words, _fit(workshop, recording.id, transcript.words, run, fits) or (), strict=False):
            fitted[word] = replace(word, start=start, end=end, loose=False)
        progress(run.end)
    if not fitted:
        return
    with home.database.write() as session:
        recording = session.get_one(Recording, job.subject)
        known = home.transcripts.of(session, recording)
        # What was typed anew meanwhile is not among the words that were fitted, and stays as it is.
        home.transcripts.store(session, recording, replace(known, words=_in_order(known, fitted)))
        post(session, "transcript", recording.episode_id, recording=recording.id, revision=recording.transcript_revision)


Fits = Callable[[np.ndarray, Sequence[str]], Sequence[tuple[float, float]] | None]
"""Places of words in a few seconds of sound, None where they do not fit it."""


def fitter(workshop: Workshop, language: str) -> Fits:
    """Where there is a dictionary of pronunciations, words are fitted by it; else by the recogniser."""
    if language in ALIGNERS or language == AUTO:
        return fit
    return partial(fitting, recogniser_for(language, workshop.settings.model), language)


def _fit(
    workshop: Workshop, recording_id: str, words: Sequence[Word], run: LooseRun, fits: Fits
) -> list[tuple[Ticks, Ticks]] | None:
    """Places of the words of a run, heard among the words around them or, where that does not fit, by themselves."""
    for wider in (_in_context(words, run), run):
        sound = workshop.sound.mono_16k(recording_id, wider.begin, wider.end)
        places = fits(sound, [word.text for word in words[wider.first : wider.last]])
        if places is None:
            continue
        inside = places[run.first - wider.first :][: run.last - run.first]
        edges = [(wider.begin + from_seconds(a), wider.begin + from_seconds(b)) for a, b in inside]
        clipped = [(max(run.begin, a), min(run.end, b)) for a, b in edges]
        if all(a < b for a, b in clipped):
            return clipped
    return None


def _in_context(words: Sequence[Word], run: LooseRun) -> LooseRun:
    """The run with the words that lead into it and follow on it, up to the next rest."""
    first, last, begin, end = run.first, run.last, run.begin, run.end
    while first and run.first - first < CONTEXT and begin - words[first - 1].end < SHORTEST_REST:
        first, begin = first - 1, words[first - 1].start
    while last < len(words) and last - run.last < CONTEXT and words[last].start - end < SHORTEST_REST:
        last, end = last + 1, words[last].end
    return LooseRun(first, last, begin, end)


def _in_order(transcript: Transcript, fitted: dict[Word, Word]) -> tuple[Word, ...]:
    out: list[Word] = []
    for index, known in enumerate(transcript.words):
        word = fitted.get(known, known)
        after = transcript.words[index + 1] if index + 1 < len(transcript.words) else None
        limit = fitted.get(after, after).start if after else transcript.duration
        start = max(word.start, out[-1].end if out else 0)
        if start >= min(word.end, limit):
            return transcript.words  # they cross what was typed meanwhile: the next fit will see to it
        out.append(replace(word, start=start, end=min(word.end, limit)))
    return tuple(out)


def loose_runs(transcript: Transcript) -> Iterator[LooseRun]:
    """Stretches of loose words with the sound between their neighbours; tight ones with a neighbour on either side."""
    words = transcript.words
    index = 0
    while index < len(words):
        if not words[index].loose:
            index += 1
            continue
        first = index
        while index < len(words) and words[index].loose:
            index += 1
        yield _with_room(words, first, index, transcript.duration)


def _with_room(words: Sequence[Word], first: int, last: int, duration: Ticks) -> LooseRun:
    begin, end = words[first - 1].end if first else 0, words[last].start if last < len(words) else duration
    # A pause is no part of what was typed: keep to its neighbourhood.
    begin, end = max(begin, words[first].start - RATE // 2), min(end, words[last - 1].end + RATE // 2)
    if end - begin < TIGHT * (last - first):
        if first:
            first, begin = first - 1, words[first - 1].start
        if last < len(words):
            last, end = last + 1, words[last].end
    return LooseRun(first, last, begin, end)


def start_fitting(session: Session, operation: Retype) -> list[str]:
    """Write down the jobs that fit what was retyped; gives their ids."""
    jobs = []
    for recording_id in dict.fromkeys(change.recording for change in operation.changes if any(w.loose for w in change.new)):
        recording = session.get_one(Recording, recording_id)
        waiting = select(Job.id).where(Job.kind.in_(KINDS), Job.subject == recording_id, Job.state.in_(ACTIVE[:1]))
        if session.scalar(waiting) is None:
            # One under way may have read the words before this change, so it does not count.
            at = (operation.changes[0].new or operation.changes[0].old)[0].start
            # By the dictionary words are fitted in the worker, where it is loaded; the recogniser gets a process of its own.
            kind = "fit" if recording.language in (*ALIGNERS, AUTO) else "fit by ear"
            jobs.append(add_job(session, kind, recording.episode_id, recording_id, recording.length, at=at).id)
    return jobs
