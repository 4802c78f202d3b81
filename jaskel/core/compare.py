"""How two states of editions differ: what one keeps that the other does not."""

from __future__ import annotations

from collections import defaultdict
from dataclasses import dataclass
from difflib import SequenceMatcher
from typing import Literal

from jaskel.core.edition import Edition
from jaskel.core.operations.base import Range, joined
from jaskel.core.source import Recorded
from jaskel.core.timebase import RATE, Ticks
from jaskel.core.transcript import Transcript
from jaskel.core.written import written

SMALLEST: Ticks = RATE // 20
"""Differences below 50 ms are a matter of edges and are not listed."""

Side = Literal["first", "second"]


@dataclass(frozen=True, slots=True)
class Only:
    """A stretch that only one side keeps, from laid ``at`` of it on."""

    side: Side
    at: Ticks
    length: Ticks


def compared(first: Edition, second: Edition) -> tuple[Ticks, list[Only]]:
    """How much both keep, and what only one of them keeps, in order of each.

    What is compared is which sound is kept, wherever it stands: moving words is no difference.
    """
    kept = {"first": _kept(first), "second": _kept(second)}
    only = [*_only("first", first, kept["second"]), *_only("second", second, kept["first"])]
    length = sum(end - begin for ranges in kept["first"].values() for begin, end in ranges)
    alone = sum(
        piece_end - piece_begin
        for name, ranges in kept["first"].items()
        for begin, end in ranges
        for piece_begin, piece_end in _beside((begin, end), kept["second"].get(name, ()))
    )
    return length - alone, only


@dataclass(frozen=True, slots=True)
class Reads:
    """Words of one recording that read otherwise in two states, from ``at`` of it on.

    Where only the voice is another, ``before`` and ``after`` are the same.
    """

    recording: str
    at: Ticks
    before: str
    after: str


def corrected(recording: str, before: Transcript, after: Transcript) -> list[Reads]:
    """How the words of a recording differ between two states, in order."""
    one, two = ([(word.text, word.voice) for word in said.words] for said in (before, after))
    out = []
    for tag, a, b, c, d in SequenceMatcher(None, one, two, autojunk=False).get_opcodes():
        if tag != "equal":
            place = after.words[c] if c < d else before.words[a]
            texts = (written(word.text for word in words) for words in (before.words[a:b], after.words[c:d]))
            out.append(Reads(recording, place.start, *texts))
    return out


def _kept(edition: Edition) -> dict[str, tuple[Range, ...]]:
    found: dict[str, list[Range]] = defaultdict(list)
    for piece in edition.pieces:
        if piece.kept and isinstance(piece.source, Recorded):
            found[piece.source.recording].append((piece.start, piece.end))
    return {name: joined(ranges) for name, ranges in found.items()}


def _only(side: Side, edition: Edition, other: dict[str, tuple[Range, ...]]) -> list[Only]:
    return [
        Only(side, run.laid + begin - run.start, end - begin)
        for run in edition.kept_runs
        if isinstance(run.source, Recorded)
        for begin, end in _beside((run.start, run.end), other.get(run.source.recording, ()))
        if end - begin >= SMALLEST
    ]


def _beside(stretch: Range, others: tuple[Range, ...]) -> list[Range]:
    """What of a stretch none of the others covers."""
    at, end = stretch
    out = []
    for begin, until in others:
        if until <= at or begin >= end:
            continue
        if begin > at:
            out.append((at, begin))
        at = max(at, until)
    if at < end:
        out.append((at, end))
    return out
