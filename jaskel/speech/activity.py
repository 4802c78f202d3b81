"""Where there is voice, and where a long recording can be parted between two breaths."""

from __future__ import annotations

import numpy as np

from jaskel.speech.recognise import RATE_16K

LONGEST_PART = 29.0
"""The recogniser hears 30 s at a time."""

SHORTEST_PART = 14.0
"""Parting earlier would waste the recogniser's window for little gain in where the part ends."""


def voiced(sound: np.ndarray) -> list[tuple[float, float]]:
    """From-to in seconds of the voice in ``sound`` (float32 mono at 16 kHz), by the Silero detector."""
    from faster_whisper.vad import VadOptions, get_speech_timestamps

    options = VadOptions(min_silence_duration_ms=160, speech_pad_ms=60, threshold=0.4)
    return [(t["start"] / RATE_16K, t["end"] / RATE_16K) for t in get_speech_timestamps(sound, options)]


def part_end(stretches: list[tuple[float, float]], length: float) -> float:
    """Where to end the next part of a recording.

    ``stretches`` is the voice in the next ``length`` seconds. The part ends in the middle of the longest silence that
    lies between :data:`SHORTEST_PART` and the end; where there is none, at the end. (The last one of any length would need
    fewer parts, but costs a point of word error.)
    """
    if length < LONGEST_PART:
        return length
    edges = [0.0, *(edge for stretch in stretches for edge in stretch), length]
    gaps = [(max(a, SHORTEST_PART), b) for a, b in zip(edges[::2], edges[1::2], strict=True) if b > SHORTEST_PART]
    begin, end = max(gaps, key=lambda gap: gap[1] - gap[0], default=(length, length))
    return (begin + end) / 2 if end > begin else length
