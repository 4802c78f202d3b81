"""Laying pieces at a place: a paste, or a rest."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, replace
from typing import ClassVar

from jaskel.core.edition import Edition, Piece, merged
from jaskel.core.operations.base import Edited, Meanwhile, Telling, operation
from jaskel.core.operations.rewrite import Rewriting
from jaskel.core.problem import Problem
from jaskel.core.source import SILENCE, Drawn, RoomTone, Silence, recording_of
from jaskel.core.timebase import RATE, Ticks, clock


@operation
@dataclass(frozen=True)
class Insert(Rewriting):
    """Lay pieces at a place; ``told`` says what that was, where it says more than their length."""

    kind: ClassVar[str] = "insert"
    version: ClassVar[int] = 2
    at: Ticks
    pieces: tuple[Piece, ...]
    told: str = ""

    def edits(self, _edition: Edition) -> Sequence[Edited]:
        return [(self.at, self.at, tuple(merged(self.pieces)))]

    def carried(self, since: Meanwhile) -> Insert:
        return replace(self, at=since.carry((self.at, self.at))[0])

    def summary(self, telling: Telling) -> str:
        if self.told:
            return f"{self.told} at {clock(telling.at(self.at))}"
        length = sum(piece.length for piece in self.pieces) / RATE
        sources = [piece.source for piece in self.pieces]
        if all(isinstance(source, RoomTone | Silence) for source in sources):
            what = "a rest"
        else:
            what = "a picture" if all(isinstance(source, Drawn) for source in sources) else "a stretch"
        return f"put in {what} of {length:.1f} s at {clock(telling.at(self.at))}"


def rest_at(edition: Edition, at: Ticks, length: Ticks, tone_from: Ticks | None) -> Insert:
    """Put in a rest, filled with the room tone of what stands there, from a place of it on; with None, silent.

    Raises
    ------
    Problem
        ``no-room-tone`` where nothing recorded stands in the edition.
    """
    if tone_from is None:
        return Insert(at, (Piece(SILENCE, 0, length),))
    index = edition.index_at(max(0, at - 1))
    near = [recording_of(piece.source) for piece in edition.pieces[index : index + 1]]
    recorded = next((name for name in (*near, *edition.recordings) if name), None)
    if recorded is None:
        raise Problem("no-room-tone", "There is no recording here whose room could be heard. Put in silence instead.")
    return Insert(at, (Piece(RoomTone(recorded), tone_from, tone_from + length),))
