"""Server-sent events: what happens elsewhere, told to every window as it happens."""

from __future__ import annotations

import json
import time
from collections.abc import Iterator

from flask import Response, request
from flask_openapi3 import APIBlueprint

from jaskel.store import notices
from jaskel.store.home import Home
from jaskel.web.context import context
from jaskel.web.schemas.work import NoticesQuery

api = APIBlueprint("notices", __name__, url_prefix="/api")

LOOK_EVERY = 0.2
SIGN_OF_LIFE = 10.0


@api.get("/notices")
def stream(query: NoticesQuery):  # type: ignore[no-untyped-def]
    """Events of an episode (or all): ``job``, ``recording``, ``transcript``, ``edition``, ``export``."""
    last = request.headers.get("Last-Event-ID", "")
    home = context().workshop.home
    events = _events(home, query.episode, int(last) if last.isdigit() else None)
    return Response(events, mimetype="text/event-stream", headers={"Cache-Control": "no-store", "X-Accel-Buffering": "no"})


def _events(home: Home, episode: str, seen: int | None) -> Iterator[str]:
    if seen is None:
        with home.database.read() as session:
            seen = notices.newest(session)
    # The number is sent at once, so that a window that is cut off right away still knows where to go on.
    yield f"id: {seen}\nevent: hello\ndata: {{}}\n\n"
    quiet_since = time.monotonic()
    while True:
        with home.database.read() as session:
            new = notices.since(session, seen)
        for notice in new:
            seen = notice.id
            if episode in ("", notice.episode_id):
                yield f"id: {seen}\nevent: {notice.kind}\ndata: {json.dumps(notice.facts)}\n\n"
        if new:
            quiet_since = time.monotonic()
        elif time.monotonic() - quiet_since > SIGN_OF_LIFE:
            quiet_since = time.monotonic()
            yield ": still here\n\n"
        time.sleep(LOOK_EVERY)
