"""Carrying places of an edition over edits that were made meanwhile, so that two people can work on different passages."""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from dataclasses import dataclass

from jaskel.core.operations import Become, Operation, Range, Rewrite, Together
from jaskel.core.timebase import Ticks


class Overlap(Exception):
    """Something was changed within the place that is to be carried over."""


@dataclass(frozen=True, slots=True)
class _Changed:
    """In laid time of the edition before: ``begin`` to ``end`` was replaced by what is ``longer`` by so much."""

    begin: Ticks
    end: Ticks
    longer: Ticks


class Since:
    """What happened since a revision, known by the inverses of the operations, oldest first."""

    def __init__(self, inverses: Sequence[Operation]) -> None:
        self._steps: list[list[_Changed]] = []
        for inverse in _flat(inverses):
            if isinstance(inverse, Become):
                self._steps.append([_Changed(0, 2**62, 0)])
            elif isinstance(inverse, Rewrite):
                self._steps.append(_changed(inverse))

    def carry(self, laid: Range) -> Range:
        """Where a range lies now; of a place, begin and end are the same.

        Raises
        ------
        Overlap
            When something within it was changed.
        """
        begin, end = laid
        for step in self._steps:
            shift = 0
            for changed in step:
                # Of an insertion, begin and end are the same, too: it is within the range where it stands inside of it.
                if (changed.begin < end and changed.end > begin) or (begin == end and changed.begin < begin < changed.end):
                    raise Overlap
                if changed.end <= begin:
                    shift += changed.longer
            begin, end = begin + shift, end + shift
        return begin, end


def _flat(inverses: Sequence[Operation]) -> Iterator[Operation]:
    for inverse in inverses:
        if isinstance(inverse, Together):
            # An inverse takes back what was done last first.
            yield from _flat(inverse.operations[::-1])
        else:
            yield inverse


def _changed(inverse: Rewrite) -> list[_Changed]:
    changed = []
    shift = 0
    for edit in inverse.edits:
        old = sum(piece.length for piece in edit.pieces)
        new = edit.end - edit.begin
        changed.append(_Changed(edit.begin - shift, edit.begin - shift + old, new - old))
        shift += new - old
    return changed
