"""A remote recording host: a service on which guests record themselves, one file each, take after take.

It offers what `docs/recording-host.md` describes, with the demo's voices as its guests. A real host is reached the same way,
through an adapter that speaks this API.
"""

from __future__ import annotations

from dataclasses import dataclass
from pathlib import Path

from flask import Blueprint, Response, abort, jsonify, send_from_directory

PREFIX = "/standins/recording-host"
SHOW = "Ropewalk"
"""The show whose guests it has: in others it is not offered."""

MEDIA = Path(__file__).resolve().parents[1] / "demo" / "media"


@dataclass(frozen=True)
class Take:
    """A take: for each guest the id of the file, the guest's name, and where it lies."""

    id: str
    number: int
    files: tuple[tuple[str, str, Path], ...]


TITLE, RECORDED = "The dry hull, recorded on two boats", "2026-03-14"
TAKES = (
    Take("dry-hull-1", 1, (("orla-1", "Orla Venn", MEDIA / "interview-camera-orla.mp4"),)),
    Take(
        "dry-hull-2",
        2,
        (("orla-2", "Orla Venn", MEDIA / "interview-orla.ogg"), ("teo-2", "Teo Marsh", MEDIA / "interview-teo.ogg")),
    ),
)

api = Blueprint("recording host", __name__, url_prefix=PREFIX)


@api.get("/sessions")
def sessions() -> Response:
    """Finished sessions with their takes, and one file for each guest."""
    return jsonify(sessions=[{"id": "dry-hull", "title": TITLE, "recorded": RECORDED, "takes": [_shown(t) for t in TAKES]}])


@api.get("/files/<file_id>")
def file(file_id: str) -> Response:
    """One file, as the guest's machine recorded it."""
    for take in TAKES:
        for known, _, place in take.files:
            if known == file_id:
                return send_from_directory(place.parent, place.name)
    abort(404)


def _shown(take: Take) -> dict[str, object]:
    files = [
        {"id": name, "guest": guest, "name": f"{guest}, take {take.number}{place.suffix}", "size": place.stat().st_size}
        for name, guest, place in take.files
    ]
    return {"id": take.id, "number": take.number, "files": files}
