"""Episodes as one archive: brought in from another Jaskel. They are written by Export, as a form."""

from __future__ import annotations

from typing import BinaryIO, cast

from flask import request

from jaskel.core.problem import Problem
from jaskel.core.roles import Right, Role
from jaskel.jobs.archive import unpack
from jaskel.jobs.queue import send
from jaskel.store.accounts import set_role
from jaskel.store.models import Episode, Member
from jaskel.web.context import context
from jaskel.web.gate import ANYBODY, asking
from jaskel.web.resource import resource
from jaskel.web.schemas.archives import ArchiveQuery, BroughtEpisodeOut
from jaskel.web.serializers import reply

api = resource("archives", __name__)


@api.post("/archives", responses={201: BroughtEpisodeOut})
def bring(query: ArchiveQuery):  # type: ignore[no-untyped-def]
    """Bring in the episode of an archive, which is the body of the request; its recordings are then read again."""
    home, person = context().workshop.home, asking()
    with home.vault.receive(cast(BinaryIO, request.stream), query.name, request.content_length) as received:
        if not received.size:
            raise Problem("no-archive", f"“{query.name}” is empty. Choose an archive that was made by Export.")
        episode_id, jobs = unpack(home, received.path, lambda show: Right.EDIT in person.rights_in(show))
    with home.database.write() as session:
        episode = session.get_one(Episode, episode_id)
        # Of a show that came with it, whoever brought it is the owner.
        if person is not ANYBODY and session.get(Member, (episode.show_id, person.id)) is None and not person.keeper:
            set_role(session, episode.show_id, person.id, Role.OWNER)
        told = BroughtEpisodeOut(episode=episode.id, show=episode.show.name, title=episode.title)
    for job in jobs:
        send(home, job)
    return reply(told, 201)
