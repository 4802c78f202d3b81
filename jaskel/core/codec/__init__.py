"""Operations, marks and editions as plain values and back: what the log and its snapshots store."""

from __future__ import annotations

from collections.abc import Mapping
from typing import Any, cast

from jaskel.core.codec import upcasters
from jaskel.core.codec.converter import codec, piece_from_json, piece_to_json
from jaskel.core.edition import Edition
from jaskel.core.operations.base import Operation
from jaskel.core.operations.legacy import edition_of

VERSION = 2
"""The form of snapshots; the first held pieces, splices and levels apart."""


def to_json(operation: Operation) -> dict[str, Any]:
    """The operation as plain values, ``kind`` and (from 2 on) ``version`` among them."""
    return cast("dict[str, Any]", codec.unstructure(operation, Operation))


def from_json(values: Mapping[str, Any]) -> Operation:
    """The operation that :func:`to_json` wrote, in this form or an earlier one.

    Raises
    ------
    ValueError
        When the kind is not known.
    """
    return cast("Operation", codec.structure(values, cast(Any, Operation)))


def edition_to_json(edition: Edition) -> dict[str, Any]:
    """A whole edition as plain values."""
    return {"version": VERSION, **codec.unstructure(edition, Edition)}


def edition_from_json(values: Mapping[str, Any], empty: Edition) -> Edition:
    """What :func:`edition_to_json` wrote, in this form or the first; ``empty`` is what the edition was before anything."""
    if values["version"] == 1:
        return edition_of({"pieces": values["pieces"], **values["by_hand"]}, empty)
    return codec.structure(values, Edition)


__all__ = [
    "codec",
    "edition_from_json",
    "edition_to_json",
    "from_json",
    "piece_from_json",
    "piece_to_json",
    "to_json",
    "upcasters",
]
