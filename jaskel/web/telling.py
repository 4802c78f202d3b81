"""Whom a show tells of what is done."""

from __future__ import annotations

from dataclasses import asdict
from secrets import token_hex

from flask import Response

from jaskel.jobs.tell import Telling, send_all, telling_of
from jaskel.settings import STAND_IN
from jaskel.standins import mailbox
from jaskel.store.models import Show
from jaskel.web.context import context
from jaskel.web.resource import resource
from jaskel.web.schemas.common import ShowPath
from jaskel.web.schemas.telling import TellingFields, TellingOut
from jaskel.web.serializers import reply
from jaskel.web.shows import find_show

api = resource("telling", __name__)


@api.get("/shows/<show_id>/telling", responses={200: TellingOut})
def known(path: ShowPath):  # type: ignore[no-untyped-def]
    """Whom a show tells, and of what."""
    with context().workshop.home.database.read() as session:
        return reply(_out(find_show(session, path.show_id)))


@api.put("/shows/<show_id>/telling", responses={200: TellingOut})
def change(path: ShowPath, body: TellingFields):  # type: ignore[no-untyped-def]
    """Let a show tell these people."""
    with context().workshop.home.database.write() as session:
        show = find_show(session, path.show_id)
        secret = telling_of(show).secret or token_hex(16)
        wanted = Telling(tuple(dict.fromkeys(body.mail)), tuple(dict.fromkeys(body.calls)), tuple(body.kinds), secret)
        show.tell = {name: [*value] if isinstance(value, tuple) else value for name, value in asdict(wanted).items()}
        return reply(_out(show))


@api.post("/shows/<show_id>/telling/try", responses={204: None})
def try_it(path: ShowPath):  # type: ignore[no-untyped-def]
    """Tell everybody something now, to see whether it arrives."""
    with context().workshop.home.database.read() as session:
        show = find_show(session, path.show_id)
        wanted, name = telling_of(show), show.name
    facts = {
        "event": "try",
        "show": name,
        "episode": "",
        "episode_id": "",
        "said": f"This is how “{name}” tells you.",
        "files": [],
    }
    send_all(context().workshop, wanted, facts)
    return Response(status=204)


def _out(show: Show) -> TellingOut:
    known, mail = telling_of(show), context().workshop.settings.mail
    return TellingOut(
        mail=[*known.mail],
        calls=[*known.calls],
        kinds=[*known.kinds],  # type: ignore[list-item]
        secret=known.secret,
        can_mail=bool(mail),
        mailbox=f"{mailbox.PREFIX}/" if mail == STAND_IN else "",
    )
