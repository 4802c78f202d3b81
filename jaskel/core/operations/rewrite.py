"""Replacing stretches by other pieces: what every operation on pieces, and every inverse of one, comes down to."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, replace
from typing import TYPE_CHECKING, ClassVar, NamedTuple

from jaskel.core.edition import Edition, Piece, merged
from jaskel.core.operations.base import Rewriting, Words, operation
from jaskel.core.source import Card
from jaskel.core.timebase import RATE, Ticks

if TYPE_CHECKING:
    from jaskel.core.rebase import Since


class Edit(NamedTuple):
    """Everything between two laid times becomes ``pieces``."""

    begin: Ticks
    end: Ticks
    pieces: tuple[Piece, ...]


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

    def carried(self, since: Since) -> Rewrite:
        moved = (Edit(*since.carry((edit.begin, edit.end)), edit.pieces) for edit in self.changes)
        return replace(self, changes=tuple(sorted(moved, key=lambda edit: (edit.begin, edit.end))))

    def summary(self, _words: Words) -> str:
        pieces = [piece for edit in self.changes for piece in edit.pieces]
        if not pieces:
            return "took a card off"
        source = pieces[0].source
        if isinstance(source, Card) and all(piece.source == source for piece in pieces):
            return f"set a card of {pieces[0].length / RATE:.1f} s for the {'closing' if source.closing else 'opening'}"
        return self.what
