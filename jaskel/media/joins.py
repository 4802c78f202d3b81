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

from jaskel.core.source import Source
from jaskel.core.timebase import RATE, Ticks

Sound = Callable[[Source, Ticks, Ticks], np.ndarray]

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


SETS_IN, LONGEST_FADE = 0.78, RATE * 15 // 100
"""Where the join itself makes a rest go over into a voice, it fades in as voices do by themselves: beside the rests of 20
recordings by 0.78 decibels a millisecond (median; 0.37 to 1.3, from 15 to 85 % of the way between room and voice). Over 150 ms
at most, for a struck word must not be heard."""

SECONDS = 8
NEAR: Ticks = SECONDS * RATE // 2
"""Where it makes a voice go over into a rest, it fades out as quickly as the level falls around: where it falls most in each of
eight seconds, by the median. In a hall that takes several times as long as in a small room."""

ROOM, STILL, STILL_FADE = 10, 12.0, RATE // 20
"""What is less than 12 dB above the quietest tenth around is no voice. From one such place to another nothing is lost by going
over slowly, within 50 ms."""


@dataclass(frozen=True)
class Join:
    """In ticks: how much of what was taken out plays on after the side before, or ahead of the side after; the crossfade."""

    before: Ticks
    after: Ticks
    crossfade: Ticks


def best_join(
    sound: Sound, before: Source, end: Ticks, after: Source, start: Ticks, crossfade: Ticks, taken_out: Ticks | None
) -> Join:
    """Find the place for the splice of ``before`` up to ``end`` with ``after`` from ``start``.

    ``taken_out`` is how much lies between the two where they are of one recording, else None.
    """
    room = SLACK * 2 if taken_out is None else max(0, taken_out - crossfade)
    most = min(SLACK, room)
    beyond = crossfade + WINDOW
    left = _sides(sound(before, end - WINDOW, end + most + beyond), most, beyond, 1)
    right = _sides(sound(after, start - most - beyond, start + WINDOW)[::-1], most, beyond, -1)
    cost = np.array([[_cost(a, b) for b in right] for a in left])
    reach = STEP * np.arange(len(left))
    struck = np.add.outer(reach, reach)
    charged = np.add.outer(np.maximum(0, reach - ENDS), np.maximum(0, reach - BEGINS))
    cost += SOUND_WORTH * charged * 1000 / RATE
    cost[struck > room] = np.inf
    i, j = np.unravel_index(int(cost.argmin()), cost.shape)
    longest = LONGEST_FADE if taken_out is None else min(LONGEST_FADE, taken_out - int(i + j) * STEP)
    if crossfade and _new_step(left[i], right[j]) > NOTICED:
        name, at = (before, end) if left[i].edge.level > right[j].edge.level else (after, start)
        natural = _natural_fade(sound(name, at - NEAR, at + NEAR), left[i].edge.level, right[j].edge.level)
        crossfade = max(crossfade, min(natural, longest))
    return Join(int(i) * STEP, int(j) * STEP, crossfade)


def _natural_fade(near: np.ndarray, begins: float, ends: float) -> Ticks:
    """How long to go over from one level to another as the voice does in the stereo sound around."""
    hops = near.mean(axis=1)[: len(near) // STEP * STEP].reshape(-1, STEP)
    power = np.convolve(np.mean(hops**2, axis=1), np.full(WINDOW // STEP, STEP / WINDOW), "valid")
    sounding = power[power > 1e-9]  # beyond the ends of the recording there is nothing
    level, window = 10 * np.log10(sounding + 1e-9), WINDOW // STEP
    if len(level) < RATE // STEP:
        return 0
    least = STILL_FADE if max(begins, ends) < np.percentile(level, ROOM) + STILL else 0
    if ends > begins:
        return max(least, round((ends - begins) / SETS_IN * RATE / 1000))
    lengths = range(max(1, least // STEP), LONGEST_FADE // STEP)
    falls = (np.array_split(level[: -window - length] - level[window + length :], SECONDS) for length in lengths)
    usual = (np.median([second.max() for second in each]) for each in falls)
    return next((length * STEP for length, by in zip(lengths, usual, strict=True) if by >= begins - ends), LONGEST_FADE)


@dataclass(frozen=True)
class Edge:
    """The 20 ms at one side of a join: level and level by bands, in decibels."""

    level: float
    bands: np.ndarray


@dataclass(frozen=True)
class Side:
    """A place for one side of a join: what is beside it, and by how many decibels the level rises there as it was recorded."""

    edge: Edge
    rises: float


def _sides(sound: np.ndarray, most: Ticks, beyond: Ticks, outwards: int) -> list[Side]:
    """The places from 0 to ``most`` ticks on; ``beyond`` each of them, the sound after the crossfade ends that is taken out.

    ``outwards`` is 1 where the sound is given as it was recorded, and -1 where it is given backwards.
    """
    places = range(0, most + 1, STEP)
    edges = [(edge_of(sound[at : at + WINDOW]), edge_of(sound[at + beyond : at + beyond + WINDOW])) for at in places]
    return [Side(edge, outwards * (beside.level - edge.level)) for edge, beside in edges]


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
    new = min(MOST_NEW, max(0.0, step - max(abs(left.rises), abs(right.rises)) - NOTICED))
    return quiet + STEP_WORTH * step + NEW_WORTH * new + SPECTRUM_WORTH * spectral_jump(a, b)


def _new_step(left: Side, right: Side) -> float:
    """By how many decibels the level steps more than it does that way at either place as recorded."""
    rise = right.edge.level - left.edge.level
    return rise - max(0.0, left.rises, right.rises) if rise > 0 else min(0.0, left.rises, right.rises) - rise
