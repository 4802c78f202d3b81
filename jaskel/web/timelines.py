"""Timelines that were made elsewhere, brought back as editions."""

from __future__ import annotations

from collections.abc import Iterator

from flask import request
from sqlalchemy.orm import Session

from jaskel.core.edition import Edition, Piece, merged
from jaskel.core.marks.splice import CROSSFADE
from jaskel.core.operations import Become
from jaskel.core.problem import Problem
from jaskel.core.source import Recorded
from jaskel.jobs.export import file_names
from jaskel.media.timeline_in import LONGEST, Cut, read_timeline
from jaskel.store.models import EditionRow, Episode, Recording, TrackRow
from jaskel.store.notices import post
from jaskel.store.sessions import session_in
from jaskel.web.context import context
from jaskel.web.resource import resource
from jaskel.web.schemas.common import EpisodePath
from jaskel.web.schemas.destinations import BroughtTimelineOut, TimelineQuery
from jaskel.web.serializers import reply
from jaskel.web.shows import find_episode

api = resource("timelines", __name__)


@api.post("/episodes/<episode_id>/timelines", responses={201: BroughtTimelineOut})
def bring(path: EpisodePath, query: TimelineQuery):  # type: ignore[no-untyped-def]
    """Make an edition of a timeline (.otio, the body of the request) that was made of the media of this episode."""
    content = request.stream.read(LONGEST + 1)
    home = context().workshop.home
    with home.database.read() as session:
        names = _names(find_episode(session, path.episode_id))
    read = read_timeline(content, names)
    with home.database.write() as session:
        episode = find_episode(session, path.episode_id)
        pieces = tuple(merged(_pieces(session, [(names[_like(names, cut.file)], cut) for cut in read.cuts])))
        if not pieces:
            raise Problem("nothing-there", "Nothing of these recordings lies where the timeline says. Is it of other takes?")
        row = EditionRow(name=query.name or read.title[:80], crossfade=CROSSFADE, episode_id=episode.id)
        session.add(row)
        session.flush()
        told = f"began as the timeline “{read.title[:80]}”"
        home.editions.arrive(session, row.id, Become(Edition(pieces, crossfade=CROSSFADE)), told)
        post(session, "recording", episode.id)
        return reply(BroughtTimelineOut(edition=row.id, cuts=len(read.cuts), left_out=[*read.left_out]), 201)


def _names(episode: Episode) -> dict[str, str]:
    """The recordings of an episode by the names their files have in timelines, and by those they came under."""
    ready = [each for each in episode.recordings if each.state == "ready"]
    by_name = {each.name: each.id for each in ready}
    return by_name | {name: id for id, name in file_names(ready).items()}


def _like(names: dict[str, str], file: str) -> str:
    return next(name for name in names if name.casefold() == file.casefold())


def _pieces(session: Session, cuts: list[tuple[str, Cut]]) -> Iterator[Piece]:
    """Pieces of the recordings, or of the sessions they are part of, as far as those reach."""
    for recording, cut in cuts:
        track = session.get(TrackRow, recording)
        known = session_in(session, track.session_id) if track and track.session.state == "joined" else None
        mine = next((each for each in known.tracks if each.recording == recording), None) if known else None
        if known and mine and track:
            start, end = max(0, mine.to_session(cut.start)), min(known.length, mine.to_session(cut.end))
            name = track.session_id
        else:
            name, start, end = recording, cut.start, min(cut.end, _length(session, recording))
        if start < end:
            yield Piece(Recorded(name), start, end)


def _length(session: Session, recording: str) -> int:
    return session.get_one(Recording, recording).length
