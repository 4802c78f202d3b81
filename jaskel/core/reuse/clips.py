"""Clips: short stretches that begin with a hook, end with a point, and are understood alone."""

from __future__ import annotations

import re
from collections.abc import Collection, Sequence
from dataclasses import dataclass, replace

import numpy as np

from jaskel.core.edition import Edition, Piece
from jaskel.core.marks.anchor import Stretch
from jaskel.core.marks.graphic import LONGEST as LONGEST_TITLE
from jaskel.core.marks.graphic import TitleHere
from jaskel.core.reuse.alone import HARMS, harms
from jaskel.core.reuse.highlights import Highlight, ranked
from jaskel.core.reuse.sentences import Sentence
from jaskel.core.source import CLOSING, Recorded
from jaskel.core.timebase import RATE, Ticks

SHORTEST, LONGEST = 15 * RATE, 60 * RATE

LONGEST_HOOK = 16
"""Words that are heard before somebody scrolls on."""

SAME_CHAPTER = 0.8
"""What a clip counts beside a better one of the same chapter."""

_SURPRISES = re.compile(
    r"\b(never|nobody|no one|nothing|everybody|always|most people|the truth|the trouble|secret|mistake|wrong|strange|surpris\w+"
    r"|the (first|last|only|worst|best|hardest|biggest) |afraid|instead|imagine|why|how|what if|if you)\b|\d"
    r"|\b(two|three|four|five|six|seven|eight|nine|ten|twenty|thirty|forty|fifty|hundred|thousand|million)\b",
    re.IGNORECASE,
)
_POINTS = re.compile(
    r"\b(so|that's why|that is why|in the end|because of that|and that's|that's (what|how|when|it)|the point|what matters"
    r"|which means|i would|i knew|we knew|you have to|you need|ever since|to this day|every time|never|always|again)\b",
    re.IGNORECASE,
)


@dataclass(frozen=True)
class Lengths:
    """How long clips may be, in ticks."""

    shortest: Ticks = SHORTEST
    longest: Ticks = LONGEST


USUAL = Lengths()


def clips(
    sentences: Sequence[Sentence],
    meanings: np.ndarray,
    begins: Sequence[int],
    count: int,
    lengths: Lengths = USUAL,
    refused: Collection[int] = (),
) -> list[Highlight]:
    """Up to so many clips that do not overlap, in order of time; none goes over a border, none has a ``refused`` sentence."""
    rank = ranked(meanings)
    hooks = [_hook(each) for each in sentences]
    points = [_point(each, sentences[at + 1] if at + 1 < len(sentences) else None) for at, each in enumerate(sentences)]
    centre = np.concatenate(([0.0], rank.cumsum()))
    borders, shut = set(begins), set(refused)
    # In a short recording long clips would leave no room for the others.
    room = (sentences[-1].end - sentences[0].start) / max(1, count)
    longest = min(lengths.longest, max(6 * lengths.shortest // 5, round(0.8 * room)))
    runs: list[tuple[float, int, int]] = []
    for first, sentence in enumerate(sentences):
        for last in range(first + 1, len(sentences) + 1):
            if last - 1 in shut or (last - 1 > first and last - 1 in borders):
                break
            length = sentences[last - 1].end - sentence.start
            if length > longest:
                break
            if length >= lengths.shortest:
                central = float(centre[last] - centre[first]) / (last - first)
                runs.append((hooks[first] + points[last - 1] + 0.6 * central - 0.1 * length / lengths.longest, first, last))
    return _best(sentences, runs, begins, count)


def _best(
    sentences: Sequence[Sentence], runs: list[tuple[float, int, int]], begins: Sequence[int], count: int
) -> list[Highlight]:
    chapter = np.searchsorted(np.array(begins), np.arange(len(sentences)), side="right")
    taken: list[tuple[float, int, int]] = []
    used: set[int] = set()
    left = sorted(runs, reverse=True)
    while left and len(taken) < count:
        best = max(left[:400], key=lambda run: run[0] * (SAME_CHAPTER if chapter[run[1]] in used else 1))
        taken.append(best)
        used.add(int(chapter[best[1]]))
        left = [run for run in left if run[2] <= best[1] or best[2] <= run[1]]
    return [
        Highlight(first, last, worth, _why(sentences, first, last))
        for worth, first, last in sorted(taken, key=lambda run: run[1])
    ]


def _hook(sentence: Sentence) -> float:
    """How well a clip begins with it, 0 to 1."""
    words = sentence.last - sentence.first
    against = sum(HARMS[each] for each in harms([sentence]) if each != "asks and is not answered")
    worth = 0.5 + 0.25 * sentence.asks + 0.25 * bool(_SURPRISES.search(sentence.text)) - 0.2 * (words > LONGEST_HOOK)
    return max(0.0, worth - against)


def _point(sentence: Sentence, following: Sentence | None) -> float:
    """How well a clip ends with it, 0 to 1."""
    against = {"does not end": 0.5, "asks and is not answered": 0.5, "speaks of the talk itself": 0.5}
    worth = 0.4 + 0.2 * bool(_POINTS.search(sentence.text)) + 0.3 * bool(sentence.reaction)
    if following is None or following.voice != sentence.voice or following.rest >= RATE:
        worth += 0.25
    return max(0.0, worth - sum(against.get(each, 0) for each in harms([sentence])))


def _why(sentences: Sequence[Sentence], first: int, last: int) -> str:
    opening, ending = sentences[first], sentences[last - 1]
    if opening.asks:
        hook = "begins with a question"
    elif _SURPRISES.search(opening.text):
        hook = "begins with something to wonder about"
    else:
        hook = "begins on its own"
    if ending.reaction:
        point = f"ends before {ending.reaction}"
    elif last == len(sentences) or sentences[last].voice != ending.voice:
        point = "ends where the voice has said its piece"
    else:
        point = "ends with a point" if _POINTS.search(ending.text) else "ends with its sentence"
    return f"{hook}, {point}"


TITLE, CLOSING_CARD = 3 * RATE, 2 * RATE
"""How long the name of a clip is seen, and its closing card."""


def dressed(edition: Edition, name: str) -> Edition:
    """A clip with its name as a title, where its first words are, and with the closing card."""
    first = next((piece for piece in edition.pieces if piece.kept and isinstance(piece.source, Recorded)), None)
    pieces = edition.pieces
    if not (pieces and pieces[-1].source == CLOSING):
        pieces = (*pieces, Piece(CLOSING, 0, CLOSING_CARD))
    if first is None or not isinstance(first.source, Recorded):
        return replace(edition, pieces=pieces)
    id = edition.marks.free_id("title")
    stretch = Stretch(first.source.recording, first.start, min(first.end, first.start + TITLE))
    title = TitleHere(id, (stretch,), name[:LONGEST_TITLE], "top")
    return replace(edition, pieces=pieces, marks=edition.marks.changed({id: title}))
