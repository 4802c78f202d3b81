"""Levels: how loud stretches of a track are, and whole tracks, in decibels to what was recorded."""

from __future__ import annotations

from bisect import bisect_left
from collections.abc import Iterator
from dataclasses import dataclass
from functools import cached_property
from typing import NamedTuple

from jaskel.core.timebase import RATE, Ticks

MUTED = -120.0
"""From here down nothing is heard at all."""

LOUDEST = 24.0

LEVEL_FADE: Ticks = RATE // 50
"""A stretch of another level is faded into and out of over 20 ms, outside of it."""


class Level(NamedTuple):
    """``track`` of ``recording`` (a session, or the recording itself) from ``start`` to ``end`` of it, at ``decibels``."""

    recording: str
    track: str
    start: Ticks
    end: Ticks
    decibels: float


def gain(decibels: float) -> float:
    """The factor of a level; 0 where it is muted."""
    return 0.0 if decibels <= MUTED else float(10 ** (decibels / 20))


@dataclass(frozen=True)
class Levels:
    """The levels of an edition: of ``stretches``, in order and not overlapping on a track, and of whole ``tracks``."""

    stretches: tuple[Level, ...] = ()
    tracks: tuple[tuple[str, float], ...] = ()

    def with_stretch(self, level: Level) -> Levels:
        """The same with a stretch set; what it covers of others gives way. At 0 dB it is as recorded."""
        known, track = self.stretches, (level.recording, level.track)
        first = bisect_left(known, (*track, level.start))
        if first and known[first - 1][:2] == track and known[first - 1].end > level.start:
            first -= 1
        last = bisect_left(known, (*track, level.end), first)
        parts = [part for each in known[first:last] for part in _beside(each, level)]
        if level.decibels:
            parts.append(level)
        return Levels((*known[:first], *sorted(parts), *known[last:]), self.tracks)

    def with_track(self, track: str, decibels: float) -> Levels:
        """The same with the level of a whole track set."""
        others = {name: known for name, known in self.tracks if name != track}
        if decibels:
            others[track] = decibels
        return Levels(self.stretches, tuple(sorted(others.items())))

    @cached_property
    def of_tracks(self) -> dict[str, float]:
        return dict(self.tracks)

    def within(self, recording: str, start: Ticks, end: Ticks) -> Iterator[Level]:
        """The stretches of a recording that touch a part of it."""
        first = bisect_left(self.stretches, (recording, "", 0, 0, 0.0))
        for level in self.stretches[first:]:
            if level.recording != recording:
                return
            if level.start < end and level.end > start:
                yield level


AS_RECORDED = Levels()
"""Nothing is set."""


def _beside(known: Level, level: Level) -> Iterator[Level]:
    """What is left of a stretch beside another one of the same track."""
    if known.start < level.start:
        yield known._replace(end=level.start)
    if known.end > level.end:
        yield known._replace(start=level.end)
