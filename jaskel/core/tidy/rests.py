"""Long rests, and what they become."""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from itertools import pairwise

from jaskel.core.tidy.finding import Finding
from jaskel.core.timebase import Ticks
from jaskel.core.transcript import Word


def long_rests(words: Sequence[Word], longer: Ticks, becomes: Ticks) -> Iterator[Finding]:
    """Rests between two words that are ``longer``, to be as long as ``becomes``.

    What goes is the middle: the end of the word before rings out, and the breath before the next one stays whole.
    """
    for before, after in pairwise(words):
        rest = after.start - before.end
        if rest > max(longer, becomes):
            first = before.end + becomes // 2
            yield Finding("long rest", first, after.start - (becomes - becomes // 2), "", becomes, f"{rest / 48_000:.1f} s")
