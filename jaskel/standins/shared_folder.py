"""A folder that a team shares in the cloud: what listing and fetching need of WebDAV (RFC 4918), over the demo's files."""

from __future__ import annotations

from pathlib import Path
from urllib.parse import quote
from xml.sax.saxutils import escape

from flask import Blueprint, Response, abort, send_from_directory

PREFIX = "/standins/shared-folder"
MEDIA = Path(__file__).resolve().parents[1] / "demo" / "media"

FILES = {
    "Mending a torn sail.mp4": "mending-a-sail.mp4",
    "The dry hull/Orla.ogg": "interview-orla.ogg",
    "The dry hull/Teo.ogg": "interview-teo.ogg",
}
"""What lies in it, by its path, and what it is of the demo's."""

FOLDERS = {"", *(path.rsplit("/", 1)[0] for path in FILES if "/" in path)}

api = Blueprint("shared folder", __name__, url_prefix=PREFIX)


@api.route("/", methods=["PROPFIND"], defaults={"path": ""})
@api.route("/<path:path>", methods=["PROPFIND"])
def listed(path: str) -> Response:
    """A folder and what lies in it."""
    here = path.strip("/")
    if here not in FOLDERS:
        abort(404)
    inside = [name for name in (*FOLDERS, *FILES) if name and name.rpartition("/")[0] == here]
    answer = "".join(_response(name) for name in (here, *inside))
    content = f'<?xml version="1.0" encoding="utf-8"?><multistatus xmlns="DAV:">{answer}</multistatus>'
    return Response(content, 207, mimetype="application/xml")


def _response(name: str) -> str:
    folder = name in FOLDERS
    told = "<resourcetype><collection/></resourcetype>" if folder else f"<getcontentlength>{_size(name)}</getcontentlength>"
    address = escape(quote(f"{PREFIX}/{name}{'/' if folder and name else ''}"))
    found = f"<propstat><prop>{told}</prop><status>HTTP/1.1 200 OK</status></propstat>"
    return f"<response><href>{address}</href>{found}</response>"


def _size(name: str) -> int:
    return (MEDIA / FILES[name]).stat().st_size


@api.get("/<path:path>")
def file(path: str) -> Response:
    """A file, or a range of it."""
    if path not in FILES:
        abort(404)
    return send_from_directory(MEDIA, FILES[path])
