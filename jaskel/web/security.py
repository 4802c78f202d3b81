"""What keeps other sites out of Jaskel: whose requests are answered, and what a page from here may do."""

from __future__ import annotations

from urllib.parse import urlsplit

from flask import Flask, Response, request

from jaskel.core.problem import Problem
from jaskel.settings import Settings

LOOPBACK = ("127.0.0.1", "localhost", "::1")

LONGEST_JSON = 16_000_000
"""Bytes of a request that is read as a whole; fifty thousand ranges have two million."""

POLICY = (
    "default-src 'self'; script-src 'self'; style-src 'self'; img-src 'self'; media-src 'self'; font-src 'self'; "
    "connect-src 'self'; worker-src 'self'; object-src 'none'; base-uri 'none'; form-action 'none'; frame-ancestors 'none'"
)
"""Everything the page needs comes from here, and nobody may frame it."""


class Foreign(Problem):
    """A request from elsewhere."""


def protect(app: Flask, settings: Settings) -> None:
    """Let ``app`` answer only its own page, with headers that tell the browser what the page may do."""

    def check() -> None:
        _refuse_foreign(settings)
        if request.mimetype == "application/json":
            request.max_content_length = LONGEST_JSON

    app.before_request(check)
    app.after_request(_with_headers)


def _refuse_foreign(settings: Settings) -> None:
    """Other sites must not reach into this one through the person's browser (DNS rebinding, cross-site requests)."""
    origin = request.headers.get("Origin")
    try:
        host = urlsplit(f"//{request.host}").hostname
        its_own = origin is None or urlsplit(origin).netloc == request.host
    except ValueError:
        host, its_own = None, False
    if host not in {*LOOPBACK, settings.host} or not its_own:
        raise Foreign(
            "foreign", "This address does not belong to this Jaskel. Open it by the address it printed when it started."
        )


def _with_headers(response: Response) -> Response:
    response.headers["Content-Security-Policy"] = POLICY
    response.headers["X-Content-Type-Options"] = "nosniff"
    response.headers["X-Frame-Options"] = "DENY"
    response.headers["Referrer-Policy"] = "same-origin"
    response.headers["Cross-Origin-Resource-Policy"] = "same-origin"
    response.headers["Cross-Origin-Opener-Policy"] = "same-origin"
    return response
