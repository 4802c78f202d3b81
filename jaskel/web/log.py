"""What owners read in the log of their show: exports, what was published, and what was deleted."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass

from flask import request
from sqlalchemy.orm import Session

from jaskel.store.accounts import Found
from jaskel.store.models import Base


@dataclass(frozen=True)
class Line:
    """A line of the log of a show."""

    show: str
    told: str


DONE = {
    "work.export": "exported",
    "work.download": "fetched",
    "publishing.publish": "published",
    "publishing.withdraw": "withdrew",
}
"""What is told of endpoints that delete nothing."""

CALLED = {
    "shows": "the show",
    "episodes": "the episode",
    "editions": "the edition",
    "recordings": "the recording",
    "sessions": "the session",
    "exports": "the export",
    "takes": "the take",
    "texts": "the text",
    "uploads": "the upload",
    "voices": "the consent of the voice",
    "spellings": "the house spelling",
    "versions": "the name of the version",
}

TABLES = {mapper.class_.__tablename__: mapper.class_ for mapper in Base.registry.mappers}


def line_of(session: Session, endpoint: str, in_address: Sequence[str], found: Mapping[str, Found]) -> Line | None:
    """What is about to happen, where that is something for the log."""
    asked = request.get_json(silent=True) if request.mimetype == "application/json" else None
    deletes = request.method == "DELETE" or (isinstance(asked, dict) and asked.get("deleted") is True)
    done = DONE.get(endpoint) or ("deleted" if deletes else "")
    about = next((each for each in reversed(in_address) if each in found and found[each].kind in CALLED), None)
    if not done or about is None:
        return None
    kind = found[about].kind
    row = session.get_one(TABLES[kind], about)
    name = next((getattr(row, each) for each in ("title", "file_name", "term", "name") if getattr(row, each, "")), "")
    what = f"{CALLED[kind]} “{name}”" if name else CALLED[kind]
    if done == "deleted" and about != in_address[-1]:
        what = f"a note, select or chapter of {what}"
    return Line(found[about].show, f"{done} {what}")
