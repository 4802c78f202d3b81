"""The base of all operations, and their register."""

from __future__ import annotations

from abc import ABC, abstractmethod
from collections.abc import Callable, Iterable, Sequence
from dataclasses import replace
from itertools import pairwise
from typing import TYPE_CHECKING, ClassVar, TypeVar

from jaskel.core.edition import Edition, Piece, strung
from jaskel.core.problem import Problem
from jaskel.core.timebase import Ticks

if TYPE_CHECKING:
    from jaskel.core.marks.anchor import Carry
    from jaskel.core.operations.rewrite import Rewrite
    from jaskel.core.rebase import Since
    from jaskel.core.retype import Change

Range = tuple[Ticks, Ticks]
"""Laid time, from and to."""

Edited = tuple[Ticks, Ticks, tuple[Piece, ...]]
"""From and to in laid time, and what stands there instead."""

Words = Callable[[Range], str]
"""Says what stands in a laid range, as a person would."""


class Operation(ABC):
    """A change of an edition: a plain value that goes through JSON unchanged (:mod:`jaskel.core.codec`).

    Attributes
    ----------
    kind, version
        Name its form in the log. Where the form changes, the version rises, and an upcaster turns older entries into it.
    asked
        Whether a person may ask for it just as it is; others are what something that was asked for comes down to.
    """

    kind: ClassVar[str]
    version: ClassVar[int] = 1
    asked: ClassVar[bool] = False

    @abstractmethod
    def apply(self, edition: Edition) -> tuple[Edition, Operation]:
        """The new edition, and the operation that turns it back into exactly the old one.

        Raises
        ------
        Problem
            ``outside`` when it reaches beyond the edition, and what else may be in its way.
        """

    @abstractmethod
    def carried(self, since: Since) -> Operation:
        """The same with its places carried over what happened since.

        Raises
        ------
        Overlap
            When what it is about was changed meanwhile.
        """

    @abstractmethod
    def summary(self, words: Words) -> str:
        """One line for the history, such as ``struck “so uh” at 3:11``."""

    @property
    def parts(self) -> Sequence[Operation]:
        """The operations it is made of, in the order they are carried out; most are made of themselves only."""
        return (self,)

    @property
    def corrections(self) -> Sequence[Change]:
        """The corrections of words in it, in the order they are made."""
        return ()

    @property
    def carries(self) -> Sequence[Carry]:
        """How places of the material follow where it puts a recording in the place of another."""
        return ()

    def resolved(self, _edition: Edition) -> Operation:
        """The form in which it is written down, where that depends on what it is applied to."""
        return self


OPERATIONS: dict[tuple[str, int], type[Operation]] = {}
"""Every operation that is understood, by kind and version."""

O = TypeVar("O", bound=Operation)  # noqa: E741


def operation(kind: type[O]) -> type[O]:
    """Register an operation."""
    OPERATIONS[kind.kind, kind.version] = kind
    return kind


def apply(edition: Edition, operation: Operation) -> tuple[Edition, Operation]:
    """Carry out ``operation``.

    Returns
    -------
    The new edition, and the operation that turns it back into exactly the old one.

    Raises
    ------
    Problem
        ``nothing-changed`` when it would change nothing, ``outside`` when it reaches beyond the edition.

    Examples
    --------
    >>> from jaskel.core.operations.strike import Strike
    >>> from jaskel.core.source import Recorded
    >>> edition = Edition.of([Piece(Recorded("a"), 0, 480_000)])
    >>> after, inverse = apply(edition, Strike(((0, 96_000),)))
    >>> after.kept_length
    384000
    >>> apply(after, inverse)[0] == edition
    True
    """
    result, inverse = operation.apply(edition)
    if result == edition and not operation.corrections:
        raise Problem("nothing-changed", "That changes nothing: it is already as you want it.")
    return result, inverse


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
    from jaskel.core.operations.rewrite import Edit, Rewrite

    back: list[Edit] = []
    now = list(parts)
    shift = 0
    for number, (begin, end, pieces) in enumerate(zip(places[::2], places[1::2], new, strict=True)):
        length = sum([piece.end - piece.start for piece in pieces])
        back.append(Edit(begin + shift, begin + shift + length, tuple(parts[2 * number + 1])))
        now[2 * number + 1] = pieces
        shift += length - (end - begin)
    return replace(edition, pieces=strung(now)), Rewrite(tuple(back))


def joined(ranges: Iterable[Range]) -> tuple[Range, ...]:
    """Ranges in order, overlapping and touching ones joined, empty ones left out.

    >>> joined([(5, 9), (0, 3), (3, 4), (7, 7)])
    ((0, 4), (5, 9))
    """
    out: list[Range] = []
    for begin, end in sorted((b, e) for b, e in ranges if b < e):
        if out and begin <= out[-1][1]:
            out[-1] = (out[-1][0], max(end, out[-1][1]))
        else:
            out.append((begin, end))
    return tuple(out)
