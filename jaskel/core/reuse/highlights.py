"""Highlights: what of an episode one would tell again in so many seconds.

Sentences are ranked by how much others say what they say (LexRank: Erkan and Radev, 2004, by what they mean instead of their
words), how well they stand alone, and how they are said. What is told together is a *run*: one sentence, or a few that follow
one another, such as a question with its answer. From all runs those are taken that are worth most and together have the length
asked for, by dynamic programming. The first of each chapter counts more, so that the choice is spread over the episode; what
says the same as something better counts less (after Carbonell and Goldstein, "The use of MMR", 1998).
"""

from __future__ import annotations

from collections.abc import Collection, Iterator, Sequence
from dataclasses import dataclass

import numpy as np

from jaskel.core.reuse.alone import alone, harms
from jaskel.core.reuse.sentences import Sentence
from jaskel.core.timebase import RATE, Ticks

LONGEST_RUN = 4
"""Sentences in a run."""

TOGETHER: Ticks = 3 * RATE
"""A longer rest parts what is told together."""

STEP, STEPS = RATE // 10, 3000
"""Lengths are compared in tenths of a second, or so many steps of what is asked for."""

CLOSE = 0.025
"""How far a choice may be from the length asked for."""

BY_RANK, BY_ITSELF, BY_SOUND = 0.45, 0.4, 0.15
"""How much counts what others say too, how well it stands alone, and how it is said."""

FIRST_OF_CHAPTER = 2.0
"""What the first that is chosen of a chapter is worth beside that, where there is time for something of each."""

LEAST_OF_CHAPTER: Ticks = 4 * RATE
"""With less time for each chapter nothing speaks for all of them, with twice as much everything."""

FORCE = 1.3
"""So many times as loud as its voice usually is, a sentence is said with force."""

CUT = 0.15
"""What every cut costs the listener; fragments fill up no time."""

SAME = 0.65
"""So alike two runs say the same; from half of it on the worse one counts less."""


@dataclass(frozen=True)
class Highlight:
    """Sentences ``first`` to ``last`` (excluded) of those that were asked about, what they are worth, and why."""

    first: int
    last: int
    worth: float
    why: str


@dataclass(frozen=True)
class Wish:
    """What is asked for: a length in ticks, which sentences have to be in it, and which must not."""

    length: Ticks
    pinned: Collection[int] = ()
    refused: Collection[int] = ()


def ranked(meanings: np.ndarray) -> np.ndarray:
    """How central each sentence is, 0 to 1: the share of a walk from sentence to like sentence that is spent there."""
    count = len(meanings)
    if count < 2:
        return np.ones(count)
    like = np.clip(meanings @ meanings.T - 0.15, 0, None)
    np.fill_diagonal(like, 0)
    sums = like.sum(1, keepdims=True)
    steps = np.where(sums > 0, like / np.where(sums > 0, sums, 1), 1 / count)
    share = np.full(count, 1 / count)
    for _ in range(60):
        share = 0.15 / count + 0.85 * share @ steps
    order = share.argsort().argsort()
    found: np.ndarray = order / (count - 1)
    return found


def runs_of(sentences: Sequence[Sentence], within: Sequence[int] = ()) -> list[tuple[int, int]]:
    """What could be told together: from-to among sentences; none goes over one of the borders ``within``."""
    borders = set(within)
    found = []
    for first, sentence in enumerate(sentences):
        for last in range(first + 1, min(first + LONGEST_RUN, len(sentences)) + 1):
            each = sentences[last - 1]
            if last > first + 1:
                changes = each.voice != sentences[last - 2].voice
                # Another voice goes on only where it was asked.
                if last - 1 in borders or each.rest > TOGETHER or (changes and not sentences[last - 2].asks):
                    break
            if each.asks and each.voice != sentence.voice and last > first + 1:
                break
            found.append((first, last))
    return found


def highlights(sentences: Sequence[Sentence], meanings: np.ndarray, begins: Sequence[int], wish: Wish) -> list[Highlight]:
    """The best choice of a length, in order of time.

    Parameters
    ----------
    sentences, meanings
        What is said, and what it means: shape (sentences, directions), each of length 1.
    begins
        With which sentences chapters begin.
    wish
        Where less is said than is asked for, all of it that may be is chosen.
    """
    runs = [run for run in runs_of(sentences, begins) if not any(at in wish.refused for at in range(*run))]
    if not runs:
        return []
    worth = _worth(sentences, meanings, runs)
    pinned = np.array([any(at in wish.pinned for at in range(*run)) for run in runs])
    told = worth - CUT + 100.0 * pinned
    lengths = np.array([_length(sentences, run) for run in runs])
    each = wish.length / max(1, len(begins))
    spread = FIRST_OF_CHAPTER * min(1.0, max(0.0, each / LEAST_OF_CHAPTER - 1))
    chosen = _chosen(len(sentences), set(begins), runs, told, lengths, wish.length, spread)
    return [Highlight(*runs[at], float(worth[at]), why(sentences[slice(*runs[at])])) for at in chosen]


def _length(sentences: Sequence[Sentence], run: tuple[int, int]) -> Ticks:
    return sentences[run[1] - 1].end - sentences[run[0]].start


