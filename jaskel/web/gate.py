"""The gate: who asks, what they ask about, and whether they may. Every request passes it before anything else looks at it.

A Jaskel of one person lets everything through. With accounts, what a request needs is told by its endpoint, in the tables
below; what is not named there needs :attr:`Right.READ` to look and :attr:`Right.EDIT` to change. Which show it is about is
told by the ids in its address. All other ids in it, in the query and the body, must be of shows its sender sees too, or be on
the page they work on: so nobody reaches into a show by pasting from it.
"""

from __future__ import annotations

import re
from collections.abc import Iterable
from typing import Protocol

from flask import Flask, Response, g, has_request_context, request
from flask_limiter import Limiter
from flask_limiter.util import get_remote_address
from flask_login import LoginManager, UserMixin, current_user
from sqlalchemy import select
from sqlalchemy.orm import Session

from jaskel.core.problem import Missing, Problem
from jaskel.core.roles import OF_JOBS, Right, refusal, right_for
from jaskel.settings import Settings
from jaskel.store.accounts import SIGNED_IN_FOR, Anybody, Found, Person, digest_of, found_by, happened, person_by
from jaskel.store.editions import Author
from jaskel.store.models import EditionRow, Job, Show
from jaskel.web.context import context
from jaskel.web.log import Line, line_of

ANYBODY = Anybody("", "")
"""Who sits at a Jaskel of one person."""

OPEN = frozenset(
    (
        "page", "page file", "static", "accounts.me", "accounts.sign_in", "accounts.look", "accounts.join", "accounts.enter",
        "health.healthz", "health.readyz", "health.metrics",
    )
)  # fmt: skip
"""What is answered without signing in: the page itself, and the ways in."""

SIGNED_IN = frozenset(
    (
        "accounts.sign_out", "accounts.sign_out_everywhere", "accounts.change_password",
        "accounts.new_second_factor", "accounts.set_second_factor", "accounts.take_second_factor_off", "archives.begin",
        "archives.progress", "archives.go_on", "archives.bring", "archives.unpacking", "archives.give_up",
        "openapi.openapi", "openapi.doc_url", "openapi.static",
        "gathered.hear", "history.compare", "house_captions.sample", "house_style.get_picture",
        "notices.stream", "pictures.preview", "pictures.search", "room.taken",
        "search.index", "search.retype_hits", "search.search", "search.search_by_meaning",
        "shows.list_shows", "shows.make_show", "sounds.choose", "sounds.get_file", "sounds.listed",
        "strips.listed", "told.read", "told.tell", "weights.listed", "work.forms",
    )
)  # fmt: skip
"""What is about no show, and answered for everybody with an account. What they show of shows is what their sender sees."""

GUARDED = frozenset(("weights.begin", "weights.check", "weights.remove", "weights.send"))
"""What changes all of this Jaskel: for who keeps it, signed in with a second factor."""

KEEPERS = GUARDED | {"shows.add_demo"}
"""What is about all of this Jaskel, and done by who keeps it."""

NEEDS: dict[str, Right] = {
    **dict.fromkeys(
        (
            "editions.get_edition", "editions.get_page", "editions.get_place", "listening.get_plan", "listening.get_blocks",
            "listening.get_sound", "shows.get_episode", "presence.here",
        ),
        Right.LISTEN,
    ),
    **dict.fromkeys(
        ("notes.write", "notes.change", "notes.remove", "notes.answer", "editions.undo", "editions.redo"), Right.NOTE
    ),
    "editions.copy": Right.READ,
    "work.export": Right.EXPORT_TEXT,
    **dict.fromkeys(
        (
            "recordings.tell_voices_apart", "recordings.transcribe", "spellings.add", "spellings.remove", "spellings.spell",
            "texts.bring", "texts.remove", "texts.restore", "texts.take", "voices.merge", "voices.name",
        ),
        Right.WORDS,
    ),
    **dict.fromkeys(("captions.compare", "captions.read_second"), Right.CAPTIONS),
    **dict.fromkeys(("destinations.passed", "work.remove", "work.restore"), Right.EXPORT),
    **dict.fromkeys(
        ("accounts.invite", "accounts.take_back", "accounts.give_role", "accounts.take_out", "accounts.log"), Right.OWN
    ),
}  # fmt: skip
"""What endpoints need, where that is not READ to look and EDIT to change."""

