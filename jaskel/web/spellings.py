"""House spellings of a show: its list, proposals for doubtful words, and putting an episode right by it."""

from __future__ import annotations

from flask import Response
from sqlalchemy import select

from jaskel.core.problem import Missing, Problem
from jaskel.core.retype import within
from jaskel.core.source import Recorded
from jaskel.jobs.queue import add_job, send
from jaskel.jobs.spell import spellings_of, style_of
from jaskel.store.models import EditionRow, Episode, SpellingRow
from jaskel.store.notices import post
from jaskel.store.sessions import transcripts_in
from jaskel.web.context import context
from jaskel.web.resource import resource
from jaskel.web.schemas.common import EditionPath, EpisodePath, ShowPath
from jaskel.web.schemas.editions import RangeField
from jaskel.web.schemas.texts import NewSpelling, ProposalsOut, SpellingOut, SpellingPath
from jaskel.web.schemas.work import JobOut
from jaskel.web.serializers import job_out, reply, spelling_out
from jaskel.web.shows import find_episode, find_show

api = resource("spellings", __name__)


@api.post("/shows/<show_id>/spellings", responses={201: SpellingOut})
def add(path: ShowPath, body: NewSpelling):  # type: ignore[no-untyped-def]
    """Add a term, or what it is misheard as to one that is there."""
    with context().workshop.home.database.write() as session:
        show = find_show(session, path.show_id)
        rows = session.scalars(select(SpellingRow).where(SpellingRow.show_id == show.id))
        row = next((known for known in rows if known.term.casefold() == body.term.casefold()), None)
        if row is None:
            row = SpellingRow(show_id=show.id, term=body.term, heard=[])
            session.add(row)
        row.term = body.term
        row.heard = [*dict.fromkeys([*row.heard, *(h for h in body.heard if h and h != body.term)])]
        session.flush()
        for episode in session.scalars(select(Episode.id).where(Episode.show_id == show.id)):
            post(session, "recording", episode)
        return reply(spelling_out(row), 201)


@api.delete("/spellings/<spelling_id>", responses={204: None})
def remove(path: SpellingPath):  # type: ignore[no-untyped-def]
    """Take a term off the list. What it mended stays."""
    with context().workshop.home.database.write() as session:
        row = session.get(SpellingRow, path.spelling_id)
        if row is None:
            raise Missing("no-spelling", "This term is not in the list any more.")
        for episode in session.scalars(select(Episode.id).where(Episode.show_id == row.show_id)):
            post(session, "recording", episode)
        session.delete(row)
    return Response(status=204)


@api.post("/episodes/<episode_id>/spell", responses={202: JobOut})
def spell(path: EpisodePath):  # type: ignore[no-untyped-def]
    """Put the words of an episode right by the list; a step on its page that can be undone."""
    home = context().workshop.home
    with home.database.write() as session:
        episode = find_episode(session, path.episode_id)
        if not spellings_of(session, episode.show_id) and style_of(episode.show) == "heard":
            raise Problem(
                "no-spellings",
                "The show has no house spellings yet. Add a name or a term, or say how numbers are written.",
            )
        done = sum(recording.transcript_state == "done" for recording in episode.recordings)
        job = add_job(session, "spell", episode.id, episode.id, done)
    send(home, job.id)
    return reply(job_out(job), 202)


@api.get("/editions/<edition_id>/proposals", responses={200: ProposalsOut})
def proposals(path: EditionPath, query: RangeField):  # type: ignore[no-untyped-def]
    """House spellings that the words between two laid times might be meant for, the likeliest first."""
    from jaskel.speech.house import house

    home = context().workshop.home
    with home.database.read() as session:
        opened = home.editions.open(session, path.edition_id)
        spellings = spellings_of(session, session.get_one(EditionRow, path.edition_id).episode.show_id)
        transcripts = transcripts_in(session, opened.edition.recordings, home.transcripts)
    if not spellings:
        return reply(ProposalsOut(terms=[]))
    for source, start, end, laid in opened.edition.runs:
        if laid <= query.begin < laid + end - start and isinstance(source, Recorded):
            shift, said = start - laid, transcripts[source.recording]
            words = said.words[slice(*within(said, query.begin + shift, query.end + shift))]
            return reply(ProposalsOut(terms=house(spellings).proposals(words) if words else []))
    return reply(ProposalsOut(terms=[]))
