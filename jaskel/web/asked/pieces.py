"""Striking, and laying pieces: what was copied, rests, cards, pictures of words."""

from __future__ import annotations

from typing import Annotated, Any, Literal

from pydantic import Field, StringConstraints

from jaskel.core.edition import Piece
from jaskel.core.operations import Insert, Operation, Strike
from jaskel.core.operations.insert import rest_at
from jaskel.core.operations.rewrite import card_set
from jaskel.core.problem import Problem
from jaskel.core.source import CLOSING, OPENING, Recorded, recording_of
from jaskel.core.timebase import RATE, Ticks
from jaskel.store.models import Recording, SessionRow
from jaskel.web.asked.asked import Asked, Floor, asked
from jaskel.web.asked.settling import settling
from jaskel.web.schemas.common import OneLine, Ranges, TicksField
from jaskel.web.schemas.pieces import PieceField

TONE_STEP: Ticks = 7 * RATE
"""Rests that are put in begin at other places of the room tone, so that neighbours do not sound the same."""

LONGEST_REST: Ticks = 60 * RATE
LONGEST_MADE: Ticks = 600 * RATE
"""What is made rather than recorded (rests, cards, pictures) is at most ten minutes long in one piece."""


@asked
class StrikeIn(Asked):
    """Take ranges out and leave them readable; ``settle`` lets the splices that come about find their best place."""

    kind: Literal["strike"]
    ranges: Ranges
    why: Annotated[str, StringConstraints(max_length=80), OneLine] = "by hand"
    settle: bool = False

    @property
    def settles(self) -> bool:
        return self.settle

    def operation(self, floor: Floor) -> Operation:
        strike = Strike(tuple((each.begin, each.end) for each in self.ranges), self.why)
        return settling(floor, strike) if self.settle else strike


@asked
class InsertIn(Asked):
    """Lay what was copied, here or in another edition, at a place."""

    kind: Literal["insert"]
    at: TicksField
    pieces: Annotated[list[PieceField], Field(min_length=1, max_length=50_000)]
    places = ("at",)

    def operation(self, floor: Floor) -> Operation:
        pieces = tuple(each.piece for each in self.pieces)
        for piece in pieces:
            _within_bounds(floor, piece)
        return Insert(self.at, pieces)


def _within_bounds(floor: Floor, piece: Piece) -> None:
    """Refuse a piece of what is not there, or longer than what it is of, or endless."""
    name = recording_of(piece.source)
    known = (floor.session.get(Recording, name) or floor.session.get(SessionRow, name)) if name else None
    if name and known is None:
        raise Problem("recording-gone", "What was copied belongs to a recording that is not here any more. Copy it again.")
    if isinstance(piece.source, Recorded):
        if known and piece.end > known.length:
            raise Problem("outside", "What was copied reaches beyond the end of its recording. Copy it again.")
    elif piece.length > LONGEST_MADE:
        raise Problem("too-long", f"At most {LONGEST_MADE // RATE // 60} minutes can be put in at once. Make it shorter.")


@asked
class RestIn(Asked):
    """Put in a rest, filled with the room tone of what stands there, or with digital silence. At most a minute."""

    kind: Literal["rest"]
    at: TicksField
    length: Annotated[int, Field(ge=RATE // 100, le=LONGEST_REST)]
    silent: bool = False
    places = ("at",)

    def operation(self, floor: Floor) -> Operation:
        start = floor.opened.revision * TONE_STEP % LONGEST_REST
        return rest_at(floor.opened.edition, self.at, self.length, None if self.silent else start)


@asked
class CardIn(Asked):
    """Show the episode's card before the programme or after it, so long; 0 takes it off."""

    kind: Literal["card"]
    closing: bool
    length: Annotated[int, Field(ge=0, le=LONGEST_REST)]

    def carried(self, _since: Any) -> CardIn:
        return self

    def operation(self, floor: Floor) -> Operation:
        return card_set(floor.opened.edition, CLOSING if self.closing else OPENING, self.length)
