"""A publishing host: a service that keeps the files of shows and their feeds, and hands them out to players.

It offers what `docs/publishing-host.md` describes, and a page on which to look at what arrived. A real host is reached the
same way, through an adapter that speaks this API.
"""

from __future__ import annotations

import re
from pathlib import Path

from flask import Blueprint, Response, abort, jsonify, render_template_string, request, send_from_directory, url_for

PREFIX = "/standins/publishing-host"
CHUNK = 1 << 20
MOST = 20_000_000_000
"""Bytes of a file."""

PAGE = """<!doctype html>
<html lang="en">
<head>
<meta charset="utf-8"><meta name="viewport" content="width=device-width, initial-scale=1">
<title>Publishing host</title>
</head>
<body>
<h1>Publishing host</h1>
<p>This is a stand-in: it keeps what Jaskel sends it, so that one can look at it.</p>
{% for show, files in shows %}
<h2>{{ show }}</h2>
<ul>{% for name, size, address in files %}<li><a href="{{ address }}">{{ name }}</a> ({{ size }} bytes)</li>{% endfor %}</ul>
{% else %}
<p>Nothing has arrived yet.</p>
{% endfor %}
</body>
</html>
"""


def api_in(folder: Path) -> Blueprint:
    """The host, with its files in a folder."""
    api = Blueprint("publishing host", __name__, url_prefix=PREFIX)

    @api.put("/shows/<show>/<name>")
    def put(show: str, name: str) -> tuple[Response, int]:
        """Keep a file, or the feed under ``feed.xml``; one of that name is replaced. Answers where players find it."""
        place = _place(folder, show, name)
        place.parent.mkdir(parents=True, exist_ok=True)
        partial = place.with_name(f".{place.name}.partial")
        size = 0
        with partial.open("wb") as file:
            while chunk := request.stream.read(CHUNK):
                size += len(chunk)
                if size > MOST:
                    abort(413)
                file.write(chunk)
        partial.replace(place)
        return jsonify(address=url_for(".get", show=show, name=name, _external=True)), 201

    @api.get("/shows/<show>/<name>")
    def get(show: str, name: str) -> Response:
        """A file, or a part of it, as players ask for them."""
        place = _place(folder, show, name)
        return send_from_directory(place.parent, place.name, conditional=True)

    @api.delete("/shows/<show>/<name>")
    def remove(show: str, name: str) -> Response:
        """Let go of a file."""
        _place(folder, show, name).unlink(missing_ok=True)
        return Response(status=204)

    @api.get("/")
    def page() -> str:
        """What arrived."""
        shows = [
            (each.name, [_shown(file, each.name) for file in sorted(each.iterdir()) if not file.name.startswith(".")])
            for each in sorted(folder.glob("*"))
        ]
        return render_template_string(PAGE, shows=shows)

    return api


def _shown(file: Path, show: str) -> tuple[str, int, str]:
    return file.name, file.stat().st_size, url_for(".get", show=show, name=file.name)


def _place(folder: Path, show: str, name: str) -> Path:
    if not re.fullmatch(r"[\w-]{1,64}", show) or not re.fullmatch(r"[\w-][\w .,'()-]{0,199}", name):
        abort(400)
    return folder / show / name
