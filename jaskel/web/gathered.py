"""The gathering table: the selects of a whole show, searched, put in an order, and made into an edition."""

from __future__ import annotations

from dataclasses import replace

from jaskel.core.marks.splice import CROSSFADE
from jaskel.core.operations import Become
from jaskel.core.problem import Problem
from jaskel.store.gathered import edition_of, gathered
from jaskel.store.models import EditionRow
from jaskel.store.notices import post
from jaskel.store.sessions import shown_name
from jaskel.web.context import context
from jaskel.web.resource import resource
from jaskel.web.schemas.common import EpisodePath, ShowPath
from jaskel.web.schemas.gathered import GatheredListOut, GatheredOut, GatherQuery, NewGathered
from jaskel.web.schemas.reuse import MadeOut
from jaskel.web.serializers import reply, select_out
from jaskel.web.shows import find_episode, find_show

api = resource("gathered", __name__)


@api.get("/shows/<show_id>/selects", responses={200: GatheredListOut})
def gather(path: ShowPath, query: GatherQuery):  # type: ignore[no-untyped-def]
    """The selects of a show, by everybody, with what is said in them."""
    home = context().workshop.home
    with home.database.read() as session:
        show = find_show(session, path.show_id)
        names = {voice.id: shown_name(voice) for voice in show.voices}
        wanted = query.text.casefold()
        found = [
            GatheredOut(
                select=select_out(each.mark),
                episode_id=each.episode.id,
                episode=each.episode.title,
                text=each.text,
                voice=names.get(each.voice or ""),
                before=each.before,
                after=each.after,
            )
            for each in gathered(session, show.id, home)
            if (not query.colour or each.mark.colour == query.colour)
            and (not query.episode or each.episode.id == query.episode)
            and (not query.folder or each.episode.folder == query.folder)
            and (wanted in each.text.casefold() or wanted in each.mark.note.casefold())
        ]
        return reply(GatheredListOut(gathered=found))


@api.post("/episodes/<episode_id>/gathered", responses={201: MadeOut})
def make(path: EpisodePath, body: NewGathered):  # type: ignore[no-untyped-def]
    """Make an edition of what was gathered, from any episodes of any shows, in its order."""
    home = context().workshop.home
    stretches = [(each.recording, each.start, each.end) for each in body.stretches]
    if any(start >= end for _, start, end in stretches):
        raise Problem("nothing-there", "One of the stretches ends before it begins. Trim it again.")
    with home.database.write() as session:
        episode = find_episode(session, path.episode_id)
        edition = replace(edition_of(session, home, stretches, crossfade=CROSSFADE), shape=body.shape)
        row = EditionRow(name=body.name, crossfade=CROSSFADE, episode_id=episode.id)
        session.add(row)
        session.flush()
        home.editions.arrive(session, row.id, Become(edition), f"began as {len(stretches)} gathered stretches")
        post(session, "recording", episode.id)
        return reply(MadeOut(editions=[row.id]), 201)
