"""The chain of processors that a track goes through before it is cut."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass, replace
from typing import ClassVar, Self

from jaskel.core.marks.anchor import Carry, Stretch, Whole
from jaskel.core.marks.mark import Mark, Marks, StretchMark, StripMark, mark, strip_parts
from jaskel.core.sound.processor import AS_IT_IS, Chain
from jaskel.core.timebase import Ticks


@mark
@dataclass(frozen=True)
class ChainMark(StripMark):
    """The chain of one strip, whatever session it plays in."""

    kind: ClassVar[str] = "chain"
    chain: Chain


def set_chain(marks: Marks, strip: str, chain: Chain) -> dict[str, Mark | None]:
    """The changes that send a strip through a chain; through none with an empty one."""
    known = next((each for each in marks.all(ChainMark) if each.strip == strip), None)
    if known:
        return {known.id: replace(known, chain=chain) if chain != AS_IT_IS else None}
    track, voice = strip_parts(strip)
    new = ChainMark(marks.free_id(f"chain.{strip}"), (Whole(track),), chain, voice=voice)
    return {new.id: new} if chain != AS_IT_IS else {}


def chains(marks: Marks) -> dict[str, Chain]:
    """The chains of strips that have one."""
    return {each.strip: each.chain for each in marks.all(ChainMark)}


@mark
@dataclass(frozen=True)
class ChainHere(StretchMark):
    """Another chain for a stretch of a ``track``: one sentence with a lorry."""

    kind: ClassVar[str] = "chain here"
    track: str
    chain: Chain

    def carried(self, carry: Carry) -> Self | None:
        moved = super().carried(carry)
        return replace(moved, track=carry.track) if moved and self.track == carry.recording else moved


def set_chain_here(
    marks: Marks, recording: str, track: str, start: Ticks, end: Ticks, chain: Chain | None
) -> dict[str, Mark | None]:
    """The changes that send a stretch of a track through another chain, or with None through the one of the whole track."""
    changes: dict[str, Mark | None] = {}
    for known in marks.within(ChainHere, recording, start, end):
        if known.track == track:
            changes[known.id] = None
            changes |= {each.id: each for each in _beside(marks, known, start, end)}
    if chain is not None:
        id = marks.free_id(f"chain.{track}.{recording}.{start}")
        changes[id] = ChainHere(id, (Stretch(recording, start, end),), track, chain)
    return changes


def _beside(marks: Marks, known: ChainHere, start: Ticks, end: Ticks) -> Iterator[ChainHere]:
    """What is left of a stretch on either side of another."""
    if known.start < start:
        yield replace(known, anchors=(Stretch(known.recording, known.start, start),))
    if known.end > end:
        id = marks.free_id(f"{known.id}+")
        yield replace(known, id=id, anchors=(Stretch(known.recording, end, known.end),))


def chains_wanted(marks: Marks) -> list[tuple[str, Chain]]:
    """Every strip, or track, with every chain that it goes through, in whole or for a stretch."""
    here = [(each.track, each.chain) for each in marks.all(ChainHere)]
    return list(dict.fromkeys([*chains(marks).items(), *here]))
