"""Notes: something written beside the words."""

from __future__ import annotations

from dataclasses import dataclass
from typing import ClassVar

from jaskel.core.marks.mark import Home, Mark, mark


@mark
@dataclass(frozen=True)
class Note(Mark):
    """A text at a place of the material; ``who`` wrote it, where that is known."""

    kind: ClassVar[str] = "note"
    home: ClassVar[Home] = "episode"
    text: str
    who: str = ""
