"""Finding what was said in all shows, and retyping it wherever it was found."""

from __future__ import annotations

from sqlalchemy.orm import Session

from jaskel.core.operations import Retype
from jaskel.core.problem import Problem
from jaskel.core.retype import Change, put_in, retype, within
from jaskel.jobs.correct import correct
from jaskel.jobs.fit import start_fitting
from jaskel.jobs.queue import send
from jaskel.store import spoken
from jaskel.store.models import Recording
from jaskel.store.notices import post
from jaskel.web.context import context
from jaskel.web.resource import resource
from jaskel.web.schemas.library import HitField, RetypedOut, RetypeHits, SaidOut, SearchOut, SearchQuery
from jaskel.web.serializers import reply

api = resource("search", __name__)

MOST_IN_A_SHOW = 500


@api.get("/search", responses={200: SearchOut})
def search(query: SearchQuery):  # type: ignore[no-untyped-def]
    """Who said these words, in all shows or in one."""
    most = MOST_IN_A_SHOW if query.show else spoken.MOST_HITS
    with context().workshop.home.database.read() as session:
        found = spoken.search(session, query.words, query.show, whole=query.whole, voice=query.voice, most=most)
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
