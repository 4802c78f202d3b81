"""Where two voices speak at once in a mixed recording.

The network hears five seconds at a time and says, every 17 ms, how sure it is of each of up to three voices (Bredin and
Laurent, "End-to-end speaker segmentation for overlap-aware resegmentation", 2021). Which of its three is whose is not asked,
only how many there are. Its weights are those of the authors' segmentation model, in half precision.
"""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from dataclasses import replace
from functools import lru_cache
from itertools import groupby
from pathlib import Path
from typing import TYPE_CHECKING

import numpy as np

from jaskel.core.timebase import RATE, Ticks
from jaskel.core.transcript import Word
from jaskel.speech.activity import Sound16k
from jaskel.speech.recognise import RATE_16K

if TYPE_CHECKING:
    from onnxruntime import InferenceSession

WEIGHTS = Path(__file__).with_name("models") / "together.onnx"

WINDOW, STEP = 5 * RATE_16K, RATE_16K * 5 // 2
"""Samples that are heard at once, and from one window to the next: each moment is heard twice, and the mean is taken."""

FRAME = 270
"""Samples from one answer to the next: the strides of the network's layers, 10 and three times 3."""

FIRST = 495
"""Samples to the middle of the first answer: half of what its layers reach over."""

STRETCH: Ticks = 60 * RATE
"""Long recordings are heard minute by minute, so that memory does not grow with length."""

SURE = 0.4
"""How sure the network has to be of a second voice. Chosen on every other talk of ``bench together``: below it, more comes in
that is not there than was missed."""

SHORTEST: Ticks = RATE // 10
"""Shorter than 0.1 s nobody says anything."""

MOSTLY = 0.5
"""A word is spoken over where another voice is heard for at least this share of it."""


def together(sound: Sound16k, length: Ticks) -> list[tuple[Ticks, Ticks]]:
    """From-to of the stretches of a recording of ``length`` in which more than one voice speaks.

    ``sound`` gives float32 mono at 16 kHz between two ticks.
    """
    found: list[tuple[Ticks, Ticks]] = []
    for begin in range(0, length, STRETCH):
        for start, end in _stretches(second_voice(sound(begin, min(length, begin + STRETCH)))):
            one = begin + start, min(length, begin + end)
            if found and one[0] - found[-1][1] < SHORTEST:
                found[-1] = found[-1][0], one[1]
            elif one[1] - one[0] >= SHORTEST:
                found.append(one)
    return found


def second_voice(sound: np.ndarray) -> np.ndarray:
    """How sure it is, for each frame of some sound (float32 mono at 16 kHz), that a second voice speaks."""
    starts = range(0, max(1, len(sound) - WINDOW + STEP), STEP)
    windows = np.stack([_padded(sound[start : start + WINDOW]) for start in starts])
    heard = np.sort(_network().run(["voices"], {"sound": windows[:, None]})[0], axis=2)[:, :, -2]
    total, times = np.zeros(starts[-1] // FRAME + heard.shape[1] + 1), np.zeros(starts[-1] // FRAME + heard.shape[1] + 1)
    for start, each in zip(starts, heard, strict=True):
        first = round(start / FRAME)
        total[first : first + len(each)] += each[: len(total) - first]
        times[first : first + len(each)] += 1
    return total / np.maximum(times, 1)


def spoken_over(words: Sequence[Word], ranges: Sequence[tuple[Ticks, Ticks]]) -> list[Word]:
    """The same words, each with whether another voice speaks meanwhile."""

    def over(word: Word) -> bool:
        shared = sum(max(0, min(word.end, end) - max(word.start, start)) for start, end in ranges)
        return not word.is_sound and shared >= MOSTLY * (word.end - word.start)

    return [replace(word, over=over(word)) for word in words]


def _stretches(sure: np.ndarray) -> Iterator[tuple[Ticks, Ticks]]:
    at = 0
    for is_sure, frames in groupby(sure > SURE):
        count = len([*frames])
        if is_sure:
            yield tuple(round(max(0, FIRST + (each - 0.5) * FRAME) * RATE / RATE_16K) for each in (at, at + count))  # type: ignore[misc]
        at += count


def _padded(sound: np.ndarray) -> np.ndarray:
    return np.pad(sound, (0, WINDOW - len(sound))).astype(np.float32)


@lru_cache(maxsize=1)
def _network() -> InferenceSession:
    """The network, loaded once in a process; the library that runs it is only loaded where it is needed."""
    from onnxruntime import InferenceSession, SessionOptions

    options = SessionOptions()
    options.intra_op_num_threads = 2
    return InferenceSession(str(WEIGHTS), options, providers=["CPUExecutionProvider"])
