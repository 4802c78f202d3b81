"""Striking, and laying pieces: what was copied, rests, cards, pictures of words."""

from __future__ import annotations

from typing import Annotated, Any, Literal

from pydantic import Field, StringConstraints

from jaskel.core.edition import Piece
from jaskel.core.operations import Edit, Insert, Operation, Rewrite, Strike
from jaskel.core.problem import Problem
from jaskel.core.source import CLOSING, OPENING, SILENCE, Recorded, RoomTone, recording_of
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
        if self.silent:
            return Insert(self.at, (Piece(SILENCE, 0, self.length),))
        edition = floor.opened.edition
        index = edition.index_at(max(0, self.at - 1))
        near = [recording_of(piece.source) for piece in edition.pieces[index : index + 1]]
        recorded = next((name for name in (*near, *edition.recordings) if name), None)
        if recorded is None:
            raise Problem("no-room-tone", "There is no recording here whose room could be heard. Put in silence instead.")
        start = floor.opened.revision * TONE_STEP % LONGEST_REST
        return Insert(self.at, (Piece(RoomTone(recorded), start, start + self.length),))


@asked
class CardIn(Asked):
    """Show the episode's card before the programme or after it, so long; 0 takes it off."""

    kind: Literal["card"]
    closing: bool
    length: Annotated[int, Field(ge=0, le=LONGEST_REST)]

    def carried(self, _since: Any) -> CardIn:
        return self

    def operation(self, floor: Floor) -> Operation:
        """The card in the place of the one that is there. A closing card goes to the end, also where material came after it."""
        edition = floor.opened.edition
        card = CLOSING if self.closing else OPENING
        known = edition.card(card)
        place = edition.length if self.closing else 0
        new = (Piece(card, 0, self.length),) if self.length else ()
        edits = [] if known is None else [Edit(*known, ())]
        if known and place in known:
            edits = [Edit(*known, new)]
        elif new:
            edits.append(Edit(place, place, new))
        return Rewrite(tuple(sorted(edits, key=lambda edit: edit.begin)))
