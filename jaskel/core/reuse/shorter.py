"""To an exact length: which rests are eased, and which sentences are least missed, until a programme is as long as is wanted.

Rests come first: nobody misses them. What is still too much goes with sentences of which as little as possible is lost: of all
choices with the length that is to go, the one that is worth least, by dynamic programming over sentences and time. A question
and what answers it go together.
"""

from __future__ import annotations

from collections.abc import Collection, Iterator, Sequence
from dataclasses import dataclass
from math import ceil

import numpy as np

from jaskel.core.reuse.alone import alone, harms
from jaskel.core.reuse.highlights import BY_ITSELF, BY_RANK, SAME, Highlight, ranked
from jaskel.core.reuse.sentences import Sentence
from jaskel.core.tidy.rests import long_rests
from jaskel.core.tidy.settings import Threshold
from jaskel.core.timebase import RATE, Ticks
from jaskel.core.transcript import Word

RESTS: Sequence[Ticks] = tuple(RATE * tenths // 20 for tenths in (30, 24, 20, 16, 13, 11, 9))
"""What rests become at most, from 1.5 s to 0.45 s: the longest with which a programme fits."""

SHORTEST_SPARED: Ticks = RATE // 10
"""Where less is spared, a rest is left alone."""

STEP, STEPS = RATE // 10, 3000
"""Lengths are compared in tenths of a second, or so many steps of what is to go."""

OVER = 0.03
"""More than is to go may go by this share of it, or half a sentence."""

EDGE = 3.0
"""So many times as much is lost with the first sentence of all, and with the last."""


@dataclass(frozen=True)
class EasedRests:
    """Rests that become no longer than ``becomes``: from-to of what goes, in programme time."""

    becomes: Ticks
    gone: tuple[tuple[Ticks, Ticks], ...]

    @property
    def spared(self) -> Ticks:
        return sum(end - begin for begin, end in self.gone)


def eased(words: Sequence[Word], surplus: Ticks) -> EasedRests:
    """The rests that have to be eased so that ``surplus`` goes, or as much of it as they have. ``words`` are those heard."""
    found = EasedRests(0, ())
    for becomes in RESTS if surplus > 0 else ():
        limit = Threshold(becomes + SHORTEST_SPARED, becomes)
        rests = long_rests(words, {None: limit}, keep_answers=True)
        found = EasedRests(becomes, tuple((each.start, each.end) for each in rests))
        if found.spared >= surplus:
            # Not more than is to go: the last ones stay as they are.
            return EasedRests(becomes, tuple(_enough(found.gone, surplus)))
    return found


def _enough(gone: Sequence[tuple[Ticks, Ticks]], surplus: Ticks) -> Iterator[tuple[Ticks, Ticks]]:
    left = surplus
    for begin, end in sorted(gone, key=lambda each: each[0] - each[1]):
        if left <= 0:
            return
        yield begin, min(end, begin + left)
        left -= end - begin


def least_missed(
    sentences: Sequence[Sentence], meanings: np.ndarray, surplus: Ticks, stays: Collection[int] = ()
) -> list[Highlight]:
    """The sentences with which ``surplus`` goes and least is lost; none that ``stays``. Each says why it is not missed."""
    units = [unit for unit in _units(sentences) if not any(at in stays for at in range(*unit))]
    if surplus <= 0 or not units:
        return []
    lost, alike = _lost(sentences, meanings)
    rank = ranked(meanings)
    costs = np.array([sum(lost[at] for at in range(*unit)) for unit in units])
    lengths = [sentences[last - 1].end - sentences[first].start for first, last in units]
    return [
        Highlight(*units[at], float(costs[at]), _why(sentences[slice(*units[at])], units[at], alike, rank))
        for at in _chosen(costs, lengths, surplus)
    ]


def _units(sentences: Sequence[Sentence]) -> Iterator[tuple[int, int]]:
    """From-to of what can go by itself: a sentence, or a question with the first sentence of its answer."""
    at = 0
    while at < len(sentences):
        asked = sentences[at].asks and at + 1 < len(sentences) and sentences[at + 1].voice != sentences[at].voice
        yield at, at + 1 + asked
        at += 1 + asked


def _lost(sentences: Sequence[Sentence], meanings: np.ndarray) -> tuple[np.ndarray, np.ndarray]:
    """What is lost with each sentence, and how alike to it the likest other one is."""
    count = len(sentences)
    others = meanings @ meanings.T
    np.fill_diagonal(others, 0)
    alike = others.max(1) if count > 1 else np.zeros(count)
    worth = BY_RANK * ranked(meanings) + BY_ITSELF * np.array([alone([each]) for each in sentences])
    worth *= np.where(alike >= SAME, 0.5, 1.0)
    lost = (0.1 + worth) * np.array([each.length / RATE for each in sentences])
    lost[[0, -1]] *= EDGE
    return lost, alike


def _why(said: Sequence[Sentence], unit: tuple[int, int], alike: np.ndarray, rank: np.ndarray) -> str:
    first = unit[0]
    reasons = [
        *(["another sentence says much the same"] if alike[first] >= SAME else []),
        *(["little else comes back to it"] if rank[first] < 0.35 else []),
        *[*harms(said)][:1],
    ]
    return ", ".join(reasons[:2]) or "it can be spared most easily in this length"


def _chosen(costs: np.ndarray, lengths: Sequence[Ticks], surplus: Ticks) -> list[int]:
    """Which of them to take so that their lengths come to ``surplus`` or little more, at the least cost."""
    unit = max(STEP, surplus / STEPS)
    # Rounded down, so that what is taken is never less than it is counted as.
    steps = [max(1, int(each / unit)) for each in lengths]
    aim = max(1, ceil(surplus / unit))
    most = aim + max(max(1, round(aim * OVER)), max(steps))
    best = np.full(most + 1, np.inf)
    best[0] = 0
    taken = np.zeros((len(steps), most + 1), bool)
    for at, step in enumerate(steps):
        if step > most:
            continue
        tried = np.full(most + 1, np.inf)
        tried[step:] = best[: most + 1 - step] + costs[at]
        taken[at] = tried < best
        best = np.where(taken[at], tried, best)
    enough = np.flatnonzero(best[aim:] < np.inf)
    # A second more than has to go is worse than anything that could be said in it.
    over = np.arange(most + 1 - aim) * unit / RATE * 2
    if len(enough):
        length = aim + int(enough[np.argmin((best[aim:] + over)[enough])])
    else:
        length = int(np.flatnonzero(best < np.inf)[-1])
    found = []
    for at in range(len(steps) - 1, -1, -1):
        if taken[at, length]:
            found.append(at)
            length -= steps[at]
    return found[::-1]
