"""Sending a recording's sound through a chain of processors: a file of its own for each chain, made before anything is cut.

To add a processor, write a function here that makes its state for a file and gives what processes blocks of sound, and register
it with :func:`processes`.
"""

from __future__ import annotations

from collections.abc import Callable
from pathlib import Path
from typing import Any

import numpy as np

from jaskel.core.marks.level import gain
from jaskel.core.sound.processor import Chain, Gain, Processor, heard
from jaskel.core.timebase import RATE, Ticks
from jaskel.media.conformed import ConformedSound, NewConformedSound, gain_for

BLOCK: Ticks = RATE
"""Sound is processed a second at a time, whatever the processor remembers from one to the next."""

Process = Callable[[np.ndarray], np.ndarray]
"""From a block of sound, float32 of shape (samples, channels), to as many samples; it may remember what came before."""

_MAKERS: dict[type[Processor], Callable[[Any], Process]] = {}


def processes(kind: type[Processor]) -> Callable[[Callable[[Any], Process]], Callable[[Any], Process]]:
    """Register what makes the process of a kind of processor."""

    def register(make: Callable[[Any], Process]) -> Callable[[Any], Process]:
        _MAKERS[kind] = make
        return make

    return register


@processes(Gain)
def _gain(settings: Gain) -> Process:
    factor = np.float32(gain(settings.decibels))
    return lambda sound: sound * factor


def process(sound: Path, chain: Chain, out: Path, progress: Callable[[Ticks], None] = lambda _: None) -> None:
    """Write conformed ``sound`` as it is after ``chain``, as conformed sound of the same length.

    Of each processor so much is mixed in as its amount says; at 0 % the sound is the same to the bit.
    """
    peak = _write(sound, chain, out, 1.0, progress)
    if peak > 1:
        # FLAC holds nothing above full scale: once more, stored lower.
        _write(sound, chain, out, gain_for(peak), progress)


def _write(sound: Path, chain: Chain, out: Path, stored: float, progress: Callable[[Ticks], None]) -> float:
    """Write the processed sound, lower by the factor ``stored``; gives its largest sample."""
    steps = [(_MAKERS[type(each)](each), np.float32(each.amount / 100)) for each in heard(chain)]
    peak = 0.0
    with ConformedSound(sound) as file, NewConformedSound(out, file.channels, stored) as new:
        for begin in range(0, file.length, BLOCK):
            end = min(begin + BLOCK, file.length)
            block = file.read(begin, end)
            for step, amount in steps:
                wet = step(block)
                block = wet if amount == 1 else block + (wet - block) * amount
            peak = max(peak, float(np.abs(block).max(initial=0.0)))
            new.write(block)
            progress(end)
    return peak