def _worth(sentences: Sequence[Sentence], meanings: np.ndarray, runs: Sequence[tuple[int, int]]) -> np.ndarray:
    """What each run is worth for each second it takes, times those seconds."""
    rank = ranked(meanings)
    seconds = np.array([max(0.5, _length(sentences, run) / RATE) for run in runs])
    whole = np.array([alone(sentences[slice(*run)]) for run in runs])
    central = np.array([rank[slice(*run)].mean() for run in runs])
    sound = np.array([_said(sentences[slice(*run)]) for run in runs])
    worth = BY_RANK * central + BY_ITSELF * whole + BY_SOUND * sound
    worth *= np.where(whole < 0.35, 0.3, 1.0)  # nothing makes good what cannot be understood
    sums = np.concatenate([np.zeros((1, meanings.shape[1])), meanings.cumsum(0)])
    means = np.array([sums[last] - sums[first] for first, last in runs])
    means /= np.maximum(np.linalg.norm(means, axis=1, keepdims=True), 1e-9)
    order = np.argsort(-worth)
    for place, at in enumerate(order[: 4 * len(sentences)]):
        first, last = runs[at]
        before = order[max(0, place - 200) : place]
        better = [other for other in before if runs[other][1] <= first or last <= runs[other][0]]
        if better:
            alike = float((means[better] @ means[at]).max())
            worth[at] *= 1 - 0.5 * min(1.0, max(0.0, (alike - SAME / 2) / (SAME / 2)))
    found: np.ndarray = worth**2 * np.minimum(seconds, 20) / 10
    return found


def _said(run: Sequence[Sentence]) -> float:
    """How it is said, 0 to 1: laughter or applause after it, and quicker or with more weight than is usual of the voice."""
    quick, loud = max(each.quick for each in run), max(each.loud for each in run)
    return min(1.0, 0.7 * bool(run[-1].reaction) + 0.6 * min(1.0, max(abs(quick - 1), loud - 1) * 2))


def _chosen(
    count: int,
    begins: Collection[int],
    runs: Sequence[tuple[int, int]],
    worth: np.ndarray,
    lengths: np.ndarray,
    wanted: Ticks,
    spread: float,
) -> list[int]:
    """The runs, none over another, that are worth most among all choices of the length that is wanted, or next to it.

    ``best[place, told, length]`` is the most that a choice among the sentences before ``place`` can be worth; ``told`` is 1
    where something of the chapter that goes on there is in it.
    """
    unit = max(STEP, wanted / STEPS)
    steps = np.maximum(1, np.round(lengths / unit).astype(int))
    aim = max(1, round(wanted / unit))
    near = max(1, round(aim * CLOSE))
    most = aim + near
    best = np.full((count + 1, 2, most + 1), -np.inf)
    best[0, 0, 0] = 0
    came = np.full((count + 1, 2, most + 1), NOTHING, np.int32)
    ending: dict[int, list[int]] = {}
    for at, (_, last) in enumerate(runs):
        ending.setdefault(last, []).append(at)
    for place in range(1, count + 1):
        best[place] = best[place - 1]
        for at in ending.get(place, ()):
            step = int(steps[at])
            for told in (0, 1) if step <= most else ():
                value = np.full(most + 1, -np.inf)
                value[step:] = best[runs[at][0], told, : most + 1 - step] + worth[at] + (0 if told else spread)
                better = value > best[place, 1]
                best[place, 1, better], came[place, 1, better] = value[better], 2 * at + told
        if place in begins:
            # Of the chapter that begins here nothing is told yet.
            better = best[place, 1] > best[place, 0]
            best[place, 0, better], came[place, 0, better] = best[place, 1, better], ANEW
            best[place, 1] = -np.inf
    total = best[count].max(0)
    possible = np.flatnonzero(total > -np.inf)
    inside = possible[(possible >= aim - near) & (possible <= most)]
    length = int(max(inside, key=lambda each: total[each]) if len(inside) else min(possible, key=lambda each: abs(each - aim)))
    return [*_back(count, int(best[count, :, length].argmax()), length, came, runs, steps)][::-1]


NOTHING, ANEW = -1, -2
"""How a state was come to, beside by a run: from the sentence before, or by the beginning of a chapter."""


def _back(
    place: int, told: int, length: int, came: np.ndarray, runs: Sequence[tuple[int, int]], steps: np.ndarray
) -> Iterator[int]:
    """The runs of a choice, from its end to its beginning."""
    while place > 0:
        by = int(came[place, told, length])
        if by == ANEW:
            told = 1
            by = int(came[place, told, length])
        if by == NOTHING:
            place -= 1
        else:
            at, told = divmod(by, 2)
            yield at
            place, length = runs[at][0], length - int(steps[at])


def why(run: Sequence[Sentence]) -> str:
    """The reason for a highlight, in words."""
    against = [*harms(run)]
    reasons = [
        *(["a question with its answer"] if run[0].asks and len(run) > 1 else []),
        *([f"{run[-1].reaction} follows"] if run[-1].reaction else []),
        *(["said with force"] if max(each.loud for each in run) > FORCE else []),
        *(["said quickly"] if max(each.quick for each in run) > 1.25 else []),
        "stands alone" if not against else f"{against[0]}, but others come back to it",
    ]
    return ", ".join(reasons)
