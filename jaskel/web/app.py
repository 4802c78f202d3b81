"""The Flask application."""

from __future__ import annotations

import logging
from pathlib import Path
from urllib.parse import urlsplit

from flask import Flask, Response, request, send_from_directory
from flask_openapi3 import Info, OpenAPI
from pydantic import ValidationError
from werkzeug.exceptions import HTTPException

from jaskel import __version__
from jaskel.core.problem import Missing, Problem, Stale
from jaskel.settings import Settings
from jaskel.standins import recording_host
from jaskel.web import (
    editions,
    history,
    listening,
    notes,
    notices,
    recordings,
    remote,
    search,
    sessions,
    shows,
    spellings,
    takes,
    texts,
    tidy,
    voices,
    work,
)
from jaskel.web.context import Context
from jaskel.web.present import reply
from jaskel.web.schemas.common import ProblemOut

PAGE = Path(__file__).resolve().parents[2] / "frontend" / "dist"
LOOPBACK = ("127.0.0.1", "localhost", "::1")
STATUS = {"disk-full": 507, "already-here": 409, "already-running": 409}

log = logging.getLogger("jaskel.web")


LIBRARY = (shows, search, recordings, remote, sessions, voices, texts, spellings, takes)
API = (*LIBRARY, editions, tidy, history, notes, listening, work, notices)


def create_app(settings: Settings) -> Flask:
    """The application on the data folder of ``settings``. Its tables must be up to date."""
    app = OpenAPI(
        "jaskel",
        info=Info(title="Jaskel", version=__version__, description="Times are ticks, 48,000 to the second."),
        validation_error_callback=_not_understood,
        validation_error_model=ProblemOut,
        responses={404: ProblemOut, 409: ProblemOut, 422: ProblemOut},
        doc_prefix="/api/description",
    )
    app.extensions["jaskel"] = Context(settings)
    for module in API:
        app.register_api(module.api)
    if settings.recording_host.endswith(recording_host.PREFIX):
        app.register_blueprint(recording_host.api)
    app.before_request(lambda: _refuse_foreign(settings))
    app.register_error_handler(Problem, _problem)
    app.register_error_handler(HTTPException, _http_error)
    app.register_error_handler(Exception, _unexpected)
    app.add_url_rule("/", "page", _page)
    app.add_url_rule("/<path:name>", "page file", _page)
    app.after_request(_guard)
    return app


def _page(name: str = "index.html") -> Response:
    """The built page; addresses that are no file are the page's own."""
    if not (PAGE / "index.html").exists():
        return Response("The page has not been built. Run ./run setup and start again.", 503, mimetype="text/plain")
    if name.startswith("api/"):
        raise Missing("no-such-address", "There is nothing at this address.")
    if (PAGE / name).is_file() and name != "index.html":
        return send_from_directory(PAGE, name, max_age=31_536_000 if name.startswith("assets/") else 0)
    return send_from_directory(PAGE, "index.html", max_age=0)


def _refuse_foreign(settings: Settings) -> Response | None:
    """Other sites must not reach into this one through the person's browser (DNS rebinding, cross-site requests)."""
    allowed = {*LOOPBACK, settings.host}
    host = urlsplit(f"//{request.host}").hostname
    origin = request.headers.get("Origin")
    if host in allowed and (origin is None or urlsplit(origin).netloc == request.host):
        return None
    return _answer(
        403, "foreign", "This address does not belong to this Jaskel. Open it by the address it printed when it started."
    )


def _guard(response: Response) -> Response:
    response.headers["X-Content-Type-Options"] = "nosniff"
    response.headers["Referrer-Policy"] = "same-origin"
    response.headers["Cross-Origin-Resource-Policy"] = "same-origin"
    return response


def _answer(status: int, code: str, sentence: str, **facts: object) -> Response:
    title = code.replace("-", " ").capitalize()
    response = reply(ProblemOut(title=title, status=status, detail=sentence, code=code, facts=facts), status)
    response.mimetype = "application/problem+json"
    return response


def _problem(problem: Problem) -> Response:
    status = 404 if isinstance(problem, Missing) else 409 if isinstance(problem, Stale) else STATUS.get(problem.code, 422)
    return _answer(status, problem.code, problem.sentence, **problem.facts)


def _not_understood(error: ValidationError) -> Response:
    first = error.errors()[0]
    where = ".".join(str(part) for part in first["loc"])
    return _answer(422, "not-understood", f"The request could not be understood: {where}: {first['msg']}.")


def _http_error(error: HTTPException) -> Response:
    return _answer(error.code or 500, error.name.lower().replace(" ", "-"), error.description or error.name)


def _unexpected(error: Exception) -> Response:
    log.exception("request %s %s failed", request.method, request.path)
    return _answer(500, "unexpected", "Something went wrong inside Jaskel. Nothing was changed; try it again.")