AT_JOBS = frozenset(("work.cancel", "work.pause", "work.first", "work.retry"))

ID = re.compile(r"(?<![0-9a-f])[0-9a-f]{12}(?![0-9a-f])")

MOST_REQUESTS = "6000 per minute"
"""What one account may ask, with many windows open: far more than pages do, less than takes a server from others."""


def _sender() -> str:
    """Who is counted: an account, or the address of who has not signed in."""
    return asking().id or get_remote_address()


limiter = Limiter(
    _sender,
    application_limits=[lambda: MOST_REQUESTS],
    application_limits_exempt_when=lambda: asking() is ANYBODY,
    storage_uri="memory://",
    strategy="moving-window",
)
"""Counts what each account asks, and tries at passwords and links for each address they come from."""

GUESSES = "10 per minute; 60 per hour"
"""Tries that one address has at passwords and secrets of links."""


class NotSignedIn(Problem):
    """Nobody is signed in."""


class NotAllowed(Problem):
    """Somebody is, but may not."""


class SignedIn(UserMixin):  # type: ignore[misc]
    """What flask-login keeps of a browser that is signed in: the secret in its cookie, and whose it is."""

    def __init__(self, secret: str, person: Person) -> None:
        self.id = secret
        self.person = person


def asking() -> Person:
    """Who sends this request."""
    if not has_request_context() or not context().workshop.settings.team:
        return ANYBODY
    return current_user.person if current_user.is_authenticated else Person("", "")


def signed_in_as() -> str:
    """The digest of the secret this browser is signed in with; empty where there are no accounts."""
    return "" if asking() is ANYBODY else digest_of(current_user.id)


class Said(Protocol):
    """What a request says of its sender."""

    who: str
    window: str


def author_of(said: Said) -> Author:
    """Whose step it is that a request asks for: the account's, or who the window says it is."""
    person = asking()
    return Author(said.who, said.window) if person is ANYBODY else Author(person.name, person.id)


def sees(show_id: str) -> bool:
    """Whether the sender of this request sees a show."""
    return asking().sees(show_id)


def looked_through(session: Session, wanted: str = "") -> list[str] | None:
    """The shows of which this request may be told: that which is ``wanted``, else all; None stands for all there are."""
    if asking() is ANYBODY:
        return [wanted] if wanted else None
    return [each for each in session.scalars(select(Show.id)) if sees(each) and wanted in ("", each)]


def require(show_id: str, right: Right) -> None:
    """Refuse what the sender of this request may not do in a show.

    Raises
    ------
    NotAllowed
    """
    person = asking()
    if right not in person.rights_in(show_id):
        raise NotAllowed("not-allowed-to", refusal(person.role_in(show_id), right))


def watch(app: Flask, settings: Settings) -> None:
    """Let only those into ``app`` who may, where Jaskel has accounts."""
    limiter.init_app(app)
    if not settings.team:
        return
    app.config.update(
        SECRET_KEY=settings.secret(),
        SESSION_COOKIE_NAME="__Host-jaskel" if settings.is_secure else "jaskel",
        SESSION_COOKIE_HTTPONLY=True,
        SESSION_COOKIE_SAMESITE="Strict",
        SESSION_COOKIE_SECURE=settings.is_secure,
        PERMANENT_SESSION_LIFETIME=SIGNED_IN_FOR,
    )
    manager = LoginManager(app)
    manager.session_protection = None  # sign-ins are rows that end; an address that changes ends none
    manager.user_loader(_signed_in)
    app.before_request(_check)
    app.after_request(_write_down)


def _signed_in(secret: str) -> SignedIn | None:
    with context().workshop.home.database.read() as session:
        person = person_by(session, digest_of(secret))
    return SignedIn(secret, person) if person else None


def _check() -> None:
    endpoint = request.endpoint or ""
    if endpoint in OPEN or not endpoint or _is_stand_in(endpoint):
        return
    if not current_user.is_authenticated:
        raise NotSignedIn("not-signed-in", "You are not signed in (any more). Sign in, and repeat this; nothing is lost.")
    with context().workshop.home.database.read() as session:
        in_address = ID.findall(request.path)
        found = found_by(session, {*in_address, *_ids_beside()})
        _admit(session, current_user.person, endpoint, in_address, found)
        g.happens = line_of(session, endpoint, in_address, found)


