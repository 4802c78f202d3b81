"""Material that comes, goes, or takes the place of other material; marks follow it."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, replace
from typing import ClassVar

from jaskel.core.edition import Edition, Piece
from jaskel.core.marks.anchor import Carry
from jaskel.core.operations.base import Edited, Meanwhile, Operation, Telling, operation
from jaskel.core.operations.marks import SetMarks, carried_along
from jaskel.core.operations.rewrite import Rewriting, rewritten
from jaskel.core.operations.together import Together
from jaskel.core.source import Recorded, RoomTone, SaidAgain, home_of
from jaskel.core.timebase import Ticks


@operation
@dataclass(frozen=True)
class Append(Rewriting):
    """Add a whole recording at the end."""

    kind: ClassVar[str] = "append"
    recording: str
    length: Ticks

    def edits(self, edition: Edition) -> Sequence[Edited]:
        return [(edition.length, edition.length, (Piece(Recorded(self.recording), 0, self.length),))]

    def carried(self, _since: Meanwhile) -> Append:
        return self

    def summary(self, _telling: Telling) -> str:
        return "added a recording"


def _with_marks(edition: Edition, edits: Sequence[Edited], carries: Sequence[Carry]) -> tuple[Edition, Operation]:
    after, back = rewritten(edition, edits)
    changes = carried_along(edition.marks, carries)
    if not changes:
        return after, back
    after, marks_back = SetMarks.of(changes).apply(after)
    return after, Together((marks_back, back))


@operation
@dataclass(frozen=True)
class Substitute(Operation):
    """Another file of the same sound takes the place of a recording: its places are ``shift`` later there. Marks follow."""

    kind: ClassVar[str] = "substitute"
    version: ClassVar[int] = 2
    recording: str
    by: str
    shift: Ticks
    length: Ticks

    @property
    def carries(self) -> Sequence[Carry]:
        return (Carry(self.recording, self.by, self.by, self.shift, 0.0, self.length),)

    def apply(self, edition: Edition) -> tuple[Edition, Operation]:
        edits = substituted(edition, self.recording, self.by, self.shift, self.length)
        edits += [
            (at, at + piece.length, (replace(piece, source=RoomTone(self.by)),))
            for piece, at in zip(edition.pieces, edition.starts, strict=False)
            if piece.source == RoomTone(self.recording)
        ]
        (carry,) = self.carries
        edits += [
            (at, at + piece.length, (replace(piece, source=carry.line(piece.source)),))
            for piece, at in zip(edition.pieces, edition.starts, strict=False)
            if isinstance(piece.source, SaidAgain) and piece.source.home == self.recording
        ]
        return _with_marks(edition, sorted(edits, key=lambda edit: edit[:2]), self.carries)

    def carried(self, since: Meanwhile) -> Substitute:
        since.check_nothing()
        return self

    def summary(self, _telling: Telling) -> str:
        return "replaced a recording by another file of it"


def substituted(edition: Edition, recording: str, by: str, shift: Ticks, length: Ticks) -> list[Edited]:
    """The edits that put stretches of one recording in the place of those of another."""
    edits: list[Edited] = []
    for piece, at in zip(edition.pieces, edition.starts, strict=False):
        if piece.source == Recorded(recording):
            start, end = max(0, piece.start + shift), min(length, piece.end + shift)
            new = (replace(piece, source=Recorded(by), start=start, end=end),) if start < end else ()
            edits.append((at, at + piece.length, new))
    return edits


@operation
@dataclass(frozen=True)
class Replace(Operation):
    """Put a whole recording in the place of others, where the first of them stands; with none to put, only take them out.

    ``places`` says where theirs lie in it, so that marks follow.
    """

    kind: ClassVar[str] = "replace"
    version: ClassVar[int] = 2
    recordings: tuple[str, ...]
    by: str = ""
    length: Ticks = 0
    places: tuple[Carry, ...] = ()

    @property
    def carries(self) -> Sequence[Carry]:
        return self.places

    def apply(self, edition: Edition) -> tuple[Edition, Operation]:
        return _with_marks(edition, self._edits(edition), self.places)

    def _edits(self, edition: Edition) -> list[Edited]:
        new = (Piece(Recorded(self.by), 0, self.length),) if self.by else ()
        edits: list[Edited] = []
        for piece, at in zip(edition.pieces, edition.starts, strict=False):
            # Lines said again go with what they take the place of.
            gone = isinstance(piece.source, Recorded) and {piece.source.recording, home_of(piece.source)} & {*self.recordings}
            if not gone:
                continue
            if edits and edits[-1][1] == at:
                edits[-1] = (edits[-1][0], at + piece.length, edits[-1][2])
            else:
                edits.append((at, at + piece.length, () if edits else new))
        return edits

    def carried(self, since: Meanwhile) -> Replace:
        since.check_nothing()
        return self

    def summary(self, _telling: Telling) -> str:
        return "joined recordings into a session" if self.by else "took a recording off the page"
