"""Stretches of what is said that are found by what they mean: sentences, and some sentences together.

A sentence alone is near to what is asked for where it says just that; some together where one needs the other to be understood.
"""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from dataclasses import dataclass

from jaskel.core.passages import Spoken
from jaskel.core.reuse.sentences import Sentence, sentences_of
from jaskel.core.timebase import RATE, Ticks
from jaskel.core.written import written

LEAST = 4
"""Words of a sentence that is looked at by itself."""

TOGETHER = 70
"""Words of sentences that are looked at together, at most; half of them are in the next stretch as well."""

APART: Ticks = 4 * RATE
"""After so long a rest something else is spoken of."""

SAME_PLACE: Ticks = 20 * RATE
"""Of what is found so near to something nearer in meaning, that is enough."""


@dataclass(frozen=True)
class SaidStretch:
    """From-to in ticks, and what is said."""

    text: str
    start: Ticks
    end: Ticks


def stretches_of(words: Sequence[Spoken]) -> list[SaidStretch]:
    """All that is said, in stretches; they lie over one another."""
    sentences = sentences_of(words)
    alone = [SaidStretch(each.text, each.start, each.end) for each in sentences if each.last - each.first >= LEAST]
    return [*alone, *_together(sentences)]


def _together(sentences: Sequence[Sentence]) -> Iterator[SaidStretch]:
    first = last = 0
    while last < len(sentences):
        count, last = 0, first
        while last < len(sentences):
            each = sentences[last]
            long = each.last - each.first
            if last > first and (count + long > TOGETHER or each.rest > APART):
                break
            count, last = count + long, last + 1
        if last > first + 1:
            said = sentences[first:last]
            yield SaidStretch(written(each.text for each in said), said[0].start, said[-1].end)
        parted = last < len(sentences) and sentences[last].rest > APART
        first = last if parted or last == first + 1 else (first + last + 1) // 2
