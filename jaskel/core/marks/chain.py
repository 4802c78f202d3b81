"""The chain of processors that a track goes through before it is cut."""

from __future__ import annotations

from dataclasses import dataclass, replace
from typing import ClassVar

from jaskel.core.marks.anchor import Whole
from jaskel.core.marks.mark import Mark, Marks, mark
from jaskel.core.sound.processor import AS_IT_IS, Chain


@mark
@dataclass(frozen=True)
class ChainMark(Mark):
    """The chain of one track, whatever session it plays in."""

    kind: ClassVar[str] = "chain"
    chain: Chain

    @property
    def track(self) -> str:
        (anchor,) = self.anchors
        assert isinstance(anchor, Whole)
        return anchor.recording


def set_chain(marks: Marks, track: str, chain: Chain) -> dict[str, Mark | None]:
    """The changes that send a track through a chain; through none with an empty one."""
    known = next((each for each in marks.all(ChainMark) if each.track == track), None)
    if known:
        return {known.id: replace(known, chain=chain) if chain != AS_IT_IS else None}
    new = ChainMark(marks.free_id(f"chain.{track}"), (Whole(track),), chain)
    return {new.id: new} if chain != AS_IT_IS else {}


def chains(marks: Marks) -> dict[str, Chain]:
    """The chains of tracks that have one."""
    return {each.track: each.chain for each in marks.all(ChainMark)}
