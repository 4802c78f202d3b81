"""How a show sounds, kept from one episode and given to the next."""

from __future__ import annotations

from dataclasses import replace

from flask import Response
from pydantic import BaseModel

from jaskel.core.operations import SetMarks, Telling
from jaskel.core.problem import Missing, Problem
from jaskel.jobs.loudness import start_measuring
from jaskel.jobs.process import start_processing
from jaskel.jobs.queue import send
from jaskel.store.models import EditionRow, Show
from jaskel.store.notices import post
from jaskel.store.way import Way, as_the_show_does, bring_beds, keep_way, voices_in, way_from, way_of
from jaskel.web.context import context, show_of
from jaskel.web.gate import author_of
from jaskel.web.head import head_of
from jaskel.web.resource import resource
from jaskel.web.schemas.common import EditionPath, Name, ShowPath
from jaskel.web.schemas.editions import HeadOut, RevisionIn
from jaskel.web.schemas.sound import ChainOut, NamedChain, WayOut, chain_fields, chain_of
from jaskel.web.serializers import reply
from jaskel.web.shows import find_show

api = resource("way", __name__)


class ChainPath(BaseModel):
    show_id: str
    name: Name


@api.get("/shows/<show_id>/sound", responses={200: WayOut})
def get_way(path: ShowPath):  # type: ignore[no-untyped-def]
    """What a show keeps of how it sounds."""
    with context().workshop.home.database.read() as session:
        return _out(way_of(find_show(session, path.show_id)))


def _out(way: Way) -> Response:
    known = [ChainOut(name=name, chain=chain_fields(chain)) for name, chain in sorted(way.chains.items())]
    return reply(WayOut(chains=known, voices=[*way.voices], target=way.target, beds=len(way.beds)))


@api.post("/shows/<show_id>/chains", responses={200: WayOut})
def keep_chain(path: ShowPath, body: NamedChain):  # type: ignore[no-untyped-def]
    """Keep a chain, or one processor, under a name; one of that name is replaced."""
    with context().workshop.home.database.write() as session:
        show = find_show(session, path.show_id)
        way = way_of(show)
        way = replace(way, chains={**way.chains, body.name: chain_of(body.chain)})
        return _keep(show, way)


@api.delete("/shows/<show_id>/chains/<name>", responses={200: WayOut})
def delete_chain(path: ChainPath):  # type: ignore[no-untyped-def]
    """Delete a chain that is kept. Tracks that go through it stay as they are."""
    with context().workshop.home.database.write() as session:
        show = find_show(session, path.show_id)
        way = way_of(show)
        if path.name not in way.chains:
            raise Missing("no-chain", f"There is no chain called “{path.name}” in this show any more.")
        return _keep(show, replace(way, chains={name: chain for name, chain in way.chains.items() if name != path.name}))


def _keep(show: Show, way: Way) -> Response:
    keep_way(show, way)
    return _out(way)


@api.put("/editions/<edition_id>/sound", responses={200: WayOut})
def keep(path: EditionPath):  # type: ignore[no-untyped-def]
    """Keep how an edition sounds as the show's way: the chains of its voices, its loudness, its opening and ending."""
    editions = context().workshop.home.editions
    with context().workshop.home.database.write() as session:
        opened = editions.open(session, path.edition_id)
        show = show_of(session, opened)
        voices = voices_in(session, opened.edition, context().transcripts(session, opened))
        way = way_from(session, way_of(show), opened.edition, voices)
        return _keep(show, way)


@api.post("/editions/<edition_id>/sound", responses={200: HeadOut})
def give(path: EditionPath, body: RevisionIn):  # type: ignore[no-untyped-def]
    """Let an edition sound as its show does, as one step: chains by voices, loudness, opening and ending."""
    home = context().workshop.home
    author = author_of(body)
    with home.database.write() as session:
        opened = home.editions.open(session, path.edition_id)
        row = session.get_one(EditionRow, path.edition_id)
        way = way_of(row.episode.show)
        voices = voices_in(session, opened.edition, context().transcripts(session, opened))
        changes = as_the_show_does(way, opened.edition.marks, voices, bring_beds(session, way, row.episode))
        if not changes:
            raise Problem("nothing-changed", "It sounds as the show does already, or the show has not kept how it sounds.")
        operation = SetMarks.of(changes, "let it sound as the show does")
        done = home.editions.perform(session, opened.id, body.revision, operation, Telling(), author)
        jobs = [
            start_processing(home, session, done.id, done.edition),
            start_measuring(session, done.id, context().plan(session, done).length) if way.target is not None else None,
        ]
        post(session, "recording", row.episode_id)
        head = head_of(session, done, author)
        post(session, "edition", row.episode_id, id=done.id, revision=done.revision)
    for job in jobs:
        if job:
            send(home, job)
    return reply(head)
