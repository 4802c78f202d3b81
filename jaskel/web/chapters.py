"""Chapters: named parts of an episode, seen in all its editions."""

from __future__ import annotations

from dataclasses import replace

from flask import Response
from sqlalchemy.orm import Session

from jaskel.core.marks.anchor import Place
from jaskel.core.marks.chapter import Chapter
from jaskel.core.problem import Missing, Problem
from jaskel.core.source import Recorded
from jaskel.core.timebase import Ticks
from jaskel.jobs.meanings import start_reading
from jaskel.jobs.queue import send
from jaskel.store.material import marks_of, set_marks
from jaskel.store.models import new_id
from jaskel.web.context import context
from jaskel.web.gate import author_of
from jaskel.web.resource import resource
from jaskel.web.schemas.common import EditionPath, EpisodePath
from jaskel.web.schemas.editions import LookedFor
from jaskel.web.schemas.notes import MarkPath
from jaskel.web.schemas.reuse import ChapterChange, ChapterOut, NewChapter, ProposeChapters
from jaskel.web.schemas.work import JobOut
from jaskel.web.serializers import chapter_out, job_out, reply
from jaskel.web.shows import find_episode

api = resource("chapters", __name__)


@api.post("/episodes/<episode_id>/chapters", responses={201: ChapterOut})
def begin(path: EpisodePath, body: NewChapter):  # type: ignore[no-untyped-def]
    """Begin a chapter at a place of an edition."""
    with context().workshop.home.database.write() as session:
        episode = find_episode(session, path.episode_id)
        chapter = Chapter(new_id(), (_place(session, body.edition, body.laid),), body.title)
        set_marks(session, episode, {chapter.id: chapter}, f"began the chapter “{chapter.title}”", author_of(body))
        return reply(chapter_out(chapter), 201)


@api.patch("/episodes/<episode_id>/chapters/<mark_id>", responses={200: ChapterOut})
def change(path: MarkPath, body: ChapterChange):  # type: ignore[no-untyped-def]
    """Give a chapter another title, or let it begin elsewhere."""
    with context().workshop.home.database.write() as session:
        episode = find_episode(session, path.episode_id)
        chapter = replace(_found(marks_of(episode).marks.get(path.mark_id)), by_hand=True)
        told = f"moved the chapter “{chapter.title}”"
        if body.edition is not None and body.laid is not None:
            chapter = replace(chapter, anchors=(_place(session, body.edition, body.laid),))
        if body.title is not None:
            told = f"named a chapter “{body.title}”"
            chapter = replace(chapter, title=body.title)
        set_marks(session, episode, {chapter.id: chapter}, told, author_of(body))
        return reply(chapter_out(chapter))


@api.delete("/episodes/<episode_id>/chapters/<mark_id>", responses={204: None})
def join(path: MarkPath, query: LookedFor):  # type: ignore[no-untyped-def]
    """Join a chapter to the one before it; undo brings it back."""
    with context().workshop.home.database.write() as session:
        episode = find_episode(session, path.episode_id)
        chapter = _found(marks_of(episode).marks.get(path.mark_id))
        told = f"joined the chapter “{chapter.title}” to the one before it"
        set_marks(session, episode, {chapter.id: None}, told, author_of(query))
    return Response(status=204)


@api.post("/editions/<edition_id>/chapters", responses={202: JobOut})
def propose(path: EditionPath, body: ProposeChapters):  # type: ignore[no-untyped-def]
    """Let chapters be found where the subject changes; they take the place of those that were found before."""
    home = context().workshop.home
    with home.database.write() as session:
        home.editions.open(session, path.edition_id)
        job = start_reading(session, path.edition_id, body.an_hour, author_of(body))
    send(home, job.id)
    return reply(job_out(job), 202)


def _place(session: Session, edition_id: str, laid: Ticks) -> Place:
    edition = context().workshop.home.editions.open(session, edition_id).edition
    run = next((run for run in edition.runs if run.laid <= laid < run.laid + run.end - run.start), None)
    if run is None or not isinstance(run.source, Recorded):
        raise Problem("nothing-there", "There is no recorded sound here with which a chapter could begin. Choose a word.")
    return Place(run.source.recording, run.start + laid - run.laid)


def _found(chapter: object) -> Chapter:
    if not isinstance(chapter, Chapter):
        raise Missing("no-chapter", "This chapter was joined to another one meanwhile.")
    return chapter
