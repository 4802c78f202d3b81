"""Breaks: places in a programme for advertising."""

from __future__ import annotations

from dataclasses import dataclass
from typing import ClassVar

from jaskel.core.marks.anchor import Place
from jaskel.core.marks.mark import Mark, mark
from jaskel.core.timebase import Ticks


@mark
@dataclass(frozen=True)
class AdBreak(Mark):
    """A break before the word at its place: silence of ``length`` was put in there. ``sting`` is the bed that sounds in it."""

    kind: ClassVar[str] = "ad break"
    length: Ticks
    sting: str = ""

    @property
    def place(self) -> Place:
        (anchor,) = self.anchors
        assert isinstance(anchor, Place)
        return anchor
