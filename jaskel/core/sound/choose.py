"""Choosing music for a place: by mood, and by how well its own length fits."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

from jaskel.core.timebase import Ticks


@dataclass(frozen=True, slots=True)
class Sound:
    """A sound of a library: what it is for, how it feels, how long it is, and whether its end joins its beginning."""

    id: str
    name: str
    kind: str
    moods: tuple[str, ...]
    length: Ticks
    loops: bool


@dataclass(frozen=True, slots=True)
class Choice:
    """What is chosen, from where on it plays, and whether it is looped; so that it ends with its place."""

    sound: Sound
    start: Ticks
    loop: bool


def chosen(sounds: Sequence[Sound], length: Ticks, moods: Sequence[str] = ()) -> Choice | None:
    """The sound that fits a place of so many ticks best; None where there is none at all.

    Of those with most of the moods, one that is long enough without a loop, and of these the shortest: it begins so much
    later that its own end is heard. Where none is long enough, a loop, else the longest.

    >>> theme = Sound("a", "", "theme", ("warm",), 100, False)
    >>> bed = Sound("b", "", "bed", ("warm",), 60, True)
    >>> chosen([theme, bed], 80).start, chosen([theme, bed], 200).sound.id
    (20, 'b')
    """
    if not sounds:
        return None
    most = max(len({*each.moods} & {*moods}) for each in sounds)
    fitting = [each for each in sounds if len({*each.moods} & {*moods}) == most]
    long = [each for each in fitting if each.length >= length]
    if long:
        best = min(long, key=lambda each: (each.length, each.id))
        return Choice(best, best.length - length, loop=False)
    loops = [each for each in fitting if each.loops]
    best = max(loops or fitting, key=lambda each: (each.length, each.id))
    return Choice(best, 0, loop=best.loops)
