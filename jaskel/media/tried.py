"""A stretch of a track with and without something of its chain, at equal loudness: louder always sounds better."""

from __future__ import annotations

import numpy as np

from jaskel.core.marks.level import gain
from jaskel.core.sound.processor import Chain, before_the_cut
from jaskel.core.timebase import RATE, Ticks
from jaskel.media.conformed import ConformedSound
from jaskel.media.process import through
from jaskel.media.processor import About, sections_of
from jaskel.media.weighted import K_WEIGHTING

BEFORE: Ticks = 2 * RATE
"""What has a memory begins so long before the stretch."""


def tried(file: ConformedSound, chain: Chain, start: Ticks, end: Ticks) -> np.ndarray:
    """The sound of a file from ``start`` to ``end`` after a chain: float32, shape (ticks, channels)."""
    begin, until = max(0, start - BEFORE), min(file.length, end + RATE)
    if begin >= until:
        return np.zeros((end - start, file.channels), np.float32)
    about = About(file.channels, file.length, file.read)
    made = np.concatenate([*through(iter([file.read(begin, until)]), before_the_cut(chain), about)])
    out = np.zeros((end - start, file.channels), np.float32)
    part = made[max(0, start - begin) : end - begin]
    out[max(0, -start) : max(0, -start) + len(part)] = part
    return out


def as_loud_as(sound: np.ndarray, other: np.ndarray) -> np.ndarray:
    """``sound`` at the loudness of ``other`` (weighted as BS.1770-4 weights it), where both are heard."""
    mine, wanted = _weighted(sound), _weighted(other)
    if min(mine, wanted) < 1e-12:
        return sound
    return np.asarray(sound * np.float32(min(gain(24.0), np.sqrt(wanted / mine))), np.float32)


def _weighted(sound: np.ndarray) -> float:
    return float((sections_of(K_WEIGHTING, sound.shape[1])(sound).astype(np.float64) ** 2).mean())
