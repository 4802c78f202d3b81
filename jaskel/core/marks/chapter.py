"""Chapters: named parts of an episode."""

from __future__ import annotations

from dataclasses import dataclass
from typing import ClassVar

from jaskel.core.marks.anchor import Place
from jaskel.core.marks.mark import Home, Mark, mark


@mark
@dataclass(frozen=True)
class Chapter(Mark):
    """A chapter from a place of the material to where the next begins; ``by_hand`` where a person made or changed it."""

    kind: ClassVar[str] = "chapter"
    home: ClassVar[Home] = "episode"
    title: str
    by_hand: bool = True

    @property
    def place(self) -> Place:
        (anchor,) = self.anchors
        assert isinstance(anchor, Place)
        return anchor
