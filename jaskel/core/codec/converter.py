"""The converter: how operations, marks, pieces and editions become plain values and are read from them again.

Fields are read and written by `cattrs <https://catt.rs>`_ as they are declared, so that a new field cannot be forgotten; what a
field is left out of stands at its default. Kinds of operations, marks and processors are told apart by ``kind``. Pieces are
written as short lists, for there are thousands of them.
"""

from __future__ import annotations

from collections.abc import Callable, Mapping
from functools import lru_cache
from typing import Any

from cattrs import Converter
from cattrs.gen import make_dict_structure_fn, make_dict_unstructure_fn
from cattrs.strategies import configure_tagged_union

from jaskel.core.edition import Piece
from jaskel.core.marks.anchor import Anchor
from jaskel.core.marks.mark import KINDS, Mark, Marks
from jaskel.core.operations.base import OPERATIONS, Operation
from jaskel.core.operations.rewrite import Edit
from jaskel.core.picture.framing import Box
from jaskel.core.sound.processor import PROCESSORS, Processor
from jaskel.core.source import Card, Drawn, Recorded, RoomTone, Silence, Source, source_from_json, source_to_json
from jaskel.core.transcript import Word, word_to_json

Values = Mapping[str, Any]

UPCASTERS: dict[tuple[str, int], Callable[[Values], dict[str, Any]]] = {}
"""How operations of a kind and version are read: as plain values of a later one. See :mod:`jaskel.core.codec.upcasters`."""


@lru_cache(maxsize=1024)
def _source(*plain: str) -> Source:
    return source_from_json([*plain])


def piece_to_json(piece: Piece) -> list[Any]:
    """A piece as ``[source, start, end]``, with ``kept, why, lifted`` after them where it is taken out."""
    plain = [source_to_json(piece.source), piece.start, piece.end]
    return plain if piece.kept and not piece.why else [*plain, piece.kept, piece.why, piece.lifted]


def piece_from_json(plain: Any) -> Piece:
    """What :func:`piece_to_json` wrote."""
    source, *rest = plain
    return Piece(_source(*source), *rest)


def _edit_to_json(edit: Edit) -> list[Any]:
    return [edit.begin, edit.end, [piece_to_json(piece) for piece in edit.pieces]]


def _edit_from_json(plain: Any, _: Any = None) -> Edit:
    begin, end, pieces = plain
    return Edit(begin, end, tuple(piece_from_json(piece) for piece in pieces))


def _same(value: Any, _: Any = None) -> Any:
    return value


def _tuples(values: Any, _: Any = None) -> tuple[tuple[Any, ...], ...]:
    return tuple(map(tuple, values))


class _Codec(Converter):
    """A converter that tells the kinds of a base class apart by their ``kind``."""

    def by_kind(self, base: type, find: Any) -> None:
        """Read and write fields declared as ``base``; ``find`` gives the class for plain values."""
        writers: dict[type, Any] = {}

        def write(value: Any) -> dict[str, Any]:
            cls = type(value)
            if cls not in writers:
                writers[cls] = make_dict_unstructure_fn(cls, self, _cattrs_omit_if_default=True)
            version = getattr(cls, "version", 1)
            return {"kind": cls.kind, **({"version": version} if version > 1 else {}), **writers[cls](value)}

        readers: dict[type, Any] = {}

        def read(values: Mapping[str, Any], _: Any) -> Any:
            cls, values = find(values)
            if cls not in readers:
                readers[cls] = make_dict_structure_fn(cls, self)
            return readers[cls](values, cls)

        self.register_unstructure_hook_func(lambda cls: cls is base, write)
        self.register_structure_hook_func(lambda cls: cls is base, read)


def _operation_class(values: Mapping[str, Any]) -> tuple[type[Operation], Mapping[str, Any]]:
    known = values["kind"], values.get("version", 1)
    while known not in OPERATIONS:
        if known not in UPCASTERS:
            raise ValueError(f"there is no operation {values['kind']!r} of version {known[1]}")
        values = UPCASTERS[known](values)
        known = values["kind"], values.get("version", 1)
    return OPERATIONS[known], values


codec = _Codec(omit_if_default=True)
codec.register_unstructure_hook(Piece, piece_to_json)
codec.register_structure_hook(Piece, lambda plain, _: piece_from_json(plain))
codec.register_unstructure_hook(Edit, _edit_to_json)
codec.register_structure_hook(Edit, _edit_from_json)
for kind_of_source in (Recorded, RoomTone, Silence, Card, Drawn):
    codec.register_unstructure_hook(kind_of_source, source_to_json)
codec.register_unstructure_hook_func(lambda cls: cls == Source, source_to_json)
codec.register_structure_hook_func(lambda cls: cls == Source, lambda plain, _: _source(*plain))
codec.register_unstructure_hook(Box, list)
codec.register_structure_hook(Box, lambda plain, _: Box(*plain))
codec.register_unstructure_hook(Word, word_to_json)
codec.register_structure_hook(Word, lambda plain, _: Word(*plain))
_PLAIN_ROWS = (tuple[tuple[int, int], ...], tuple[tuple[str, str, int, int, float], ...])
codec.register_structure_hook_func(lambda cls: cls in _PLAIN_ROWS, _tuples)
codec.register_unstructure_hook_func(lambda cls: cls in _PLAIN_ROWS, lambda rows: [*map(list, rows)])
codec.register_structure_hook_func(lambda cls: cls == dict[str, Any], _same)
configure_tagged_union(Anchor, codec, tag_generator=lambda cls: cls.__name__.lower(), tag_name="kind")
codec.by_kind(Mark, lambda values: (KINDS[values["kind"]], values))
codec.by_kind(Processor, lambda values: (PROCESSORS[values["kind"]], values))
codec.by_kind(Operation, _operation_class)
codec.register_unstructure_hook(Marks, lambda marks: [codec.unstructure(mark, Mark) for mark in marks])
codec.register_structure_hook(Marks, lambda plain, _: Marks.of([codec.structure(mark, Mark) for mark in plain]))
