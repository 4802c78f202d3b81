"""Replacing stretches by other pieces: what every operation on pieces, and every inverse of one, comes down to."""

from __future__ import annotations

from abc import abstractmethod
from collections.abc import Iterable, Sequence
from dataclasses import dataclass, replace
from itertools import pairwise
from typing import ClassVar, NamedTuple

from jaskel.core.edition import Edition, Piece, merged, strung
from jaskel.core.operations.base import Edited, Meanwhile, Operation, Telling, operation
from jaskel.core.problem import Problem
from jaskel.core.source import Card
from jaskel.core.timebase import RATE, Ticks


class Edit(NamedTuple):
    """Everything between two laid times becomes ``pieces``."""

    begin: Ticks
    end: Ticks
    pieces: tuple[Piece, ...]


class Rewriting(Operation):
    """An operation that replaces stretches of an edition by other pieces."""

    @abstractmethod
    def edits(self, edition: Edition) -> Sequence[Edited]:
        """From and to in laid time, and what stands there instead; in order and not overlapping."""

    def apply(self, edition: Edition) -> tuple[Edition, Rewrite]:
        return rewritten(edition, self.edits(edition))


def rewritten(edition: Edition, edits: Iterable[Edited]) -> tuple[Edition, Rewrite]:
    """The edition with stretches replaced, and the operation that takes that back."""
    edits, length = list(edits), edition.length
    places = [place for begin, end, _ in edits for place in (begin, end)]
    if any(after < before for before, after in pairwise(places)) or (places and not 0 <= places[0] <= places[-1] <= length):
        raise Problem("outside", "That reaches beyond the end of the edition. Select again and repeat it.")
    return with_parts(edition, places, edition.parted(places), [pieces for _, _, pieces in edits])


def with_parts(
    edition: Edition, places: Sequence[Ticks], parts: Sequence[Sequence[Piece]], new: Sequence[Sequence[Piece]]
) -> tuple[Edition, Rewrite]:
    """The edition with every second one of its ``parts`` (as :meth:`Edition.parted` gives them) replaced, and the way back."""
    back: list[Edit] = []
    now = list(parts)
    shift = 0
    for number, (begin, end, pieces) in enumerate(zip(places[::2], places[1::2], new, strict=True)):
        length = sum([piece.end - piece.start for piece in pieces])
        back.append(Edit(begin + shift, begin + shift + length, tuple(parts[2 * number + 1])))
        now[2 * number + 1] = pieces
        shift += length - (end - begin)
    return replace(edition, pieces=strung(now)), Rewrite(tuple(back))


@operation
@dataclass(frozen=True)
class Rewrite(Rewriting):
    """Replace stretches by other pieces. The edits are in laid time of the edition they are applied to, in order."""

    kind: ClassVar[str] = "rewrite"
    version: ClassVar[int] = 2
    what: ClassVar[str] = "changed the order"
    changes: tuple[Edit, ...]

    def edits(self, _edition: Edition) -> Sequence[Edit]:
        return [edit._replace(pieces=tuple(merged(edit.pieces))) for edit in self.changes]

    def carried(self, since: Meanwhile) -> Rewrite:
        moved = (Edit(*since.carry((edit.begin, edit.end)), edit.pieces) for edit in self.changes)
        return replace(self, changes=tuple(sorted(moved, key=lambda edit: (edit.begin, edit.end))))

    def summary(self, _telling: Telling) -> str:
        pieces = [piece for edit in self.changes for piece in edit.pieces]
        if not pieces:
            return "took a card off"
        source = pieces[0].source
        if isinstance(source, Card) and all(piece.source == source for piece in pieces):
            return f"set a card of {pieces[0].length / RATE:.1f} s for the {'closing' if source.closing else 'opening'}"
        return self.what


def card_set(edition: Edition, card: Card, length: Ticks) -> Rewrite:
    """Show a card for so long in the place of the one that is there; 0 takes it off.

    A closing card goes to the end, also where material came after the one that was there.
    """
    known = edition.card(card)
    place = edition.length if card.closing else 0
    new = (Piece(card, 0, length),) if length else ()
    edits = [] if known is None else [Edit(*known, ())]
    if known and place in known:
        edits = [Edit(*known, new)]
    elif new:
        edits.append(Edit(place, place, new))
    return Rewrite(tuple(sorted(edits, key=lambda edit: edit.begin)))
