"""What can be done to an edition, each operation with its exact inverse.

``apply(edition, operation)`` gives the new edition and the operation that takes it back. Operations are plain values that go
through JSON unchanged (``operations_json``): the log of them is the saved document.

To add one: write a frozen dataclass with a ``kind``, say what it replaces in ``_edits``, tell it in ``telling``, write it down
in ``operations_json``.
"""

from __future__ import annotations

from collections.abc import Callable, Iterator, Sequence
from dataclasses import dataclass, replace
from typing import ClassVar

from jaskel.core.edition import Edition, Piece, merged, strung
from jaskel.core.levels import AS_RECORDED, Level, Levels
from jaskel.core.problem import Problem
from jaskel.core.retype import Change
from jaskel.core.splice import Meeting, Splice
from jaskel.core.timebase import Ticks
from jaskel.core.trim import slipped, trimmed

Range = tuple[Ticks, Ticks]
"""Laid time, from and to."""


@dataclass(frozen=True)
class Edit:
    """Everything between two laid times becomes ``pieces``."""

    begin: Ticks
    end: Ticks
    pieces: tuple[Piece, ...]


@dataclass(frozen=True)
class Strike:
    """Take ranges out of the running time and leave them readable."""

    kind: ClassVar[str] = "strike"
    ranges: tuple[Range, ...]
    why: str = "by hand"


@dataclass(frozen=True)
class Lift:
    """Take ranges out of the running time and out of sight; a mark stays."""

    kind: ClassVar[str] = "lift"
    ranges: tuple[Range, ...]
    why: str = "by hand"


@dataclass(frozen=True)
class PutBack:
    """Return ranges to the running time."""

    kind: ClassVar[str] = "put back"
    ranges: tuple[Range, ...]


@dataclass(frozen=True)
class Move:
    """Lay ranges, one after the other, at another place."""

    kind: ClassVar[str] = "move"
    ranges: tuple[Range, ...]
    to: Ticks


@dataclass(frozen=True)
class Insert:
    """Lay pieces at a place: a paste, or a rest."""

    kind: ClassVar[str] = "insert"
    at: Ticks
    pieces: tuple[Piece, ...]


@dataclass(frozen=True)
class Trim:
    """Shift the edges of the splice at laid ``at``: where what comes before it ends, where what comes after it begins."""

    kind: ClassVar[str] = "trim"
    at: Ticks
    before: Ticks = 0
    after: Ticks = 0


@dataclass(frozen=True)
class Slip:
    """Shift what is heard between two splices within its recording; ``at`` is where it begins in laid time."""

    kind: ClassVar[str] = "slip"
    at: Ticks
    by: Ticks


@dataclass(frozen=True)
class SetSplices:
    """Make splices in a certain way, or (with None) as they are by themselves."""

    kind: ClassVar[str] = "splice"
    splices: tuple[tuple[Meeting, Splice | None], ...]


@dataclass(frozen=True)
class Adjust:
    """Set the level of stretches of a track, and of whole tracks, in decibels."""

    kind: ClassVar[str] = "adjust"
    stretches: tuple[Level, ...] = ()
    tracks: tuple[tuple[str, float], ...] = ()


@dataclass(frozen=True)
class SetLevels:
    """Have exactly these levels; the inverse of :class:`Adjust`."""

    kind: ClassVar[str] = "levels"
    levels: Levels


@dataclass(frozen=True)
class Substitute:
    """Another file of the same sound takes the place of a recording: its places are ``shift`` later there."""

    kind: ClassVar[str] = "substitute"
    recording: str
    by: str
    shift: Ticks
    length: Ticks


@dataclass(frozen=True)
class Become:
    """Be as at another time, or as another edition is."""

    kind: ClassVar[str] = "become"
    pieces: tuple[Piece, ...]
    splices: tuple[tuple[Meeting, Splice], ...] = ()
    levels: Levels = AS_RECORDED
    what: str = ""


@dataclass(frozen=True)
class Append:
    """Add a whole recording at the end."""

    kind: ClassVar[str] = "append"
    recording: str
    length: Ticks


@dataclass(frozen=True)
class Replace:
    """Put a whole recording in the place of others, where the first of them stands; with none to put, only take them out."""

    kind: ClassVar[str] = "replace"
    recordings: tuple[str, ...]
    by: str = ""
    length: Ticks = 0


