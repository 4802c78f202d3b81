"""Words of the programme into caption cues.

The limits are those usual in subtitling guidelines: 42 characters a line, two lines, one to six seconds on screen.
"""

from __future__ import annotations

from collections.abc import Iterable, Sequence
from dataclasses import dataclass
from itertools import pairwise

from jaskel.core.captions.lines import LINE, LINES, lines
from jaskel.core.captions.words import ProgrammeWord
from jaskel.core.timebase import RATE, Ticks

LONGEST: Ticks = 6 * RATE
SHORTEST: Ticks = RATE
PAUSE: Ticks = RATE * 7 // 10
"""A pause this long ends a cue."""


@dataclass(frozen=True, slots=True)
class Cue:
    """Lines of text, shown from ``start`` to ``end`` of the programme."""

    start: Ticks
    end: Ticks
    lines: tuple[str, ...]


def cues(words: Sequence[ProgrammeWord], length: Ticks) -> tuple[Cue, ...]:
    """Cues for a programme of ``length``, in order, never overlapping."""
    groups = _without_lone_words(_grouped(words))
    out: list[Cue] = []
    for index, group in enumerate(groups):
        until = groups[index + 1][0].start if index + 1 < len(groups) else length
        end = min(max(group[-1].end, group[0].start + SHORTEST), until)
        if end > group[0].start:
            out.append(Cue(group[0].start, end, lines([item.word.text for item in group])))
    return tuple(out)


def _grouped(words: Iterable[ProgrammeWord]) -> list[list[ProgrammeWord]]:
    groups: list[list[ProgrammeWord]] = []
    for item in words:
        if groups and not _full(groups[-1], item):
            groups[-1].append(item)
        else:
            groups.append([item])
    return groups


FEWEST_LEFT = 3
"""Words that a cue keeps at least when it gives one to a word that would stand alone."""


def _without_lone_words(groups: Sequence[list[ProgrammeWord]]) -> list[list[ProgrammeWord]]:
    """The same groups, but that a word on the screen by itself is joined to its neighbours where the rules allow it.

    It goes to the cue before, is joined by the one after, or gets words from the one before.
    """
    out: list[list[ProgrammeWord]] = []
    for group in groups:
        before = out[-1] if out else None
        if (before and len(before) == 1 and not _breaks_rules([*before, *group])) or (
            before and len(group) == 1 and not _breaks_rules([*before, *group])
        ):
            out[-1] = [*before, *group]
        elif before and len(group) == 1 < FEWEST_LEFT < len(before) and not _breaks_rules([before[-1], *group]):
            out[-1:] = [before[:-1], [before[-1], *group]]
        else:
            out.append(group)
    return out


def _breaks_rules(group: Sequence[ProgrammeWord]) -> bool:
    """Whether words cannot stand on the screen together."""
    pauses = any(after.start - before.end >= PAUSE for before, after in pairwise(group))
    voices = {item.word.voice for item in group}
    long = group[-1].end - group[0].start > LONGEST
    return pauses or long or len(voices) > 1 or len(lines([item.word.text for item in group])) > LINES


def _full(group: list[ProgrammeWord], item: ProgrammeWord) -> bool:
    last = group[-1]
    texts = [each.word.text for each in group]
    return (
        item.start - last.end >= PAUSE
        or item.end - group[0].start > LONGEST
        or item.word.voice != last.word.voice
        or len(lines([*texts, item.word.text])) > LINES
        or (last.word.ends_sentence and sum(map(len, texts)) > LINE)
    )
