"""The Flask application."""

from __future__ import annotations

import logging
from pathlib import Path

from flask import Flask, Response, request, send_from_directory
from flask_openapi3 import Info, OpenAPI
from pydantic import ValidationError
from werkzeug.exceptions import HTTPException

from jaskel import __version__
from jaskel.core.problem import Missing, Problem, Stale
from jaskel.settings import STAND_IN, Settings
from jaskel.standins import mailbox, picture_library, publishing_host, recording_host, shared_folder
from jaskel.store.database import problem_of
from jaskel.web import (
    accounts,
    archives,
    cameras,
    captions,
    chapters,
    destinations,
    editions,
    gathered,
    gaze,
    graphics,
    history,
    house_captions,
    house_style,
    joins,
    listening,
    notes,
    notices,
    pickups,
    pictures,
    presence,
    publishing,
    recordings,
    remote,
    reuse,
    room,
    search,
    selects,
    sessions,
    shots,
    shows,
    sounds,
    spellings,
    strips,
    takes,
    telling,
    texts,
    tidy,
    timelines,
    told,
    uploads,
    voices,
    way,
    weights,
    work,
    written,
)
from jaskel.web.context import Context, context
from jaskel.web.gate import NotAllowed, NotSignedIn, watch
from jaskel.web.health import watch_health
from jaskel.web.schemas.common import ProblemOut
from jaskel.web.security import Foreign, protect
from jaskel.web.serializers import reply

PAGE = Path(__file__).resolve().parents[2] / "frontend" / "dist"
STATUS = {
    "disk-full": 507,
    "no-vault": 503,
    "not-allowed": 507,
    "disk-failed": 507,
    "busy": 503,
    "already-here": 409,
    "already-running": 409,
    "wrong-offset": 409,
    "not-known": 403,
    "code-needed": 403,
    "wrong-code": 403,
}

log = logging.getLogger("jaskel.web")

LONGEST_ADDRESS = 200
"""Characters; the page's own addresses have thirty."""


LIBRARY = (shows, archives, search, recordings, uploads, remote, sessions, voices, texts, spellings, takes, weights, room)
TEAM = (accounts, presence)
API = (
    *LIBRARY,
    *TEAM,
    editions,
    captions,
    chapters,
    destinations,
    cameras,
    gathered,
    gaze,
    graphics,
    joins,
    house_captions,
    house_style,
    shots,
    strips,
    pickups,
    way,
    pictures,
    publishing,
    sounds,
    telling,
    tidy,
    timelines,
    told,
    history,
    notes,
    reuse,
    selects,
    listening,
    work,
    written,
    notices,
)


def create_app(settings: Settings) -> Flask:
    """The application on the data folder of ``settings``. Its tables must be up to date."""
    app = OpenAPI(
        "jaskel",
        security_schemes={"cookie": {"type": "apiKey", "in": "cookie", "name": "jaskel"}},
        info=Info(title="Jaskel", version=__version__, description="Times are ticks, 48,000 to the second."),
        validation_error_callback=_not_understood,
        validation_error_model=ProblemOut,
        doc_prefix="/api/description",
    )
    app.extensions["jaskel"] = Context(settings)
    for module in API:
        app.register_api(module.api)
    if settings.recording_host.endswith(recording_host.PREFIX):
        app.register_blueprint(recording_host.api)
    if settings.shared_folder.endswith(shared_folder.PREFIX):
        app.register_blueprint(shared_folder.api)
    if settings.mail == STAND_IN:
        app.register_blueprint(mailbox.api_in(settings.mailbox))
    if settings.publishing_host.endswith(publishing_host.PREFIX):
        app.register_blueprint(publishing_host.api_in(settings.published))
    if settings.picture_library.endswith(picture_library.PREFIX):
        app.register_blueprint(picture_library.api)
    watch_health(app)
    protect(app, settings)
    watch(app, settings)
    app.register_error_handler(Problem, _problem)
    app.register_error_handler(HTTPException, _http_error)
    app.register_error_handler(Exception, _unexpected)
    app.add_url_rule("/", "page", _page)
    app.add_url_rule("/<path:name>", "page file", _page)
    return app


def _page(name: str = "index.html") -> Response:
    """The built page; addresses that are no file are the page's own."""
    if not (PAGE / "index.html").exists():
        return Response("The page has not been built. Run ./run setup and start again.", 503, mimetype="text/plain")
    if name != "index.html" and (name.startswith(("api/", "assets/")) or "." in name or len(name) > LONGEST_ADDRESS):
        if "\0" in name or len(name) > LONGEST_ADDRESS or not (PAGE / name).is_file():
            raise Missing("no-such-address", "There is nothing at this address.")
        return send_from_directory(PAGE, name, max_age=31_536_000 if name.startswith("assets/") else 0)
    return send_from_directory(PAGE, "index.html", max_age=0)


def _answer(status: int, code: str, sentence: str, **facts: object) -> Response:
    title = code.replace("-", " ").capitalize()
    response = reply(ProblemOut(title=title, status=status, detail=sentence, code=code, facts=facts), status)
    response.mimetype = "application/problem+json"
    return response


def _problem(problem: Problem) -> Response:
    by_type = {Missing: 404, Stale: 409, Foreign: 403, NotSignedIn: 401, NotAllowed: 403}
    status = by_type.get(type(problem)) or STATUS.get(problem.code, 422)
    return _answer(status, problem.code, problem.sentence, **problem.facts)


def _not_understood(error: ValidationError) -> Response:
    first = error.errors()[0]
    where = ".".join(str(part) for part in first["loc"])
    return _answer(422, "not-understood", f"The request could not be understood: {where}: {first['msg']}.")


def _http_error(error: HTTPException) -> Response:
    response = _answer(error.code or 500, error.name.lower().replace(" ", "-"), error.description or error.name)
    for name, value in error.get_headers():
        if name.lower() not in ("content-type", "content-length"):
            response.headers[name] = value  # such as the methods that are allowed
    return response


def _unexpected(error: Exception) -> Response:
    away = context().workshop.home.vault.missing() if isinstance(error, OSError) else None
    if known := problem_of(error) or away:
        return _problem(known)
    if isinstance(error, RecursionError | OverflowError | UnicodeError):
        return _answer(400, "not-understood", "The request could not be understood: a value in it is impossible.")
    log.exception("request %s %s failed", request.method, request.path)
    return _answer(500, "unexpected", "Something went wrong inside Jaskel. See what the page shows now, and try it again.")
