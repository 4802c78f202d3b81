"""Finding what was said in all shows, and retyping it wherever it was found."""

from __future__ import annotations

from sqlalchemy.orm import Session

from jaskel.core.operations import Retype
from jaskel.core.problem import Problem
from jaskel.core.retype import Change, put_in, retype, within
from jaskel.core.roles import Right
from jaskel.core.written import written
from jaskel.jobs.correct import correct
from jaskel.jobs.fit import start_fitting
from jaskel.jobs.meant import start_indexing
from jaskel.jobs.queue import send
from jaskel.speech.meaning import ENGLISH, meanings_of
from jaskel.store import meant, spoken
from jaskel.store.meant import MeantFiles, Near, missing
from jaskel.store.models import Recording
from jaskel.store.notices import post
from jaskel.web.context import context
from jaskel.web.gate import looked_through, require
from jaskel.web.resource import resource
from jaskel.web.schemas.library import (
    HitField,
    IndexOut,
    MeaningQuery,
    MeantOut,
    RetypedOut,
    RetypeHits,
    SaidOut,
    SearchOut,
    SearchQuery,
)
from jaskel.web.serializers import reply

api = resource("search", __name__)

MOST_IN_A_SHOW = 500


@api.get("/search", responses={200: SearchOut})
def search(query: SearchQuery):  # type: ignore[no-untyped-def]
    """Who said these words, in all shows or in one."""
    most = MOST_IN_A_SHOW if query.show else spoken.MOST_HITS
    with context().workshop.home.database.read() as session:
        shows = looked_through(session, query.show)
        found = spoken.search(session, query.words, shows, whole=query.whole, voice=query.voice, most=most)
        hits = [
            SaidOut(
                show=said.show.name,
                episode_id=said.episode.id,
                episode=said.episode.title,
                recording_id=said.recording.id,
                at=said.at,
                end=said.end,
                before=said.before,
                words=said.words,
                after=said.after,
            )
            for said in found
        ]
        return reply(SearchOut(hits=hits))


ALIKE, MOST_MEANT = 0.3, 12
"""So alike at least, and so many at most: right answers to the questions of the bench lie from 0.32 on."""


@api.get("/search/meaning", responses={200: MeantOut})
def search_by_meaning(query: MeaningQuery):  # type: ignore[no-untyped-def]
    """Who said something like this in other words."""
    home = context().workshop.home
    (wanted,) = meanings_of([query.words])
    with home.database.read() as session:
        waiting = len(missing(session, ENGLISH))
        shows = looked_through(session, query.show)
        found = meant.search(session, MeantFiles(home.vault.meant), wanted, shows, MOST_MEANT, ALIKE)
        hits = [said for each in found if (said := _said(session, each)) is not None]
    return reply(MeantOut(hits=hits, waiting=waiting))


@api.post("/search/index", responses={202: IndexOut})
def index():  # type: ignore[no-untyped-def]
    """Index what is not indexed yet, in the background."""
    home = context().workshop.home
    with home.database.write() as session:
        waiting = len(missing(session, ENGLISH))
        job = start_indexing(session)
    if job:
        send(home, job)
    return reply(IndexOut(waiting=waiting), 202)


def _said(session: Session, near: Near) -> SaidOut | None:
    """What is said there now, with where it is."""
    recording = session.get_one(Recording, near.recording)
    words = spoken.words_between(session, recording.id, near.start, near.end)
    if not words:
        return None
    return SaidOut(
        show=recording.episode.show.name,
        episode_id=recording.episode_id,
        episode=recording.episode.title,
        recording_id=recording.id,
        at=near.start,
        end=near.end,
        before="",
        words=written(words),
        after="",
    )


@api.post("/search/retype", responses={200: RetypedOut})
def retype_hits(body: RetypeHits):  # type: ignore[no-untyped-def]
    """Retype words wherever they were found: one step in the history of each edition, to be undone there."""
    by_recording: dict[str, list[HitField]] = {}
    for hit in body.hits:
        by_recording.setdefault(hit.recording_id, []).append(hit)
    jobs: list[str] = []
    episodes: set[str] = set()
    places = 0
    with context().workshop.home.database.write() as session:
        for recording_id, hits in by_recording.items():
            recording = session.get(Recording, recording_id)
            if recording:
                require(recording.episode.show_id, Right.WORDS)
            changes = _changes(session, recording, hits, body.text) if recording else ()
            if not (recording and changes):
                continue
            operation = Retype(changes)
            correct(context().workshop, session, recording, operation)
            post(session, "transcript", recording.episode_id, recording=recording.id, revision=recording.transcript_revision)
            jobs += start_fitting(session, operation)
            places += len(changes)
            episodes.add(recording.episode_id)
    for job in jobs:
        send(context().workshop.home, job)
    return reply(RetypedOut(places=places, episodes=len(episodes), missed=len(body.hits) - places))


def _changes(session: Session, recording: Recording, hits: list[HitField], text: str) -> tuple[Change, ...]:
    """What is changed, last first so that places before stay where they are; what reads otherwise by now is left alone."""
    transcript = context().workshop.home.transcripts.of(session, recording)
    changes: list[Change] = []
    for hit in sorted(hits, key=lambda hit: -hit.at):
        first, last = within(transcript, hit.at, hit.end)
        if " ".join(word.text for word in transcript.words[first:last]) != hit.words:
            continue
        try:
            change = retype(recording.id, transcript, hit.at, hit.end, text)
        except Problem:
            continue
        changes.append(change)
        transcript = put_in(transcript, change)
    return tuple(changes)
