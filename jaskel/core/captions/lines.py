"""How words are broken into cues and lines: where speech and grammar break, and as evenly as that allows.

Every way of breaking a stretch is a sequence of cues, each of one line or more. Its cost is the sum of what each break costs
(:mod:`jaskel.core.captions.grammar`), of uneven lines, of cues that are read too quickly or stand too briefly, of sentences
that end within, and of words that stand alone. The cheapest is found by dynamic programming over the words, as paragraphs
are set by Knuth and Plass, "Breaking Paragraphs into Lines" (1981): the best way up to a word is the best way up to where
its last cue begins, and that cue.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, replace
from functools import lru_cache
from itertools import accumulate
from typing import Literal

from jaskel.core.captions.grammar import WELL, costs
from jaskel.core.captions.rules import USUAL, Rules
from jaskel.core.timebase import RATE, Ticks
from jaskel.core.written import written

CUE, LINE, ALONE, CUE_BREAK = 6.0, 2.0, 20.0, 1.5
"""What a cue costs by itself, another line in it, and a cue of one word; breaks between cues cost so much more than in them."""

ENDS_WITHIN = 9.0
"""What it costs that a sentence ends within a line; a third of that at the end of a line within a cue."""

UNEVEN = 12.0
"""What two lines cost of which one is empty; with the square of how uneven they are."""

TOO_FAST, TOO_SHORT = 30.0, 10.0
"""What a cue costs that is read twice as quickly as the rules have it, or stands for no time at all."""

PAUSE_WORTH = 12.0
"""A second of pause makes a break cheaper by so much."""


Before = Literal["", "cue", "line", "together"]
"""What somebody wants before a word: that a cue or a line begins with it, or that none does; empty, as the rules have it."""


@dataclass(frozen=True, slots=True)
class Spoken:
    """A word as it is captioned: its text, from-to in ticks from where its stretch begins, and what is wanted before it."""

    text: str
    start: Ticks
    end: Ticks
    before: Before = ""


KEPT = 500.0
"""What a break costs where somebody wants none: it is made only where no line would hold what stands together."""

Broken = tuple[tuple[tuple[int, int], ...], ...]
"""Cues, each of lines, each from one word up to another by their numbers."""


Edges = Sequence[tuple[int, int]]


@lru_cache(16_384)
def broken(words: tuple[Spoken, ...], rules: Rules, after: Ticks = 0) -> Broken:
    """The words of a stretch in cues and lines.

    Parameters
    ----------
    words
        Of one voice, without a pause that ends a cue; none longer than a line.
    after
        For how many ticks nothing is said after the last.
    """
    count = len(words)
    if not count:
        return ()
    texts = [word.text for word in words]
    edges = _edges(texts)
    breaks = costs(texts)
    ends = [0, *accumulate(breaks[number] == WELL and number > 0 for number in range(count)), 0]
    for number in range(1, count):
        pause = (words[number].start - words[number - 1].end) / RATE
        breaks[number] -= min(breaks[number], PAUSE_WORTH * max(0.0, pause - 0.1))
        if before := words[number].before:
            breaks[number] = KEPT if before == "together" else 0.0
    wanted = [0, *accumulate(word.before in ("line", "cue") and number > 0 for number, word in enumerate(words)), 0]
    best: list[float] = [0.0] + [float("inf")] * count
    way: list[tuple[int, tuple[tuple[int, int], ...]]] = [(0, ())] * (count + 1)
    for end in range(1, count + 1):
        until = words[end].start if end < count else words[-1].end + after
        closing = CUE_BREAK * breaks[end] if end < count else 0.0
        if end < count and words[end].before == "line":
            closing = KEPT  # a line is wanted, not a caption
        for start in range(end - 1, -1, -1):
            if end - start > 1 and words[end - 1].end - words[start].start > rules.longest:
                break
            found = _cue(edges, breaks, wanted, start, end, rules)
            if found is None:
                break
            cost, lines = found
            within = ends[end] - ends[start + 1]
            if within:
                bound = sum(ends[first + 1] - ends[first] for first, _ in lines[1:])
                cost += ENDS_WITHIN * (within - bound) + ENDS_WITHIN / 3 * bound
            cost += (
                best[start]
                + closing
                + _timing(words, edges, start, end, until, rules)
                + (ALONE if end - start == 1 and count > 1 else 0.0)
            )
            if cost < best[end]:
                best[end], way[end] = cost, (start, lines)
    out: list[tuple[tuple[int, int], ...]] = []
    at = count
    while at:
        start, lines = way[at]
        out.append(lines)
        at = start
    return tuple(reversed(out))


def _edges(texts: Sequence[str]) -> list[tuple[int, int]]:
    """Where each word begins and ends when all stand on one line."""
    edges: list[tuple[int, int]] = []
    whole = ""
    for text in texts:
        whole = written((whole, text)) if whole else text
        edges.append((len(whole) - len(text), len(whole)))
    return edges


def _width(edges: Edges, start: int, end: int) -> int:
    """Characters of the words from ``start`` up to ``end`` on one line."""
    return edges[end - 1][1] - edges[start][0]


def _cue(
    edges: Edges, breaks: Sequence[float], wanted: Sequence[int], start: int, end: int, rules: Rules
) -> tuple[float, tuple[tuple[int, int], ...]] | None:
    """The cheapest lines of a cue, None where it does not fit. Where a break is ``wanted``, no line goes on."""
    width = _width(edges, start, end)
    if width <= rules.characters and wanted[end] == wanted[start + 1]:
        return CUE, ((start, end),)
    if rules.lines < 2 or width > rules.lines * (rules.characters + 1):
        return None
    best: tuple[float, tuple[tuple[int, int], ...]] | None = None
    for middle in range(start + 1, end):
        first, second = _width(edges, start, middle), _width(edges, middle, end)
        if first > rules.characters or wanted[middle] != wanted[start + 1]:
            break
        if second <= rules.characters and wanted[end] == wanted[middle + 1]:
            cost = CUE + LINE + breaks[middle] + UNEVEN * ((first - second) / rules.characters) ** 2
            rest: tuple[tuple[int, int], ...] = ((middle, end),)
        elif rules.lines == 3 and (two := _cue(edges, breaks, wanted, middle, end, _two(rules))) is not None:
            cost = LINE + breaks[middle] + two[0] + UNEVEN * ((first - second / 2) / rules.characters) ** 2
            rest = two[1]
        else:
            continue
        if best is None or cost < best[0]:
            best = cost, ((start, middle), *rest)
    return best


@lru_cache(64)
def _two(rules: Rules) -> Rules:
    return replace(rules, lines=2)


def _timing(words: Sequence[Spoken], edges: Edges, start: int, end: int, until: Ticks, rules: Rules) -> float:
    """What it costs that a cue is read too quickly, or stands too briefly, even if it stays until the next."""
    room = max(words[end - 1].end, min(until - rules.gap, words[start].start + rules.longest)) - words[start].start
    seconds = max(0.05, room / RATE)
    fast = _width(edges, start, end) / seconds / rules.rate - 1
    cost = TOO_FAST * fast * fast if fast > 0 else 0.0
    if room < rules.shortest:
        cost += TOO_SHORT * (1 - room / rules.shortest)
    return cost


def lines(words: Sequence[str], rules: Rules = USUAL) -> tuple[str, ...]:
    """Words broken into lines, as many as it takes.

    >>> lines("We put the plank in the steamer, and go home for the night.".split(), Rules(characters=34))
    ('We put the plank in the steamer,', 'and go home for the night.')
    """
    slowly = replace(rules, longest=LONG, rate=5.0)
    spoken = tuple(Spoken(text, number * RATE * 5, number * RATE * 5 + RATE * 5) for number, text in enumerate(words))
    return tuple(written(words[a:b]) for cue in broken(spoken, slowly) for a, b in cue)


LONG: Ticks = 10**12
"""As long as it takes."""
