"""What can be done to an edition, each operation with its exact inverse.

``apply(edition, operation)`` gives the new edition and the operation that takes it back. Operations are plain values that go
through JSON unchanged: the log of them is the saved document.

To add one: write a frozen dataclass with a ``kind``, say what it replaces in ``_edits``, and describe it in ``describe``.
"""

from __future__ import annotations

from collections.abc import Callable, Mapping, Sequence
from dataclasses import dataclass, replace
from typing import Any, ClassVar

from jaskel.core.edition import Edition, Piece, merged, strung
from jaskel.core.problem import Problem
from jaskel.core.retype import Change
from jaskel.core.timebase import Ticks, clock
from jaskel.core.transcript import Word, word_to_json

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
class PutBack:
    """Return ranges to the running time."""

    kind: ClassVar[str] = "put back"
    ranges: tuple[Range, ...]


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


Operation = Strike | PutBack | Append | Replace | Retype | Rewrite


def apply(edition: Edition, operation: Operation) -> tuple[Edition, Rewrite | Retype]:
    """Carry out ``operation``.

    Returns
    -------
    The new edition, and the operation that turns it back into exactly the old one.

    Raises
    ------
    Problem
        ``nothing-changed`` when it would change nothing, ``outside`` when it reaches beyond the edition.
    """
    if isinstance(operation, Retype):
        return edition, Retype(tuple(change.turned for change in reversed(operation.changes)))
    edits = _edits(edition, operation)
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
    result = Edition(strung(parts), edition.crossfade)
    if result == edition:
        raise Problem("nothing-changed", "That changes nothing: the words are already as you want them.")
    return result, Rewrite(tuple(back))


def _edits(edition: Edition, operation: Strike | PutBack | Append | Replace | Rewrite) -> tuple[Edit, ...]:
    match operation:
        case Strike():
            # What is struck already keeps its reason: it was taken out before this.
            return _marked(edition, operation.ranges, lambda p: _with(p, False, operation.why) if p.kept else p)
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


def describe(operation: Operation, words: Callable[[Range], str]) -> str:
    """One line for the history, such as ``struck “so uh” at 3:11``; ``words`` gives the text of a laid range."""
    match operation:
        case Strike() | PutBack():
            ranges = joined(operation.ranges)
            verb = "struck" if isinstance(operation, Strike) else "put back"
            if len(ranges) != 1:
                return f"{verb} {len(ranges)} stretches"
            text = _short(words(ranges[0]))
            return f"{verb} {f'“{text}”' if text else 'a rest'} at {clock(ranges[0][0])}"
        case Append():
            return "added a recording"
        case Retype():
            return _describe_retype(operation.changes)
        case Replace():
            return "joined recordings into a session" if operation.by else "took a recording off the page"
        case Rewrite():
            return "changed the order"


def _describe_retype(changes: Sequence[Change]) -> str:
    if len(changes) != 1:
        return f"retyped {len(changes)} places"
    (change,) = changes
    old, new = (" ".join(word.text for word in words) for words in (change.old, change.new))
    if old == new:
        if {word.voice for word in change.old} != {word.voice for word in change.new}:
            return f"gave “{_short(old)}” to another voice"
        return f"changed where a passage begins at “{_short(old)}”"
    if not new:
        return f"took the text of “{_short(old)}” off"
    return f"retyped “{_short(old)}” as “{_short(new)}”" if old else f"put in “{_short(new)}”"


def _short(text: str) -> str:
    return text if len(text) <= 48 else f"{text[:24].rsplit(' ', 1)[0]} … {text[-20:].split(' ', 1)[-1]}"


def to_json(operation: Operation) -> dict[str, Any]:
    """The operation as plain values, ``kind`` among them."""
    match operation:
        case Rewrite():
            edits = [
                {"begin": e.begin, "end": e.end, "pieces": [_piece_to_json(piece) for piece in e.pieces]}
                for e in operation.edits
            ]
            return {"kind": operation.kind, "edits": edits}
        case Retype():
            changes = [
                {"recording": c.recording, "old": [word_to_json(w) for w in c.old], "new": [word_to_json(w) for w in c.new]}
                for c in operation.changes
            ]
            return {"kind": operation.kind, "changes": changes}
        case _:
            return {"kind": operation.kind, **vars(operation)}


def _piece_to_json(piece: Piece) -> dict[str, Any]:
    return {"recording": piece.recording, "start": piece.start, "end": piece.end, "kept": piece.kept, "why": piece.why}


def from_json(values: Mapping[str, Any]) -> Operation:
    """The operation that :func:`to_json` wrote.

    Raises
    ------
    ValueError
        When the kind is not known.
    """
    ranges = tuple((begin, end) for begin, end in values.get("ranges", ()))
    match values["kind"]:
        case Strike.kind:
            return Strike(ranges, values.get("why", "by hand"))
        case PutBack.kind:
            return PutBack(ranges)
        case Append.kind:
            return Append(values["recording"], values["length"])
        case Replace.kind:
            return Replace(tuple(values["recordings"]), values["by"], values["length"])
        case Retype.kind:
            return Retype(
                tuple(
                    Change(c["recording"], tuple(Word(*w) for w in c["old"]), tuple(Word(*w) for w in c["new"]))
                    for c in values["changes"]
                )
            )
        case Rewrite.kind:
            return Rewrite(
                tuple(Edit(e["begin"], e["end"], tuple(Piece(**piece) for piece in e["pieces"])) for e in values["edits"])
            )
    raise ValueError(f"there is no operation {values['kind']!r}")
