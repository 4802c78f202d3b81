"""Who is here: the people who have an edition open, and where on its page they are.

Windows say so every few seconds, and hear of the others by the same answer. It is kept in memory alone: what is a few seconds
old says nothing any more.
"""

from __future__ import annotations

import time

from jaskel.core.present import initials
from jaskel.web.context import context
from jaskel.web.gate import ANYBODY, asking
from jaskel.web.resource import resource
from jaskel.web.schemas.accounts import HereIn, PresenceOut, PresentOut
from jaskel.web.schemas.common import EditionPath
from jaskel.web.serializers import reply

api = resource("presence", __name__)


@api.post("/editions/<edition_id>/here", responses={200: PresenceOut})
def here(path: EditionPath, body: HereIn):  # type: ignore[no-untyped-def]
    """Say where one is in an edition, and hear who else is there."""
    person = asking()
    if person is ANYBODY:
        return reply(PresenceOut(others=[]))
    others = context().presence.here(path.edition_id, person.id, person.name, body.at, time.monotonic())
    return reply(PresenceOut(others=[PresentOut(name=o.name, initials=initials(o.name), at=o.at) for o in others]))
