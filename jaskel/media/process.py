"""Sending a recording's sound through a chain of processors: a file of its own for each chain, made before anything is cut."""

from __future__ import annotations

from collections.abc import Callable, Iterator, Mapping
from contextlib import ExitStack
from pathlib import Path

import numpy as np

from jaskel.core.sound.processor import Chain, before_the_cut
from jaskel.core.timebase import RATE, Ticks
from jaskel.media import processors  # noqa: F401  registers what each kind does
from jaskel.media.conformed import ConformedSound, NewConformedSound, gain_for
from jaskel.media.processor import MAKERS, About, Process

BLOCK: Ticks = RATE
"""Sound is processed a second at a time, whatever the processor remembers from one to the next."""


NOTHING_MADE: Mapping[int, Path] = {}


def process(
    sound: Path,
    chain: Chain,
    out: Path,
    progress: Callable[[Ticks], None] = lambda _: None,
    made: Mapping[int, Path] = NOTHING_MADE,
) -> None:
    """Write conformed ``sound`` as it is after ``chain``, as conformed sound of the same length.

    Of each processor so much is mixed in as its amount says; at 0 % the sound is the same to the bit. ``made`` has what some of
    them make at 100 %, by their places in the chain: these are not run again.
    """
    peak = _write(sound, chain, out, 1.0, progress, made)
    if peak > 1:
        # FLAC holds nothing above full scale: once more, stored lower.
        _write(sound, chain, out, gain_for(peak), progress, made)


def processed(
    file: ConformedSound,
    chain: Chain,
    progress: Callable[[Ticks], None] = lambda _: None,
    made: Mapping[int, ConformedSound] | None = None,
) -> Iterator[np.ndarray]:
    """The sound of a file after a chain, in blocks that together are as long as it is."""

    def blocks() -> Iterator[np.ndarray]:
        for begin in range(0, file.length, BLOCK):
            yield file.read(begin, min(begin + BLOCK, file.length))
            progress(min(begin + BLOCK, file.length))

    return through(blocks(), before_the_cut(chain), About(file.channels, file.length, file.read), made or {})


def through(
    sound: Iterator[np.ndarray], chain: Chain, about: About, made: Mapping[int, ConformedSound] | None = None
) -> Iterator[np.ndarray]:
    """Sound in blocks after a chain; together as long as it was."""
    for number, each in enumerate(chain):
        amount = np.float32(each.amount / 100)
        if made and number in made:
            sound = _mixed(sound, made[number], amount)
        else:
            sound = _through(sound, MAKERS[type(each)](each, about), amount, about.channels)
    return sound


def _mixed(sound: Iterator[np.ndarray], made: ConformedSound, amount: np.float32) -> Iterator[np.ndarray]:
    """Sound with so much of what was made of it before."""
    at = 0
    for block in sound:
        wet = made.read(at, at + len(block))
        at += len(block)
        yield wet if amount == 1 else block + (wet - block) * amount


def _through(sound: Iterator[np.ndarray], step: Process, amount: np.float32, channels: int) -> Iterator[np.ndarray]:
    """Sound after one processor, in time with what it was before, of which the rest of the amount is mixed in."""
    dry = np.zeros((0, channels), np.float32)
    skip = step.late

    def given() -> Iterator[tuple[np.ndarray, bool]]:
        for block in sound:
            yield block, True
        if step.late:
            yield np.zeros((step.late, channels), np.float32), False

    for block, is_sound in given():
        wet = step(block)
        if is_sound:
            dry = np.concatenate([dry, block])
        drop = min(skip, len(wet))
        skip -= drop
        wet = wet[drop:][: len(dry)]
        here, dry = dry[: len(wet)], dry[len(wet) :]
        if len(wet):
            yield wet if amount == 1 else here + (wet - here) * amount


def _write(
    sound: Path, chain: Chain, out: Path, stored: float, progress: Callable[[Ticks], None], made: Mapping[int, Path]
) -> float:
    """Write the processed sound, lower by the factor ``stored``; gives its largest sample."""
    peak = 0.0
    with ExitStack() as stack:
        file = stack.enter_context(ConformedSound(sound))
        new = stack.enter_context(NewConformedSound(out, file.channels, stored))
        opened = {number: stack.enter_context(ConformedSound(path)) for number, path in made.items()}
        for block in processed(file, chain, progress, opened):
            peak = max(peak, float(np.abs(block).max(initial=0.0)))
            new.write(block)
    return peak
