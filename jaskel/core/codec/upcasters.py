"""Upcasters: what entries of the log that were written in an earlier form are today, from plain values to plain values."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from typing import Any, cast

from jaskel.core.codec.converter import UPCASTERS, Values, codec, piece_to_json
from jaskel.core.marks.mark import Mark
from jaskel.core.marks.splice import Splice, SpliceMark, id_of
from jaskel.core.operations.base import Operation
from jaskel.core.operations.legacy import meeting_of, piece_of
from jaskel.core.operations.marks import SetMarks


def upcaster(kind: str, version: int) -> Callable[[Callable[[Values], dict[str, Any]]], Callable[[Values], dict[str, Any]]]:
    """Register how entries of a kind and version are read."""

    def register(read: Callable[[Values], dict[str, Any]]) -> Callable[[Values], dict[str, Any]]:
        UPCASTERS[kind, version] = read
        return read

    return register


def _pieces_now(pieces: Sequence[Values]) -> list[Any]:
    return [piece_to_json(piece_of(**piece)) for piece in pieces]


@upcaster("insert", 1)
def _insert(values: Values) -> dict[str, Any]:
    return {**values, "version": 2, "pieces": _pieces_now(values["pieces"])}


@upcaster("rewrite", 1)
def _rewrite(values: Values) -> dict[str, Any]:
    changes = [[each["begin"], each["end"], _pieces_now(each["pieces"])] for each in values["edits"]]
    return {"kind": "rewrite", "version": 2, "changes": changes}


@upcaster("replace", 1)
def _replace(values: Values) -> dict[str, Any]:
    return {**values, "version": 2}


@upcaster("splice", 1)
def _splices(values: Values) -> dict[str, Any]:
    told = "changed a splice" if len(values["splices"]) == 1 else f"changed {len(values['splices'])} splices"
    changes: dict[str, Mark | None] = {}
    for plain, splice in values["splices"]:
        meeting = meeting_of(*plain)
        id = id_of(meeting)
        changes[id] = SpliceMark(id, (meeting,), Splice(**splice)) if splice else None
    return cast("dict[str, Any]", codec.unstructure(SetMarks.of(changes, told), Operation))
