"""Where a splice is heard least: a place for its join within what was taken out on both sides.

The words on both sides keep all their sound. A little of what was taken out may play on after the one and ahead of the other,
so the join is looked for among such places: quiet ones, where level and spectrum go over without a step (cf. the join cost of
unit selection synthesis, Hunt and Black, ICASSP 1996).
"""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass
from itertools import pairwise

import numpy as np

from jaskel.core.timebase import RATE, Ticks

Sound = Callable[[str, Ticks, Ticks], np.ndarray]

SLACK: Ticks = RATE * 6 // 100
"""The join is looked for up to 60 ms into what was taken out: further, a struck word would be heard to begin."""

STEP: Ticks = RATE // 200
WINDOW: Ticks = RATE // 50
BANDS = 12

QUIET_WORTH, STEP_WORTH, SPECTRUM_WORTH, SOUND_WORTH = 0.6, 1.0, 0.5, 0.38
"""What a decibel of loudness at the join, of level step and of spectral jump weigh, and a millisecond of struck sound. With
less on the last, joins are smoother, but more is heard of what was struck."""


ENDS, BEGINS = RATE // 100, RATE * 3 // 100
"""Ends of words are not known better than to 10 ms, and beginnings than to 30 ms where another word runs into them: so much of
what was struck costs nothing after the side before, and ahead of the side after."""

NOTICED, MOST_NEW, NEW_WORTH = 3.0, 6.0, 2.0
"""A step that is more than 3 dB larger than the level steps at both places as recorded is heard, and weighs that much more for
each decibel. A voice that sets in after a rest makes a large one wherever it is joined; so it weighs no more than for 6."""


DIES_AWAY, SETS_IN, LONGEST_FADE = 0.28, 0.78, RATE * 15 // 100
"""Where the join itself makes a voice go over into a rest, or a rest into a voice, it fades as voices do by themselves. Beside
the rests of 20 recordings, of other voices and rooms, words die away by 0.28 decibels a millisecond and set in by 0.78 (medians
of 0.13 to 0.54 and 0.37 to 1.3, from 85 to 15 % of the way between room and voice). Over 150 ms at most, for a struck word
must not be heard."""


@dataclass(frozen=True)
class Join:
    """In ticks: how much of what was taken out plays on after the side before, or ahead of the side after; the crossfade."""

    before: Ticks
    after: Ticks
    crossfade: Ticks


def best_join(
    sound: Sound, before: str, end: Ticks, after: str, start: Ticks, crossfade: Ticks, taken_out: Ticks | None
) -> Join:
    """Find the place for the splice of ``before`` up to ``end`` with ``after`` from ``start``.

    ``taken_out`` is how much lies between the two where they are of one recording, else None.
    """
    room = SLACK * 2 if taken_out is None else max(0, taken_out - crossfade)
    most = min(SLACK, room)
    beyond = crossfade + WINDOW
    left = _sides(sound(before, end - WINDOW, end + most + beyond), most, beyond)
    right = _sides(sound(after, start - most - beyond, start + WINDOW)[::-1], most, beyond)
    cost = np.array([[_cost(a, b) for b in right] for a in left])
    reach = STEP * np.arange(len(left))
    struck = np.add.outer(reach, reach)
    charged = np.add.outer(np.maximum(0, reach - ENDS), np.maximum(0, reach - BEGINS))
    cost += SOUND_WORTH * charged * 1000 / RATE
    cost[struck > room] = np.inf
    i, j = np.unravel_index(int(cost.argmin()), cost.shape)
    reaches = int(i + j) * STEP
    return Join(
        int(i) * STEP,
        int(j) * STEP,
        _crossfade(left[i], right[j], crossfade, LONGEST_FADE if taken_out is None else taken_out - reaches),
    )


def _crossfade(left: Side, right: Side, wanted: Ticks, room: Ticks) -> Ticks:
    """How long to fade: longer than ``wanted`` where a step would be heard that neither side had, as far as there is room."""
    rise = right.edge.level - left.edge.level
    if not wanted or abs(rise) - max(left.recorded, right.recorded) <= NOTICED:
        return wanted
    natural = round(abs(rise) / (SETS_IN if rise > 0 else DIES_AWAY) * RATE / 1000)
    return max(wanted, min(natural, LONGEST_FADE, room))


@dataclass(frozen=True)
class Edge:
    """The 20 ms at one side of a join: level and level by bands, in decibels."""

    level: float
    bands: np.ndarray


@dataclass(frozen=True)
class Side:
    """A place for one side of a join: what is beside it, and by how many decibels the level steps there as it was recorded."""

    edge: Edge
    recorded: float


def _sides(sound: np.ndarray, most: Ticks, beyond: Ticks) -> list[Side]:
    """The places from 0 to ``most`` ticks on; ``beyond`` each of them, the sound after the crossfade ends that is taken out."""
    places = range(0, most + 1, STEP)
    edges = [(edge_of(sound[at : at + WINDOW]), edge_of(sound[at + beyond : at + beyond + WINDOW])) for at in places]
    return [Side(edge, level_step(edge, after)) for edge, after in edges]


def edge_of(sound: np.ndarray) -> Edge:
    """Measure 20 ms of stereo sound."""
    mono = sound.mean(axis=1)
    power = np.abs(np.fft.rfft(mono * np.hanning(len(mono)))) ** 2
    edges = np.geomspace(2, len(power) - 1, BANDS + 1).astype(int)
    bands = np.array([power[a : max(b, a + 1)].mean() for a, b in pairwise(edges)])
    return Edge(float(10 * np.log10(np.mean(mono**2) + 1e-9)), 10 * np.log10(bands + 1e-7))


def level_step(a: Edge, b: Edge) -> float:
    """By how many decibels the level jumps from one side to the other."""
    return abs(a.level - b.level)


def spectral_jump(a: Edge, b: Edge) -> float:
    """Mean distance of the band levels in decibels."""
    return float(np.mean(np.abs(a.bands - b.bands)))


def _cost(left: Side, right: Side) -> float:
    a, b = left.edge, right.edge
    quiet, step = (max(a.level, b.level) + 90) * QUIET_WORTH, level_step(a, b)
    new = min(MOST_NEW, max(0.0, step - max(left.recorded, right.recorded) - NOTICED))
    return quiet + STEP_WORTH * step + NEW_WORTH * new + SPECTRUM_WORTH * spectral_jump(a, b)
