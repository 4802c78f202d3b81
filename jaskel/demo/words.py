"""The transcript that comes with the demo; :mod:`jaskel.demo.hear` makes it by the real recogniser."""

from __future__ import annotations

import json
from pathlib import Path

from jaskel.core.timebase import Ticks
from jaskel.core.transcript import Word

SHIPPED = Path(__file__).with_name("media") / "interview.words.json"


def shipped() -> tuple[Ticks, tuple[Word, ...]]:
    """The length of the mixed interview, and what was heard in it."""
    known = json.loads(SHIPPED.read_text(encoding="utf-8"))
    return known["length"], tuple(Word(*word) for word in known["words"])
