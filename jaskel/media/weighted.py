"""The loudness of a track over time: the mean square of its K-weighted sound every 50 ms, in a file of its own.

By ITU-R BS.1770-4: a high shelf for the head, a high pass for what is felt rather than heard. From it the loudness of any words
of the track is told at once.
"""

from __future__ import annotations

from collections.abc import Sequence
from pathlib import Path

import numpy as np

from jaskel.core.sound.ride import STEP
from jaskel.core.timebase import Ticks
from jaskel.media.conformed import ConformedSound
from jaskel.media.processor import sections_of

K_WEIGHTING = np.array([
    [1.53512485958697, -2.69169618940638, 1.19839281085285, 1.0, -1.69065929318241, 0.73248077421585],
    [1.0, -2.0, 1.0, 1.0, -1.99004745483398, 0.99007225036621],
])  # fmt: skip
"""The two filters of the recommendation at 48 kHz, as second-order sections."""

BLOCK: Ticks = 200 * STEP

GATE, RELATIVE_GATE = -70.0, -10.0
"""In LUFS, and in LU below the mean of what passes the first: what is softer does not count."""


def measure_weighted(sound: Path, out: Path) -> None:
    """Write the loudness of conformed ``sound`` over time; one channel counts twice, for it is heard from both sides."""
    with ConformedSound(sound) as file:
        weighted = sections_of(K_WEIGHTING, file.channels)
        means = []
        for begin in range(0, file.length, BLOCK):
            block = weighted(file.read(begin, min(begin + BLOCK, file.length))).astype(np.float64) ** 2
            block = np.pad(block, ((0, -len(block) % STEP), (0, 0)))
            means.append(block.reshape(-1, STEP, file.channels).mean(axis=1).sum(axis=1) * (2 if file.channels == 1 else 1))
    with out.open("wb") as new:
        np.save(new, np.concatenate(means).astype(np.float32) if means else np.zeros(0, np.float32))


def loudness_of(measured: Sequence[float] | np.ndarray, stretches: Sequence[tuple[Ticks, Ticks]]) -> float | None:
    """The loudness of stretches of a track together, in LUFS; None where nothing is heard in them.

    Gated as the recommendation gates: by 400 ms, those under -70 LUFS and those 10 LU under the mean left out.
    """
    values = np.asarray(measured)
    inside = np.zeros(len(values), bool)
    for start, end in stretches:
        inside[max(0, start) // STEP : max(0, end) // STEP + 1] = True
    smooth = np.convolve(np.pad(values, 4), np.ones(8) / 8, "same")[4:-4][inside]
    loud = smooth[smooth > 10 ** ((GATE + 0.691) / 10)]
    if not len(loud):
        return None
    kept = loud[loud > loud.mean() * 10 ** (RELATIVE_GATE / 10)]
    return float(-0.691 + 10 * np.log10(kept.mean()))
