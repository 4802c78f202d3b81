"""What words titles and a summary.

A writer is anything with the two methods of :class:`Writer`. Packages offer theirs as an entry point of the group
``jaskel.writers``, a larger model for instance; the packaged one puts titles together by patterns and lets those who spoke sum
up. A summary is sentences by their numbers: whoever makes it, each leads to where it was said.
"""

from __future__ import annotations

from collections.abc import Collection, Sequence
from functools import cache
from importlib.metadata import entry_points
from typing import Protocol

import numpy as np

from jaskel.core.reuse.sentences import Sentence
from jaskel.core.reuse.summary import summary, titles

GROUP = "jaskel.writers"


class Writer(Protocol):
    """Proposes titles and a summary.

    Attributes
    ----------
    about
        How it does that, as people are told beside what it proposes.
    """

    about: str

    def titles(self, sentences: Sequence[Sentence], about: Sequence[str], again: int) -> list[tuple[str, str]]:
        """Titles, each with its tone; ``about`` is what is spoken of, and ``again`` how often others were asked for."""
        ...

    def summary(
        self, sentences: Sequence[Sentence], meanings: np.ndarray, begins: Sequence[int], count: int, refused: Collection[int]
    ) -> list[int]:
        """Which sentences tell the whole, in order; none that is ``refused``."""
        ...


class Packaged:
    """The writer that comes with Jaskel."""

    about = "Put together by patterns, of words that were said."

    def titles(self, sentences: Sequence[Sentence], about: Sequence[str], again: int) -> list[tuple[str, str]]:
        return titles(sentences, about, again)

    def summary(
        self, sentences: Sequence[Sentence], meanings: np.ndarray, begins: Sequence[int], count: int, refused: Collection[int]
    ) -> list[int]:
        return summary(sentences, meanings, begins, count, refused)


@cache
def writer() -> Writer:
    """The writer that was plugged in, else the packaged one."""
    for each in entry_points(group=GROUP):
        found: Writer = each.load()()
        return found
    return Packaged()


def summed_up(sentences: Sequence[Sentence], meanings: np.ndarray, begins: Sequence[int], count: int, again: int) -> list[int]:
    """A summary; asked for ``again``, it is made of sentences that were in none before, as long as there are enough."""
    told: set[int] = set()
    found: list[int] = []
    for _ in range(again + 1):
        left = len(sentences) - len(told)
        found = writer().summary(sentences, meanings, begins, count, told if left >= count else set())
        told = {*told, *found} if left >= count else {*found}
    return found
