"""Captions in a second language: texts that were brought, timed to what is said by their times, or by order and length."""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from dataclasses import dataclass, replace
from itertools import groupby
from typing import Literal

from jaskel.core.captions.cues import Cue, Part
from jaskel.core.captions.lines import lines as broken
from jaskel.core.captions.rules import USUAL, Rules
from jaskel.core.timebase import Ticks
from jaskel.core.transcript import Word
from jaskel.core.written import written

Texts = Literal["first", "second", "both"]
"""Which languages captions are in: what is said, the second one, or that below the first."""

BAND = 60
"""Sentences are looked for within so many of where they would be if all were equally long."""

LEFT_OUT, JOINED = 1.2, 0.35
"""What it costs that a sentence has none in the other text, and that two are one there."""


@dataclass(frozen=True, slots=True)
class Unit:
    """A sentence or caption of the second language; from-to of the programme where it has times."""

    text: str
    start: Ticks | None = None
    end: Ticks | None = None


def sentences(words: Sequence[str]) -> list[str]:
    """The words of a text by sentence, as they are written.

    >>> sentences("Das Schiff liegt. Es regnet!".split())
    ['Das Schiff liegt.', 'Es regnet!']
    """
    found: list[list[str]] = [[]]
    for word in words:
        found[-1].append(word)
        if Word(word, 0, 1).ends_sentence:
            found.append([])
    return [written(sentence) for sentence in found if sentence]


def placed(units: Sequence[Unit], cues: Sequence[Cue]) -> list[tuple[int, int, str]]:
    """Which captions (from one up to another, by their numbers) each text stands for; texts of none go with the one before."""
    if units and all(unit.start is not None for unit in units):
        return _by_time(units, cues)
    return _by_length([unit.text for unit in units], cues)


def _by_time(units: Sequence[Unit], cues: Sequence[Cue]) -> list[tuple[int, int, str]]:
    found: list[tuple[int, int, str]] = []
    first = 0
    waiting = ""
    for number, unit in enumerate(units):
        until = first
        end = units[number + 1].start if number + 1 < len(units) else None
        while until < len(cues) and (end is None or (cues[until].start + cues[until].end) // 2 < (end or 0)):
            until += 1
        waiting = f"{waiting} {unit.text}".strip()
        if until > first:
            found.append((first, until, waiting))
            first, waiting = until, ""
    if waiting and found:
        begin, until, text = found[-1]
        found[-1] = begin, until, f"{text} {waiting}"
    return found


def _by_length(texts: Sequence[str], cues: Sequence[Cue]) -> list[tuple[int, int, str]]:
    """Sentences to sentences by their lengths, after Gale and Church, "A Program for Aligning Sentences" (1993).

    It is the cheapest way of pairing one with one, one with two, two with one, or none; a pair costs the more, the more
    unlike its lengths are.
    """
    said = [*_sentences(cues)]
    if not said or not texts:
        return []
    ours = [sum(len(cue.text) for cue in cues[a:b]) for a, b in said]
    theirs = [len(text) for text in texts]
    ratio = sum(ours) / max(1, sum(theirs))
    best: dict[tuple[int, int], tuple[float, tuple[int, int]]] = {(0, 0): (0.0, (0, 0))}
    for i in range(len(ours) + 1):
        middle = round(i * len(theirs) / len(ours))
        for j in range(max(0, middle - BAND), min(len(theirs), middle + BAND) + 1):
            if (known := best.get((i, j))) is None:
                continue
            for di, dj, extra in ((1, 1, 0.0), (1, 2, JOINED), (2, 1, JOINED), (1, 0, LEFT_OUT), (0, 1, LEFT_OUT)):
                if i + di > len(ours) or j + dj > len(theirs):
                    continue
                a, b = sum(ours[i : i + di]), sum(theirs[j : j + dj]) * ratio
                cost = known[0] + extra + (abs(a - b) / (a + b + 20) if di and dj else 0.0)
                if cost < best.get((i + di, j + dj), (float("inf"),))[0]:
                    best[i + di, j + dj] = cost, (i, j)
    at = len(ours), len(theirs)
    steps = []
    while at != (0, 0) and at in best:
        before = best[at][1]
        steps.append((before, at))
        at = before
    found: list[tuple[int, int, str]] = []
    waiting = ""  # what stands before anything that is said
    for (i, j), (ni, nj) in reversed(steps):
        text = " ".join((waiting, *texts[j:nj])).strip()
        waiting = ""
        if ni > i and text:
            found.append((said[i][0], said[ni - 1][1], text))
        elif text and not found:
            waiting = text
        elif text:
            begin, until, known_text = found[-1]
            found[-1] = begin, until, f"{known_text} {text}"
    return found


def _sentences(cues: Sequence[Cue]) -> Iterator[tuple[int, int]]:
    """Captions by sentence: from one up to another."""
    first = 0
    for number, cue in enumerate(cues):
        ends = bool(cue.words) and cue.words[-1].word.ends_sentence
        if ends or number + 1 == len(cues) or cues[number + 1].voice != cue.voice:
            yield first, number + 1
            first = number + 1


def with_second(cues: Sequence[Cue], rules: Rules = USUAL) -> tuple[Cue, ...]:
    """The same captions with their second language: a text that stands for several is parted among them by their lengths."""
    found: list[Cue] = []
    for mark, group in groupby(cues, key=lambda cue: next((item.second for item in cue.words if item.second), None)):
        row = [*group]
        if mark is None:
            found += row
            continue
        words = mark.text.split()
        total, so_far, begin = sum(len(cue.text) for cue in row), 0, 0
        for number, cue in enumerate(row):
            so_far += len(cue.text)
            end = len(words) if number + 1 == len(row) else _cut(words, round(len(words) * so_far / max(1, total)), begin)
            part = words[begin:end]
            found.append(replace(cue, second=broken(part, cue.look.rules(rules)) if part else ()))
            begin = end
    return tuple(found)


def _cut(words: Sequence[str], near: int, least: int) -> int:
    """Where to part words: after a clause that ends within two words of a place, else there."""
    around = sorted(range(max(least, near - 2), min(len(words), near + 3)), key=lambda at: abs(at - near))
    return next((at for at in around if at > 0 and words[at - 1][-1] in ",.;:?!"), max(least, min(near, len(words))))


def in_texts(cues: Sequence[Cue], texts: Texts) -> tuple[Cue, ...]:
    """Captions in the languages that are wanted; those without the second one stay as they are where both are, else they go."""
    if texts == "first":
        return tuple(cues)
    shown = []
    for cue in cues:
        start = cue.start - cue.begin
        below = tuple(
            tuple(Part(word, start, cue.end - cue.begin, at > 0) for at, word in enumerate(line.split())) for line in cue.second
        )
        if texts == "both":
            shown.append(replace(cue, lines=(*cue.lines, *cue.second), said=(*cue.said, *below)) if cue.second else cue)
        elif cue.second:
            shown.append(replace(cue, lines=cue.second, said=below, firsts=()))
    return tuple(shown)
