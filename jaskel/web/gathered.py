"""The gathering table: the selects of a whole show, searched, put in an order, and made into an edition."""

from __future__ import annotations

from dataclasses import replace
from functools import lru_cache

import numpy as np
from flask import Response

from jaskel.core.marks.splice import CROSSFADE
from jaskel.core.operations import Become
from jaskel.core.problem import Missing, Problem
from jaskel.core.source import Recorded
from jaskel.core.timebase import RATE
from jaskel.media.sound import wav_bytes
from jaskel.speech.meaning import meanings_of
from jaskel.store.gathered import edition_of, gathered
from jaskel.store.models import EditionRow, Recording, SessionRow
from jaskel.store.notices import post
from jaskel.store.sessions import shown_name
from jaskel.web.context import context
from jaskel.web.resource import binary, kept, resource
from jaskel.web.schemas.common import EpisodePath, ShowPath
from jaskel.web.schemas.gathered import GatheredListOut, GatheredOut, GatherQuery, NewGathered, SoundQuery, StretchPath
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
        ]
        exact = [each for each in found if wanted in each.text.casefold() or wanted in each.select.note.casefold()]
    if wanted and query.meaning:
        exact += _meant(query.text, [each for each in found if each not in exact])
    return reply(GatheredListOut(gathered=exact))


LONGEST_HEARD = 120 * RATE
"""Of a longer stretch its beginning is heard."""


@api.get("/stretches/<name>/sound", responses=binary("audio/wav"))
def hear(path: StretchPath, query: SoundQuery):  # type: ignore[no-untyped-def]
    """What a stretch of a recording or session sounds like by itself, as recorded."""
    workshop = context().workshop
    with workshop.home.database.read() as session:
        if not (session.get(Recording, path.name) or session.get(SessionRow, path.name)):
            raise Missing("recording-gone", "The recording of this was removed meanwhile. Take it off the table.")
    end = min(query.end, query.start + LONGEST_HEARD)
    if query.start >= end:
        raise Problem("nothing-there", "This ends before it begins. Trim it again.")
    return kept(Response(wav_bytes(workshop.heard(Recorded(path.name), query.start, end)), mimetype="audio/wav"))


ALIKE = 0.3
"""So alike in meaning to what is looked for, a select is shown."""


def _meant(wanted: str, selects: list[GatheredOut]) -> list[GatheredOut]:
    """Those that mean something like what is wanted, the nearest first."""
    asked = _meaning(wanted)
    alike = [float(_meaning(each.text) @ asked) if each.text else 0.0 for each in selects]
    order = sorted(range(len(selects)), key=lambda at: -alike[at])
    return [selects[at] for at in order if alike[at] >= ALIKE]


@lru_cache(4096)
def _meaning(text: str) -> np.ndarray:
    meant: np.ndarray = meanings_of([text])[0]
    return meant


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