@dataclass(frozen=True)
class Retype:
    """Mend words of recordings. The edition stays as it is; its history is where the correction can be taken back."""

    kind: ClassVar[str] = "retype"
    changes: tuple[Change, ...]


@dataclass(frozen=True)
class Rewrite:
    """Replace stretches by other pieces. Every operation comes down to this one, and so does every inverse.

    The edits are in laid time of the edition they are applied to, in order and not overlapping.
    """

    kind: ClassVar[str] = "rewrite"
    edits: tuple[Edit, ...]


@dataclass(frozen=True)
class Together:
    """Several operations as one step, each on what the ones before left. It is called what the first is called."""

    kind: ClassVar[str] = "together"
    operations: tuple[Operation, ...]


Rewriting = Strike | Lift | PutBack | Move | Insert | Trim | Slip | Substitute | Append | Replace | Rewrite
"""Operations on the pieces."""

Operation = Rewriting | SetSplices | Adjust | SetLevels | Become | Retype | Together


def apply(edition: Edition, operation: Operation) -> tuple[Edition, Operation]:
    """Carry out ``operation``.

    Returns
    -------
    The new edition, and the operation that turns it back into exactly the old one.

    Raises
    ------
    Problem
        ``nothing-changed`` when it would change nothing, ``outside`` when it reaches beyond the edition.
    """
    result, inverse = _carried_out(edition, operation)
    if result == edition and not any(corrections(operation)):
        raise Problem("nothing-changed", "That changes nothing: it is already as you want it.")
    return result, inverse


def corrections(operation: Operation) -> Iterator[Change]:
    """The corrections of words in an operation, in the order they are made."""
    if isinstance(operation, Together):
        for each in operation.operations:
            yield from corrections(each)
    elif isinstance(operation, Retype):
        yield from operation.changes


def taken_back(operations: Sequence[Operation]) -> list[Change]:
    """The changes that take back all corrections in ``operations`` (oldest first), in the order they are to be made."""
    return [change.turned for each in reversed(operations) for change in reversed(list(corrections(each)))]


def _carried_out(edition: Edition, operation: Operation) -> tuple[Edition, Operation]:
    match operation:
        case Retype():
            return edition, Retype(tuple(change.turned for change in reversed(operation.changes)))
        case Together():
            return _one_after_another(edition, operation)
        case SetSplices():
            return _with_splices(edition, operation)
        case Adjust() | SetLevels():
            return replace(edition, levels=_levels(edition.levels, operation)), SetLevels(edition.levels)
        case Become():
            result = Edition(operation.pieces, edition.crossfade, operation.splices, operation.levels)
            return result, Become(edition.pieces, edition.splices, edition.levels)
        case _:
            return _rewritten(edition, _edits(edition, operation))


def _one_after_another(edition: Edition, operation: Together) -> tuple[Edition, Together]:
    """Some of them may change nothing after others: what is struck within something larger is gone already."""
    inverses: list[Operation] = []
    for each in operation.operations:
        result, inverse = _carried_out(edition, each)
        if result != edition or isinstance(each, Retype):
            inverses.append(inverse)
        edition = result
    return edition, Together(tuple(reversed(inverses)))


def _with_splices(edition: Edition, operation: SetSplices) -> tuple[Edition, SetSplices]:
    known = dict(edition.splices)
    old = tuple((meeting, known.get(meeting)) for meeting, _ in operation.splices)
    for meeting, splice in operation.splices:
        if splice is None:
            known.pop(meeting, None)
        else:
            known[meeting] = splice
    return replace(edition, splices=tuple(sorted(known.items(), key=lambda item: item[0]))), SetSplices(old)


def _levels(levels: Levels, operation: Adjust | SetLevels) -> Levels:
    if isinstance(operation, SetLevels):
        return operation.levels
    for level in operation.stretches:
        levels = levels.with_stretch(level)
    for track, decibels in operation.tracks:
        levels = levels.with_track(track, decibels)
    return levels


def _rewritten(edition: Edition, edits: Sequence[Edit]) -> tuple[Edition, Rewrite]:
    back: list[Edit] = []
    parts: list[tuple[Piece, ...]] = []
    done = shift = 0
    for edit in edits:
        if not done <= edit.begin <= edit.end <= edition.length:
            raise Problem("outside", "That reaches beyond the end of the edition. Select again and repeat it.")
        length = sum(piece.length for piece in edit.pieces)
        begin = edit.begin + shift
        back.append(Edit(begin, begin + length, edition.cut_out(edit.begin, edit.end)))
        parts += (edition.cut_out(done, edit.begin), edit.pieces)
        done, shift = edit.end, shift + length - (edit.end - edit.begin)
    parts.append(edition.cut_out(done, edition.length))
    return Edition(strung(parts), edition.crossfade, edition.splices, edition.levels), Rewrite(tuple(back))


