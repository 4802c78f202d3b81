"""What comes with the demo's recordings: words and faces, as the jobs found them; :mod:`jaskel.demo.hear` makes it."""

from __future__ import annotations

import json
from dataclasses import dataclass
from pathlib import Path

from jaskel.core.timebase import Ticks
from jaskel.core.transcript import Word, word_to_json

MEDIA = Path(__file__).with_name("media")
SHIPPED = MEDIA / "heard.json"


@dataclass(frozen=True)
class Shipped:
    """A recording's length, its words (empty for a camera) and, in a session, where it lies on the session's clock."""

    length: Ticks
    words: tuple[Word, ...] = ()
    offset: Ticks = 0
    drift: float = 0.0
    sure: float = 0.0


def shipped() -> dict[str, Shipped]:
    """By the name of the file."""
    known = json.loads(SHIPPED.read_text(encoding="utf-8"))
    return {
        name: Shipped(one["length"], tuple(Word(*word) for word in one["words"]), one["offset"], one["drift"], one["sure"])
        for name, one in known.items()
    }


def faces_of(file: str) -> Path:
    """Where the faces lie that were found in a film, as :func:`jaskel.store.material.write_faces` writes them."""
    return (MEDIA / file).with_suffix(".faces.json")


def ship(heard: dict[str, Shipped]) -> None:
    """Write down what :func:`shipped` reads, a word a line."""
    entries = []
    for name, one in heard.items():
        rows = ",\n".join(json.dumps(word_to_json(word), ensure_ascii=False) for word in one.words)
        place = f'"length": {one.length}, "offset": {one.offset}, "drift": {one.drift}, "sure": {one.sure}'
        entries.append(f'"{name}": {{{place}, "words": [\n{rows}\n]}}')
    SHIPPED.write_text("{" + ",\n".join(entries) + "}\n", encoding="utf-8")
