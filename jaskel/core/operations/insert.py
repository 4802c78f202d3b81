"""Laying pieces at a place: a paste, or a rest."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, replace
from typing import ClassVar

from jaskel.core.edition import Edition, Piece, merged
from jaskel.core.operations.base import Edited, Meanwhile, Words, operation
from jaskel.core.operations.rewrite import Rewriting
from jaskel.core.source import Drawn, RoomTone, Silence
from jaskel.core.timebase import RATE, Ticks, clock


@operation
@dataclass(frozen=True)
class Insert(Rewriting):
    """Lay pieces at a place."""

    kind: ClassVar[str] = "insert"
    version: ClassVar[int] = 2
    at: Ticks
    pieces: tuple[Piece, ...]

    def edits(self, _edition: Edition) -> Sequence[Edited]:
        return [(self.at, self.at, tuple(merged(self.pieces)))]

    def carried(self, since: Meanwhile) -> Insert:
        return replace(self, at=since.carry((self.at, self.at))[0])

    def summary(self, _words: Words) -> str:
        length = sum(piece.length for piece in self.pieces) / RATE
        sources = [piece.source for piece in self.pieces]
        if all(isinstance(source, RoomTone | Silence) for source in sources):
            what = "a rest"
        else:
            what = "a picture" if all(isinstance(source, Drawn) for source in sources) else "a stretch"
        return f"put in {what} of {length:.1f} s at {clock(self.at)}"
