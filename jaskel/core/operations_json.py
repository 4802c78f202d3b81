"""Operations as plain values and back: what the log of an edition stores."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import asdict
from typing import Any

from jaskel.core.edition import Piece
from jaskel.core.levels import Level, Levels
from jaskel.core.operations import (
    Adjust,
    Append,
    Become,
    Edit,
    Insert,
    Lift,
    Move,
    Operation,
    PutBack,
    Replace,
    Retype,
    Rewrite,
    SetLevels,
    SetSplices,
    Slip,
    Strike,
    Substitute,
    Together,
    Trim,
)
from jaskel.core.retype import Change
from jaskel.core.splice import Meeting, Splice
from jaskel.core.transcript import Word, word_to_json


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
        case Insert():
            return {"kind": operation.kind, "at": operation.at, "pieces": [_piece_to_json(piece) for piece in operation.pieces]}
        case Together():
            return {"kind": operation.kind, "operations": [to_json(each) for each in operation.operations]}
        case SetSplices():
            return {"kind": operation.kind, "splices": splices_to_json(operation.splices)}
        case SetLevels():
            return {"kind": operation.kind, **levels_to_json(operation.levels)}
        case Become():
            pieces = [_piece_to_json(piece) for piece in operation.pieces]
            by_hand = {"splices": splices_to_json(operation.splices), **levels_to_json(operation.levels)}
            return {"kind": operation.kind, "pieces": pieces, "what": operation.what, **by_hand}
        case _:
            return {"kind": operation.kind, **vars(operation)}


def _piece_to_json(piece: Piece) -> dict[str, Any]:
    plain: dict[str, Any] = {"recording": piece.recording, "start": piece.start, "end": piece.end}
    return {**plain, "kept": piece.kept, "why": piece.why, **({"lifted": True} if piece.lifted else {})}


def splices_to_json(splices: Sequence[tuple[Meeting, Splice | None]]) -> list[Any]:
    """Splices set by hand as plain values."""
    return [[list(meeting), asdict(splice) if splice else None] for meeting, splice in splices]


def splices_from_json(values: Sequence[Any]) -> tuple[tuple[Meeting, Splice | None], ...]:
    """What :func:`splices_to_json` wrote."""
    return tuple((Meeting(*meeting), Splice(**splice) if splice else None) for meeting, splice in values)


def levels_to_json(levels: Levels) -> dict[str, Any]:
    """Levels as plain values."""
    return {"stretches": [list(level) for level in levels.stretches], "tracks": [list(pair) for pair in levels.tracks]}


def levels_from_json(values: Mapping[str, Any]) -> Levels:
    """What :func:`levels_to_json` wrote."""
    tracks = tuple((name, decibels) for name, decibels in values.get("tracks", ()))
    return Levels(tuple(Level(*level) for level in values.get("stretches", ())), tracks)


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
        case Lift.kind:
            return Lift(ranges, values.get("why", "by hand"))
        case Move.kind:
            return Move(ranges, values["to"])
        case Insert.kind:
            return Insert(values["at"], tuple(Piece(**piece) for piece in values["pieces"]))
        case Trim.kind:
            return Trim(values["at"], values["before"], values["after"])
        case Slip.kind:
            return Slip(values["at"], values["by"])
        case SetSplices.kind:
            return SetSplices(splices_from_json(values["splices"]))
        case Adjust.kind:
            levels = levels_from_json(values)
            return Adjust(levels.stretches, levels.tracks)
        case Together.kind:
            return Together(tuple(from_json(each) for each in values["operations"]))
        case Become.kind:
            splices = tuple((meeting, splice) for meeting, splice in splices_from_json(values["splices"]) if splice)
            pieces = tuple(Piece(**piece) for piece in values["pieces"])
            return Become(pieces, splices, levels_from_json(values), values["what"])
        case SetLevels.kind:
            return SetLevels(levels_from_json(values))
        case Substitute.kind:
            return Substitute(values["recording"], values["by"], values["shift"], values["length"])
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
