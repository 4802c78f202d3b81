"""Server-sent events: what happens elsewhere, told to every window as it happens."""

from __future__ import annotations

import json

from flask import Response, request

from jaskel.web.gate import signed_in_as
from jaskel.web.resource import binary, resource
from jaskel.web.schemas.work import NoticesQuery

api = resource("notices", __name__)

FOLLOW = "X-Jaskel-Follow"
"""Names the notices that are to follow an answer; :mod:`jaskel.web.server` sends them, and takes this header off."""

LARGEST = 2**62


@api.get("/notices", responses=binary("text/event-stream"))
def stream(query: NoticesQuery):  # type: ignore[no-untyped-def]
    """Events of an episode (or all): ``job``, ``recording``, ``transcript``, ``edition``, ``export``."""
    last = request.headers.get("Last-Event-ID", "")
    seen = min(int(last), LARGEST) if last.isascii() and last.isdigit() and len(last) < 20 else None
    wanted = {
        FOLLOW: json.dumps({"episode": query.episode, "seen": seen, "sign_in": signed_in_as()}),
        "Cache-Control": "no-store",
    }
    return Response(mimetype="text/event-stream", headers=wanted)
