"""What is to be heard in a recording besides its words."""

from __future__ import annotations

from collections.abc import Iterable, Iterator, Sequence
from dataclasses import dataclass

from jaskel.core.tidy.finding import Finding, Stretch, plain, set_of
from jaskel.core.timebase import RATE, Ticks
from jaskel.core.transcript import Word

SOFTER = -10.0
"""A breath that is softened is still there, ten decibels lower: without any, a voice sounds cut together."""

SHORTEST_BREATH: Ticks = RATE * 8 // 100
"""Of a breath that words overlap, less than 80 ms is no breath any more."""

ENDING: Ticks = RATE * 2 // 100
"""A word rings out over 20 ms; that is none either."""

LAUGHS = set_of("ha haha hahaha hahahaha hehe heh laughs laughter laughing laugh chuckles chuckle")
"""How a transcript writes laughter; in brackets, as captions do, or as it sounds."""


@dataclass(frozen=True)
class Heard:
    """From-to of where there is voice, of breaths, and of bursts of voice that come as regularly as laughter does, in order."""

    voice: Sequence[Stretch] = ()
    breaths: Sequence[Stretch] = ()
    bursts: Sequence[Stretch] = ()


NOTHING = Heard()
"""Nobody has listened yet."""


def strung(parts: Iterable[Heard]) -> Heard:
    """What was heard in one part of a recording after the other, together."""
    known = list(parts)
    return Heard(
        [each for part in known for each in part.voice],
        [each for part in known for each in part.breaths],
        [each for part in known for each in part.bursts],
    )


def breaths_between(words: Sequence[Word], breaths: Iterable[Stretch]) -> Iterator[Stretch]:
    """Breaths as far as they lie in the rests between words."""
    index = 0
    for start, end in breaths:
        while index < len(words) and words[index].end <= start:
            index += 1
        # What reaches into a word is its beginning or its ending there.
        start = max(start, words[index - 1].end + ENDING) if index else start
        following = words[index] if index < len(words) else None
        if following and following.start < start:
            start = following.end + ENDING
            following = words[index + 1] if index + 1 < len(words) else None
        end = min(end, following.start) if following else end
        if end - start >= SHORTEST_BREATH:
            yield start, end


def breath_findings(words: Sequence[Word], breaths: Iterable[Stretch]) -> Iterator[Finding]:
    """Breaths between words, to be softened."""
    for start, end in breaths_between(words, breaths):
        yield Finding("breath", start, end, "", why=f"a breath of {(end - start) / RATE:.2f} s")


def laughter(words: Sequence[Word], bursts: Iterable[Stretch]) -> list[Ticks]:
    """Where somebody begins to laugh: as the transcript has it, or bursts of voice for which it has no words."""
    written = [word.start for word in words if plain(word.text.strip("[]()*♪ ")) in LAUGHS]
    index, heard = 0, []
    for start, end in bursts:
        while index < len(words) and words[index].end <= start:
            index += 1
        said = sum(max(0, min(end, word.end) - max(start, word.start)) for word in words[index : index + 12])
        if said * 2 < end - start:
            heard.append(start)
    return sorted([*written, *heard])


def clear_of_breaths(part: Stretch, breaths: Sequence[Stretch]) -> Stretch:
    """The same stretch with no edge within a breath. A breath belongs to what is said after it: with that it stays or goes."""
    start, end = part
    for breath in breaths:
        if breath[0] < start < breath[1] <= end:
            start = breath[0]
        if start < breath[0] < end < breath[1]:
            end = breath[0]
    return start, end
