"""Long rests, and what they become."""

from __future__ import annotations

from collections.abc import Iterator, Mapping, Sequence
from itertools import pairwise

from jaskel.core.tidy.finding import Finding
from jaskel.core.tidy.settings import Threshold
from jaskel.core.transcript import Word


def long_rests(
    words: Sequence[Word], limits: Mapping[str | None, Threshold], *, keep_answers: bool = False
) -> Iterator[Finding]:
    """Rests between two words that are longer than the voice before them allows.

    What goes is the middle: the end of the word before rings out, and the breath before the next one stays whole. ``limits``
    are by voice, under None for any other; ``keep_answers`` leaves rests between a question and another voice alone.
    """
    for before, after in pairwise(words):
        rest = after.start - before.end
        limit = limits.get(before.voice, limits[None])
        if rest <= max(limit.longer, limit.becomes):
            continue
        if keep_answers and before.voice != after.voice and before.text.rstrip("\"'”’)").endswith("?"):
            continue
        first = before.end + limit.becomes // 2
        until = after.start - (limit.becomes - limit.becomes // 2)
        yield Finding("long rest", first, until, "", limit.becomes, f"{rest / 48_000:.1f} s")
