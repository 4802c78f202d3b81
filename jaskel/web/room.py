"""Room on the disk: what episodes take, and clearing what can be made again."""

from __future__ import annotations

import shutil

from sqlalchemy import select

from jaskel.core.roles import Right
from jaskel.store.models import Episode
from jaskel.store.room import CLEARED, clear, room_of
from jaskel.web.context import context
from jaskel.web.gate import asking
from jaskel.web.resource import resource
from jaskel.web.schemas.common import EpisodePath
from jaskel.web.schemas.room import ClearedOut, EpisodeRoomOut, RoomOut
from jaskel.web.serializers import reply
from jaskel.web.shows import find_episode

api = resource("room", __name__)


@api.get("/room", responses={200: RoomOut})
def taken():  # type: ignore[no-untyped-def]
    """What each episode that one may change takes on the disk, the largest first, deleted ones too; and what is free."""
    home, person = context().workshop.home, asking()
    with home.database.read() as session:
        found = [
            EpisodeRoomOut(
                episode=each.id,
                title=each.title,
                show=each.show.name,
                deleted=each.deleted is not None,
                cleared=any(recording.state == CLEARED for recording in each.recordings),
                **vars(room_of(session, home.vault, each)),
            )
            for each in session.scalars(select(Episode))
            if Right.EDIT in person.rights_in(each.show_id)
        ]
    found.sort(key=lambda each: -(each.originals + each.made + each.exports))
    return reply(RoomOut(free=shutil.disk_usage(home.vault.root).free, episodes=found))


@api.post("/episodes/<episode_id>/clear", responses={200: ClearedOut})
def clear_episode(path: EpisodePath):  # type: ignore[no-untyped-def]
    """Delete what was made of the originals of an episode. It is made again when the episode is opened."""
    home = context().workshop.home
    with home.database.read() as session:
        find_episode(session, path.episode_id)
    free = clear(home.database, home.vault, path.episode_id)
    return reply(ClearedOut(bytes=free))
