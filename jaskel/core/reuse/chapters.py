"""Chapters: where the subject changes.

A subject is a stretch of sentences that point the same way in the space of what they mean. Of all ways to part an episode the
one is taken whose stretches hold together best (kernel change points: Harchaoui and Cappé, "Retrospective multiple
change-point estimation with kernels", 2007), found by dynamic programming. A long rest, a question of another voice and words
that open something new speak for a border. Each further chapter has to be worth a price, as in Arlot, Celisse and Harchaoui,
"A kernel multiple change-point algorithm via model selection", 2019.
"""

from __future__ import annotations

import re
from collections.abc import Sequence
from dataclasses import dataclass
from math import ceil, log

import numpy as np

from jaskel.core.reuse.sentences import Sentence
from jaskel.core.timebase import RATE, Ticks

HOUR: Ticks = 3600 * RATE

TWO: Ticks = 240 * RATE
"""What is no shorter than four minutes may have two chapters, however few there are in an hour."""

PRICE = 0.5
"""What a chapter has to be worth, to the spread of an average sentence about its subject."""

WORTH_OF_REST, WORTH_OF_QUESTION, WORTH_OF_OPENER = 0.5, 0.4, 0.5
"""How much speaks for a border, in the same measure: a rest of two seconds or more, a question by another voice, an opener."""

LONG_REST: Ticks = 2 * RATE

OPENERS = re.compile(
    r"(so |well |and |but |okay |right |now )*"
    r"(let's (talk|turn|move|go|start|begin)|let me (ask|turn)|moving on|next up|next (question|topic)|finally|first of all"
    r"|to begin with|anyway|another (thing|question|story)|in other news|now (to|for|on)\b|what about|how about|tell me about"
    r"|i (want|wanted|would like) to (ask|talk)|back to|speaking of|on (another|a different) )",
    re.IGNORECASE,
)
"""English beginnings of sentences that open another subject."""


@dataclass(frozen=True)
class Density:
    """How many chapters there may be in an hour."""

    least: float = 4
    most: float = 12


USUAL = Density()


def borders(sentences: Sequence[Sentence], meanings: np.ndarray, density: Density = USUAL) -> list[int]:
    """The indexes of the sentences with which chapters begin, the first of all among them.

    Parameters
    ----------
    sentences
        In order of time.
    meanings
        What each means, shape (sentences, directions), each of length 1.
    density
        How many there may be; an episode too short for two has one.
    """
    if not sentences:
        return []
    length = sentences[-1].end - sentences[0].start
    most = min(len(sentences), max(2 if length >= TWO else 1, round(density.most * length / HOUR)))
    least = min(most, max(1, ceil(density.least * length / HOUR - 0.5)))
    if most == 1:
        return [0]
    costs = _costs(sentences, meanings, shortest=round(HOUR / density.most / 3))
    ways = _ways(costs, _speaks_for(sentences), most)
    spread = costs[0, len(sentences)] / len(sentences)
    price = PRICE * spread * log(max(2.0, len(sentences) / 2))
    best = min(range(least, most + 1), key=lambda count: ways[count - 1][0] + price * count)
    return ways[best - 1][1]


def _costs(sentences: Sequence[Sentence], meanings: np.ndarray, shortest: Ticks) -> np.ndarray:
    """How badly sentences from one to another (excluded) hold together; infinite where that would be too short a chapter."""
    count = len(sentences)
    weights = np.sqrt([each.last - each.first for each in sentences])
    scaled = meanings.astype(np.float64) * weights[:, None]
    # Sums of the products of all pairs, so that those of any stretch are four look-ups.
    sums = np.zeros((count + 1, count + 1))
    sums[1:, 1:] = (scaled @ scaled.T).cumsum(0).cumsum(1)
    total = np.concatenate(([0.0], weights.cumsum()))
    diagonal = np.diagonal(sums)
    alike = diagonal[None, :] + diagonal[:, None] - sums - sums.T
    heavy = np.maximum(total[None, :] - total[:, None], 1e-9)
    costs: np.ndarray = heavy - alike / heavy
    starts = np.array([each.start for each in sentences] + [sentences[-1].end])
    costs[starts[None, :] - starts[:, None] < min(shortest, int(starts[-1] - starts[0]))] = np.inf
    return costs


def _speaks_for(sentences: Sequence[Sentence]) -> np.ndarray:
    """How much speaks for a border before each sentence."""
    found = np.zeros(len(sentences))
    for index, each in enumerate(sentences[1:], 1):
        before = sentences[index - 1]
        found[index] = (
            WORTH_OF_REST * min(1.0, each.rest / LONG_REST)
            + WORTH_OF_QUESTION * (each.asks and each.voice != before.voice)
            + WORTH_OF_OPENER * bool(OPENERS.match(each.text))
        )
    return found


def _ways(costs: np.ndarray, speaks_for: np.ndarray, most: int) -> list[tuple[float, list[int]]]:
    """The best way to part sentences into 1, 2, … chapters: what it costs, and where they begin."""
    count = len(speaks_for)
    step = costs[0, count] / count  # what speaks for a border is told in the spread of a sentence
    best = np.full((most + 1, count + 1), np.inf)
    best[0, 0] = 0
    came = np.zeros((most + 1, count + 1), int)
    for chapter in range(1, most + 1):
        beginning = best[chapter - 1, :count] - (step * speaks_for if chapter > 1 else 0)
        paths = beginning[:, None] + costs[:count, :]
        came[chapter] = paths.argmin(0)
        best[chapter] = paths[came[chapter], np.arange(count + 1)]
    ways = []
    for chapter in range(1, most + 1):
        starts, at = [], count
        for left in range(chapter, 0, -1):
            at = int(came[left, at])
            starts.append(at)
        ways.append((float(best[chapter, count]), starts[::-1]))
    return ways
