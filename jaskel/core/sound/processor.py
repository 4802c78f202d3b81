"""Processors of a track's sound, in a chain. What they do to samples stands in :mod:`jaskel.media.process`.

Processing comes before the cut: it may have memory (a filter rings on, a compressor remembers), so its result is a file of its
own for each recording and chain. What comes after the cut has none.

To add a processor: write its settings here as a frozen dataclass, register it with :func:`processor`, and say in
``media/process.py`` what it does.
"""

from __future__ import annotations

import hashlib
from dataclasses import dataclass
from typing import ClassVar, TypeVar


@dataclass(frozen=True)
class Processor:
    """One step of a chain.

    Attributes
    ----------
    on
        Whether it does anything; one that is switched off keeps its settings.
    amount
        How much of it is heard, in per cent: 0 is what came in, 100 what it makes of it.
    """

    kind: ClassVar[str]
    on: bool = True
    amount: int = 100

    def __post_init__(self) -> None:
        if not 0 <= self.amount <= 100:
            raise ValueError(f"an amount of {self.amount} % is out of range")


Chain = tuple[Processor, ...]
"""Processors in the order in which sound goes through them."""

AS_IT_IS: Chain = ()

PROCESSORS: dict[str, type[Processor]] = {}
"""Every kind of processor, by its name."""

P = TypeVar("P", bound=Processor)


def processor(kind: type[P]) -> type[P]:
    """Register a kind of processor."""
    PROCESSORS[kind.kind] = kind
    return kind


@processor
@dataclass(frozen=True)
class Gain(Processor):
    """Louder or quieter by so many decibels, before anything else depends on it."""

    kind: ClassVar[str] = "gain"
    decibels: float = 0.0


def heard(chain: Chain) -> Chain:
    """What of a chain changes anything."""
    return tuple(each for each in chain if each.on and each.amount)


def name_of(chain: Chain) -> str:
    """A name for what a chain does, empty where it does nothing; chains that do the same have the same.

    >>> name_of((Gain(on=False),))
    ''
    """
    doing = heard(chain)
    return hashlib.sha256(repr(doing).encode()).hexdigest()[:16] if doing else ""