def _admit(session: Session, person: Person, endpoint: str, in_address: list[str], found: dict[str, Found]) -> None:
    if endpoint in KEEPERS:
        if not person.keeper:
            raise NotAllowed("not-allowed-to", "Only who keeps this Jaskel can do that. Ask them to.")
        if endpoint in GUARDED and not person.second:
            raise NotAllowed(
                "second-factor-needed", "This needs a second factor. Set one up in the menu under your name first."
            )
    elif endpoint in SIGNED_IN:
        if person.is_guest and endpoint != "accounts.sign_out":
            raise NotAllowed("not-allowed-to", refusal(person.role_in(person.show), Right.READ))
    else:
        about = next((found[each] for each in in_address if each in found), None)
        if about is None and endpoint in AT_JOBS and person.keeper:
            return  # work that is for all of Jaskel
        if about is None:
            raise Missing("not-there", "This is not there any more. Go back to the library.")
        right = _needed(session, endpoint)
        if right not in person.rights_in(about.show):
            raise NotAllowed("not-allowed-to", refusal(person.role_in(about.show), right))
        if person.is_guest:
            _keep_to_edition(person, endpoint, found)
    foreign = {name: each for name, each in found.items() if not person.sees(each.show) and not person.is_guest}
    if foreign and not _on_page(session, in_address, found).issuperset(foreign):
        raise Missing("not-there", "This is not there any more. Go back to the library.")


def _ids_beside() -> Iterable[str]:
    """The ids in a request that are not in its path."""
    yield from ID.findall(request.query_string.decode("latin1"))
    if request.mimetype == "application/json":
        yield from ID.findall(request.get_data(cache=True).decode("latin1"))


def _needed(session: Session, endpoint: str) -> Right:
    if endpoint == "editions.perform":
        asked = request.get_json(silent=True)
        operation = asked.get("operation") if isinstance(asked, dict) else None
        kind = operation.get("kind") if isinstance(operation, dict) else None
        return right_for(kind if isinstance(kind, str) else "")
    if endpoint == "shows.change_show":
        asked = request.get_json(silent=True)
        return Right.OWN if isinstance(asked, dict) and "deleted" in asked else Right.EDIT
    if endpoint in AT_JOBS:
        job = session.get(Job, (request.view_args or {}).get("job_id", ""))
        return Right(job.details.get("needs", OF_JOBS.get(job.kind, Right.EDIT))) if job else Right.EDIT
    return NEEDS.get(endpoint) or (Right.READ if request.method in ("GET", "HEAD", "OPTIONS") else Right.EDIT)


def _keep_to_edition(person: Person, endpoint: str, found: dict[str, Found]) -> None:
    """Guests are let at one edition, as it is heard."""
    theirs = {person.edition, person.episode}
    if not found.keys() <= theirs or request.args.get("mode") == "recorded":
        raise NotAllowed("not-allowed-to", "A guest hears this one edition, as it is cut. Ask whoever invited you for more.")


def _on_page(session: Session, in_address: Iterable[str], found: dict[str, Found]) -> frozenset[str]:
    """What the edition a request is about uses of other shows: it was pasted there by somebody who saw it."""
    for each in in_address:
        if each in found and found[each].kind == EditionRow.__tablename__:
            return frozenset(context().workshop.home.editions.open(session, each).edition.used)
    return frozenset()


def _write_down(response: Response) -> Response:
    """Add what was done to the log of the owners."""
    line: Line | None = g.get("happens")
    if line and response.status_code < 400:
        with context().workshop.home.database.write() as session:
            happened(session, asking().name, line.told, line.show)
    return response


def _is_stand_in(endpoint: str) -> bool:
    """The simulated services are asked by the worker, which has no account; nobody else reaches them."""
    return endpoint.split(".")[0] in STAND_INS and request.remote_addr in ("127.0.0.1", "::1")


STAND_INS = ("recording host", "picture library", "publishing host", "shared folder", "mailbox")
