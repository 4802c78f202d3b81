"""What a processor is while it works: registered makers, and the two ways most of them are made."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass
from fractions import Fraction
from typing import Any, Protocol

import av
import numpy as np
from scipy.signal import sosfilt

from jaskel.core.sound.processor import Processor
from jaskel.core.timebase import RATE, Ticks


class Process(Protocol):
    """One processor at work on one file; it may remember what came before.

    Attributes
    ----------
    late
        By so many samples what it gives lags behind what it is given.
    """

    late: int

    def __call__(self, sound: np.ndarray) -> np.ndarray:
        """From a block of sound, float32 of shape (samples, channels), to as many samples."""
        ...


@dataclass(frozen=True)
class About:
    """What a processor may want to know of the sound before it begins: its channels, and all of it by stretches."""

    channels: int
    length: Ticks
    read: Callable[[Ticks, Ticks], np.ndarray]


Maker = Callable[[Any, About], Process]

MAKERS: dict[type[Processor], Maker] = {}


def processes(kind: type[Processor]) -> Callable[[Maker], Maker]:
    """Register what makes the process of a kind of processor."""

    def register(make: Maker) -> Maker:
        MAKERS[kind] = make
        return make

    return register


class ByHand:
    """A process from a function that needs no memory, or keeps its own."""

    def __init__(self, work: Callable[[np.ndarray], np.ndarray], late: int = 0) -> None:
        self._work, self.late = work, late

    def __call__(self, sound: np.ndarray) -> np.ndarray:
        return self._work(sound)


def sections_of(sections: np.ndarray, channels: int) -> Process:
    state = np.zeros((len(sections), 2, channels))

    def work(sound: np.ndarray) -> np.ndarray:
        nonlocal state
        out, state = sosfilt(sections, sound, axis=0, zi=state)
        return np.asarray(out, np.float32)

    return ByHand(work)


class Filter:
    """A filter of libavfilter, in double precision and blocks of one size, so that its result does not depend on ours."""

    late = 0

    def __init__(self, description: str, channels: int, late: int = 1024) -> None:
        self._layout = "mono" if channels == 1 else "stereo"
        self._graph = av.filter.Graph()
        source = self._graph.add_abuffer(sample_rate=RATE, format="dbl", layout=self._layout, time_base=Fraction(1, RATE))
        sink = self._graph.add("abuffersink")
        before: Any = source
        for each in (f"asetnsamples=n={SAMPLES}:p=0", *description.split(";"), "aformat=sample_fmts=dbl"):
            name, _, settings = each.partition("=")
            step = self._graph.add(name, settings)
            before.link_to(step)
            before = step
        before.link_to(sink)
        self._graph.configure()
        self._at = 0
        # What is handed on is late by a block, or by as much as a filter keeps: so there always is as much as is asked for.
        self.late = late
        self._waiting: list[np.ndarray] = [np.zeros((late, channels), np.float32)]

    def __call__(self, sound: np.ndarray) -> np.ndarray:
        frame = av.AudioFrame.from_ndarray(np.ascontiguousarray(sound.reshape(1, -1), np.float64), "dbl", self._layout)
        frame.sample_rate, frame.pts, frame.time_base = RATE, self._at, Fraction(1, RATE)
        self._at += len(sound)
        self._graph.push(frame)
        while True:
            try:
                pulled = self._graph.pull()
            except (av.BlockingIOError, av.EOFError):
                break
            self._waiting.append(pulled.to_ndarray().reshape(-1, sound.shape[1]).astype(np.float32))
        ready = np.concatenate(self._waiting)
        self._waiting = [ready[len(sound) :]]
        return ready[: len(sound)]


SAMPLES = 1024
"""Filters are given so many samples at a time: the results of some depend on it."""
