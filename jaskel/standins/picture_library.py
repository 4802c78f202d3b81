"""A library of pictures and films: a stand-in for one that is subscribed to.

It offers what `docs/picture-library.md` describes. What it has was made by ``jaskel.demo.pictures``.
"""

from __future__ import annotations

import json
from dataclasses import dataclass
from fractions import Fraction
from functools import cache
from io import BytesIO
from pathlib import Path

import numpy as np
from flask import Blueprint, Response, abort, jsonify, request, send_from_directory

PREFIX = "/standins/picture-library"
FILES = Path(__file__).parent / "pictures"

ALIKE = 0.15
"""A picture is shown where what is seen in it is as near as that to what is asked for."""


@dataclass(frozen=True)
class Item:
    """A picture or film, and what is seen in it."""

    id: str
    file: str
    seen: str
    kind: str
    width: int
    height: int
    seconds: float


@cache
def items() -> tuple[Item, ...]:
    """All that it has."""
    return tuple(Item(**each) for each in json.loads((FILES / "index.json").read_text()))


def search(text: str) -> list[Item]:
    """What is seen in it comes near to a text, the nearest first; everything where nothing is asked for."""
    from jaskel.speech.meaning import meanings_of

    if not text.strip():
        return [*items()]
    alike = _meanings() @ meanings_of([text])[0]
    words = _words(text)
    # A word that is asked for and stands there counts for more than what is only near in meaning.
    named = [0.3 * len(words & _words(each.seen)) / max(1, len(words)) for each in items()]
    scores = alike + np.array(named)
    return [items()[number] for number in np.argsort(-scores) if scores[number] >= ALIKE]


def _words(text: str) -> set[str]:
    """The words of a text that are long enough to stand for something."""
    return {word for each in text.split() if len(word := each.strip(".,!?").casefold()) > 3}


@cache
def _meanings() -> np.ndarray:
    from jaskel.speech.meaning import meanings_of

    return meanings_of([each.seen for each in items()])


api = Blueprint("picture library", __name__, url_prefix=PREFIX)


@api.get("/search")
def found() -> Response:
    """Pictures by words, or by the meaning of a sentence."""
    return jsonify(pictures=[_told(each) for each in search(request.args.get("text", "")[:500])])


@api.get("/files/<picture_id>")
def file(picture_id: str) -> Response:
    """A picture or film as it is."""
    return send_from_directory(FILES, _item(picture_id).file)


@api.get("/previews/<picture_id>")
def preview(picture_id: str) -> Response:
    """A small JPEG of it."""
    from jaskel.media.picture import make_poster

    item, out = _item(picture_id), BytesIO()
    make_poster(FILES / item.file, out, None if item.kind == "still" else Fraction(1))
    return Response(out.getvalue(), mimetype="image/jpeg")


def _item(picture_id: str) -> Item:
    return next((each for each in items() if each.id == picture_id), None) or abort(404)


def _told(item: Item) -> dict[str, object]:
    size = (FILES / item.file).stat().st_size
    known = {"id": item.id, "name": item.file, "seen": item.seen, "kind": item.kind, "size": size}
    return known | {"width": item.width, "height": item.height, "seconds": item.seconds}
