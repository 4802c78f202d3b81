"""The base of all operations, and their register."""

from __future__ import annotations

from abc import ABC, abstractmethod
from collections.abc import Callable, Iterable, Sequence
from dataclasses import dataclass
from typing import ClassVar, Protocol, TypeVar

from jaskel.core.edition import Edition, Piece
from jaskel.core.marks.anchor import Carry
from jaskel.core.problem import Problem
from jaskel.core.retype import Change
from jaskel.core.timebase import Ticks

Range = tuple[Ticks, Ticks]
"""Laid time, from and to."""

Edited = tuple[Ticks, Ticks, tuple[Piece, ...]]
"""From and to in laid time, and what stands there instead."""


def _no_words(_stretch: Range) -> str:
    return ""


def _as_laid(laid: Ticks) -> Ticks:
    return laid


@dataclass(frozen=True)
class Telling:
    """What an operation needs to be told as a person would: it knows places of laid time only."""

    words: Callable[[Range], str] = _no_words
    """What stands in a laid range."""

    at: Callable[[Ticks], Ticks] = _as_laid
    """Where a laid time is in the programme, as it was before the operation."""


class Meanwhile(Protocol):
    """What happened since an operation was made, for carrying it over that; see :class:`jaskel.core.rebase.Since`.

    Each of these raises :class:`jaskel.core.rebase.Overlap` where the same was changed.
    """

    def carry(self, laid: Range) -> Range:
        """Where a range lies now."""

    def after(self, operation: Operation) -> Meanwhile:
        """The same as seen from the edition that an operation leads to."""

    def check_marks(self, changed: Iterable[str], off: Iterable[str]) -> None:
        """Refuse to touch marks that were touched."""

    def check_words(self, changes: Iterable[Change]) -> None:
        """Refuse corrections of words that were corrected."""

    def check_kind(self, kind: type[Operation]) -> None:
        """Refuse what there is only one of, where it was set."""

    def check_nothing(self) -> None:
        """Refuse where anything happened at all."""


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
    def carried(self, since: Meanwhile) -> Operation:
        """The same with its places carried over what happened since.

        Raises
        ------
        Overlap
            When what it is about was changed meanwhile.
        """

    @abstractmethod
    def summary(self, telling: Telling) -> str:
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