def _edits(edition: Edition, operation: Rewriting) -> tuple[Edit, ...]:
    match operation:
        case Strike():
            # What is struck already keeps its reason: it was taken out before this.
            return _marked(edition, operation.ranges, lambda p: _with(p, False, operation.why) if p.kept else p)
        case Lift():
            return _marked(edition, operation.ranges, lambda p: _lifted(p, operation.why))
        case Move():
            return _moved(edition, operation)
        case Insert():
            return (Edit(operation.at, operation.at, tuple(merged(operation.pieces))),)
        case Trim():
            return (Edit(*trimmed(edition, operation.at, operation.before, operation.after)),)
        case Slip():
            return tuple(Edit(*edit) for edit in slipped(edition, operation.at, operation.by))
        case Substitute():
            return _substituted(edition, operation)
        case PutBack():
            return _marked(edition, operation.ranges, lambda p: _with(p, True, ""))
        case Append():
            piece = Piece(operation.recording, 0, operation.length)
            return (Edit(edition.length, edition.length, (piece,)),)
        case Replace():
            return _replaced(edition, operation)
        case Rewrite():
            return tuple(replace(edit, pieces=tuple(merged(edit.pieces))) for edit in operation.edits)


def _with(piece: Piece, kept: bool, why: str) -> Piece:
    return Piece(piece.recording, piece.start, piece.end, kept, why)


def _lifted(piece: Piece, why: str) -> Piece:
    return Piece(piece.recording, piece.start, piece.end, False, why if piece.kept else piece.why, True)


def _moved(edition: Edition, operation: Move) -> tuple[Edit, ...]:
    ranges = joined([(begin, min(end, edition.length)) for begin, end in operation.ranges])
    if any(begin < operation.to < end for begin, end in ranges):
        raise Problem("into-itself", "That would move the words into themselves. Choose a place outside of them.")
    moved = tuple(merged(piece for begin, end in ranges for piece in edition.cut_out(begin, end)))
    edits = [Edit(begin, end, ()) for begin, end in ranges]
    return tuple(sorted([*edits, Edit(operation.to, operation.to, moved)], key=lambda edit: (edit.begin, edit.end)))


def _substituted(edition: Edition, operation: Substitute) -> tuple[Edit, ...]:
    edits: list[Edit] = []
    for piece, at in zip(edition.pieces, edition.starts, strict=False):
        if piece.recording == operation.recording:
            start, end = max(0, piece.start + operation.shift), min(operation.length, piece.end + operation.shift)
            new = (replace(piece, recording=operation.by, start=start, end=end),) if start < end else ()
            edits.append(Edit(at, at + piece.length, new))
    return tuple(edits)


def _marked(edition: Edition, ranges: Sequence[Range], mark: Callable[[Piece], Piece]) -> tuple[Edit, ...]:
    edits = []
    for begin, end in joined(ranges):
        begin, end = max(0, begin), min(edition.length, end)
        if begin < end:
            edits.append(Edit(begin, end, tuple(merged(mark(piece) for piece in edition.cut_out(begin, end)))))
    return tuple(edits)


def _replaced(edition: Edition, operation: Replace) -> tuple[Edit, ...]:
    new = (Piece(operation.by, 0, operation.length),) if operation.by else ()
    edits: list[Edit] = []
    for piece, at in zip(edition.pieces, edition.starts, strict=False):
        if piece.recording not in operation.recordings:
            continue
        if edits and edits[-1].end == at:
            edits[-1] = replace(edits[-1], end=at + piece.length)
        else:
            edits.append(Edit(at, at + piece.length, () if edits else new))
    return tuple(edits)


def joined(ranges: Sequence[Range]) -> tuple[Range, ...]:
    """Ranges in order, overlapping and touching ones joined, empty ones left out."""
    out: list[Range] = []
    for begin, end in sorted((b, e) for b, e in ranges if b < e):
        if out and begin <= out[-1][1]:
            out[-1] = (out[-1][0], max(end, out[-1][1]))
        else:
            out.append((begin, end))
    return tuple(out)
