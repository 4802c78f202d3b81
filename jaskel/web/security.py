"""What keeps other sites out of Jaskel: whose requests are answered, and what a page from here may do."""

from __future__ import annotations

from urllib.parse import urlsplit

from flask import Flask, Response, request

from jaskel.core.problem import Problem
from jaskel.settings import LOOPBACK, Settings

LONGEST_JSON = 16_000_000
"""Bytes of a request that is read as a whole; fifty thousand ranges have two million."""

POLICY = (
    "default-src 'self'; script-src 'self'; style-src 'self'; img-src 'self'; media-src 'self'; font-src 'self'; "
    "connect-src 'self'; worker-src 'self'; object-src 'none'; base-uri 'none'; form-action 'none'; frame-ancestors 'none'"
)
"""Everything the page needs comes from here, and nobody may frame it."""


HEADERS = {
    "Content-Security-Policy": POLICY,
    "X-Content-Type-Options": "nosniff",
    "X-Frame-Options": "DENY",
    "Referrer-Policy": "same-origin",
    "Cross-Origin-Resource-Policy": "same-origin",
    "Cross-Origin-Opener-Policy": "same-origin",
}


class Foreign(Problem):
    """A request from elsewhere."""


def protect(app: Flask, settings: Settings) -> None:
    """Let ``app`` answer only its own page, with headers that tell the browser what the page may do."""

    def check() -> None:
        _refuse_foreign(settings)
        if request.mimetype == "application/json":
            request.max_content_length = LONGEST_JSON

    def with_headers(response: Response) -> Response:
        response.headers.update(HEADERS)
        if settings.is_secure:
            response.headers["Strict-Transport-Security"] = "max-age=31536000"
        if settings.team and "Cache-Control" not in response.headers:
            response.headers["Cache-Control"] = "no-store"  # nobody reads in a browser what somebody else was shown
        return response

    app.before_request(check)
    app.after_request(with_headers)


def _refuse_foreign(settings: Settings) -> None:
    """Other sites must not reach into this one through the person's browser (DNS rebinding, cross-site requests)."""
    origin = request.headers.get("Origin")
    try:
        host = urlsplit(f"//{request.host}").hostname
        its_own = origin is None or urlsplit(origin).netloc == request.host
    except ValueError:
        host, its_own = None, False
    if host not in {*LOOPBACK, settings.host, urlsplit(settings.reached).hostname} or not its_own:
        raise Foreign(
            "foreign", "This address does not belong to this Jaskel. Open it by the address it printed when it started."
        )
