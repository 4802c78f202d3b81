"""Room tone: what a room sounds like while nobody speaks, as long as it is wanted.

The quietest places of a recording are taken apart into short frames. New sound is laid together from the spectra of frames
drawn at random, each with random phases (as in granular texture synthesis), so nothing is repeated and no loop can be heard,
while level, colour and slow unrest stay those of the room.
"""

from __future__ import annotations

from pathlib import Path

import numpy as np

from jaskel.core.timebase import RATE, Ticks
from jaskel.media.conform import PEAKS_A_SECOND
from jaskel.media.conformed import ConformedSound, NewConformedSound

LENGTH: Ticks = 120 * RATE
FRAME = 4096
"""Samples in a frame, 85 ms: long enough for the lowest hum, short enough to leave out a breath."""

QUIET_SECONDS = 20.0
"""So much of the quietest sound is looked at, if there is so much."""

RUN = 20
"""Peaks of 10 ms in a row that have to be quiet for a place to be taken."""


def quiet_places(peaks: np.ndarray) -> list[Ticks]:
    """Where the quietest runs of 0.2 s begin, quietest first; none where the sound is digital silence between the words.

    ``peaks`` is the envelope that :func:`jaskel.media.conform.conform` writes.
    """
    if len(peaks) < RUN or np.mean(peaks == 0) > 0.05:
        return []
    runs = np.lib.stride_tricks.sliding_window_view(peaks, RUN)[:: RUN // 2].max(axis=1).astype(float)
    order = np.argsort(runs, kind="stable")
    most = round(QUIET_SECONDS * PEAKS_A_SECOND / (RUN // 2))
    # What is twice as loud (the envelope is a square root) as the quietest twentieth is no pause any more.
    floor = np.percentile(runs, 5)
    quiet = [index for index in order[:most] if runs[index] <= 1.5 * floor + 1]
    return [int(index) * (RUN // 2) * RATE // PEAKS_A_SECOND for index in quiet]


def make_room_tone(sound: Path, peaks: Path, out: Path, seed: int = 0) -> None:
    """Write two minutes of the room tone of conformed ``sound`` as FLAC, 48 kHz and 24 bit."""
    places = quiet_places(np.frombuffer(peaks.read_bytes(), np.uint8))
    length = RUN * RATE // PEAKS_A_SECOND
    with ConformedSound(sound) as file:
        channels = file.channels
        quiet = [file.read(place, place + length) for place in sorted(places) if place + length <= file.length]
    with NewConformedSound(out, channels) as new:
        new.write(_texture(quiet, channels, np.random.default_rng(seed)))


def _texture(quiet: list[np.ndarray], channels: int, chance: np.random.Generator) -> np.ndarray:
    if not quiet:
        return np.zeros((LENGTH, channels), np.float32)
    window = np.sqrt(np.hanning(FRAME + 1)[:FRAME, None]).astype(np.float32)
    starts = range(0, len(quiet[0]) - FRAME + 1, FRAME // 4)
    spectra = np.abs(np.stack([np.fft.rfft(part[s : s + FRAME] * window, axis=0) for part in quiet for s in starts]))
    hop = FRAME // 2
    out = np.zeros((LENGTH + FRAME, channels), np.float32)
    for at in range(0, LENGTH, hop):
        chosen = spectra[chance.integers(len(spectra))]
        # One set of phases for all channels keeps the width of the room.
        phases = np.exp(2j * np.pi * chance.random((len(chosen), 1)))
        out[at : at + FRAME] += np.fft.irfft(chosen * phases, axis=0).astype(np.float32) * window
    return out[:LENGTH]
