"""Long rests, and what they become."""

from __future__ import annotations

from bisect import bisect_left, bisect_right
from collections.abc import Iterator, Mapping, Sequence
from itertools import pairwise

from jaskel.core.tidy.cut import RING
from jaskel.core.tidy.finding import Finding, Stretch
from jaskel.core.tidy.heard import clear_of_breaths
from jaskel.core.tidy.settings import Threshold
from jaskel.core.timebase import RATE, Ticks
from jaskel.core.transcript import Word

SOON: Ticks = RATE // 4
"""Laughter so soon after a rest is what the rest was for."""


def long_rests(
    words: Sequence[Word],
    limits: Mapping[str | None, Threshold],
    breaths: Sequence[Stretch] = (),
    laughs: Sequence[Ticks] = (),
    *,
    keep_answers: bool = False,
) -> Iterator[Finding]:
    """Rests between two words that are longer than the voice before them allows.

    What goes is the middle: the end of the word before rings out, and a breath before the next one stays whole.

    Parameters
    ----------
    words
        Everything that sounds, in order.
    limits
        By voice, under None for any other.
    breaths
        From-to of breaths in rests, in order: none is cut off in its middle.
    laughs
        Where somebody begins to laugh: rests before that are left alone.
    keep_answers
        Leave rests between a question and another voice alone.
    """
    for before, after in pairwise(words):
        rest = after.start - before.end
        limit = limits.get(before.voice, limits[None])
        if rest <= max(limit.longer, limit.becomes):
            continue
        if keep_answers and before.voice != after.voice and before.text.rstrip("\"'”’)").endswith("?"):
            continue
        if bisect_left(laughs, before.end) < bisect_right(laughs, after.start + SOON):
            continue
        first, until = _middle(before.end, after.start, limit.becomes, breaths)
        if until > first:
            yield Finding("long rest", first, until, "", rest - (until - first), f"{rest / RATE:.1f} s")


def _middle(begin: Ticks, end: Ticks, becomes: Ticks, breaths: Sequence[Stretch]) -> Stretch:
    """What goes of the rest from ``begin`` to ``end``."""
    first, until = begin + becomes // 2, end - (becomes - becomes // 2)
    near = breaths[bisect_left(breaths, (begin,)) : bisect_left(breaths, (end,))]
    if any(start < first and until < end for start, end in near):
        return first, first  # all of it is one breath
    spared = clear_of_breaths((first, until), near)[1]
    if spared < until:
        # What the breath takes more of the rest is taken off its beginning.
        until, first = spared, begin + max(min(RING, becomes), becomes - (end - spared))
    return clear_of_breaths((first, until), near)
