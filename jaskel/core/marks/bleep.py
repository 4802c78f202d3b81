"""Bleeps: stretches of a track under a tone, which must not be understood and are masked in captions."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, replace
from typing import ClassVar, Self

from jaskel.core.marks.anchor import Carry, Stretch
from jaskel.core.marks.mark import Mark, Marks, StretchMark, mark
from jaskel.core.timebase import Ticks


@mark
@dataclass(frozen=True)
class Bleep(StretchMark):
    """A tone instead of a ``track`` of a recording or session in a stretch of it."""

    kind: ClassVar[str] = "bleep"
    track: str

    def carried(self, carry: Carry) -> Self | None:
        moved = super().carried(carry)
        return replace(moved, track=carry.track) if moved and self.track == carry.recording else moved


def set_bleeps(marks: Marks, wanted: Sequence[tuple[str, str, Ticks, Ticks]], *, on: bool) -> dict[str, Mark | None]:
    """The changes that bleep stretches (recording, track, start, end), or take bleeps off that touch them."""
    changes: dict[str, Mark | None] = {}
    for recording, track, start, end in wanted:
        for known in marks.within(Bleep, recording, start, end):
            if known.track == track:
                changes[known.id] = None
        if on:
            id = marks.free_id(f"bleep.{recording}.{track}.{start}")
            changes[id] = Bleep(id, (Stretch(recording, start, end),), track)
    return changes


def is_bleeped(marks: Marks, recording: str, start: Ticks, end: Ticks) -> bool:
    """Whether most of a stretch lies under a bleep."""
    found = marks.within(Bleep, recording, start, end)
    return any(2 * (min(end, each.end) - max(start, each.start)) >= end - start for each in found)
