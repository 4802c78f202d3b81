"""Selects: stretches marked as good, in a colour."""

from __future__ import annotations

from dataclasses import dataclass
from typing import ClassVar, Literal, get_args

from jaskel.core.marks.mark import Home, StretchMark, mark

Colour = Literal["amber", "rose", "sky", "moss", "violet", "slate"]
COLOURS: tuple[Colour, ...] = get_args(Colour)


@mark
@dataclass(frozen=True)
class Select(StretchMark):
    """A good stretch of the material, in one of six colours; with a ``note``, and a ``rating`` from 1 to 3 where it has one."""

    kind: ClassVar[str] = "select"
    home: ClassVar[Home] = "episode"
    colour: Colour
    who: str = ""
    note: str = ""
    rating: int = 0
