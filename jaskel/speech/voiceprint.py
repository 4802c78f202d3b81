"""How a voice sounds, as a direction in a space of 256: two stretches of one voice point the same way.

The encoder is an LSTM trained to tell speakers apart (Wan and others, "Generalized end-to-end loss for speaker verification",
2018); its weights are those of Resemblyzer 0.1.4.
"""

from __future__ import annotations

from collections.abc import Sequence
from functools import lru_cache
from pathlib import Path
from typing import TYPE_CHECKING

import numpy as np

from jaskel.speech.recognise import RATE_16K

if TYPE_CHECKING:
    from onnxruntime import InferenceSession

WEIGHTS = Path(__file__).with_name("models") / "voiceprint.onnx"

FRAME, HOP, BANDS = 400, 160, 40
"""Samples of a frame and from one to the next, and mel bands of each: what the encoder was trained on."""

WINDOW = 160
"""Frames that are listened to at once: 1.6 s."""

STEP = 40
"""Frames from one window to the next: 0.4 s."""

QUIET = -30.0
"""Decibels below full scale. What is quieter is raised to this; the encoder knows nothing so quiet."""

AT_ONCE = 32
"""Windows that go through the encoder together; more take memory and no less time."""


def prints_of(sound: np.ndarray) -> np.ndarray:
    """Prints of the windows of a stretch of speech (float32 mono at 16 kHz), shape (windows, 256), each of length 1.

    A stretch shorter than a window is repeated until it fills one.
    """
    power = _mel(_raised(sound))
    if len(power) < WINDOW:
        power = np.resize(power, (WINDOW, BANDS))
    starts = range(0, len(power) - WINDOW + 1, STEP)
    windows = np.stack([power[start : start + WINDOW] for start in starts])
    return encoded(windows)


def encoded(windows: np.ndarray) -> np.ndarray:
    """The prints of windows of mel power, shape (windows, WINDOW, BANDS)."""
    found = [_encoder().run(["emb"], {"mels": windows[i : i + AT_ONCE]})[0] for i in range(0, len(windows), AT_ONCE)]
    return np.concatenate(found)


def _raised(sound: np.ndarray) -> np.ndarray:
    level = 10 * np.log10(np.mean(sound.astype(np.float64) ** 2) + 1e-12)
    return sound * np.float32(10 ** ((QUIET - level) / 20)) if level < QUIET else sound


def _mel(sound: np.ndarray) -> np.ndarray:
    """Mel power of the frames of a sound, shape (frames, BANDS)."""
    padded = np.pad(sound, FRAME // 2, mode="reflect" if len(sound) > FRAME // 2 else "constant")
    frames = np.lib.stride_tricks.sliding_window_view(padded, FRAME)[::HOP]
    power = np.abs(np.fft.rfft(frames * _hann(), axis=1)).astype(np.float32) ** 2
    return power @ _filters().T


@lru_cache(maxsize=1)
def _hann() -> np.ndarray:
    return np.hanning(FRAME + 1)[:-1].astype(np.float32)


@lru_cache(maxsize=1)
def _filters() -> np.ndarray:
    from faster_whisper.feature_extractor import FeatureExtractor

    return np.asarray(FeatureExtractor.get_mel_filters(RATE_16K, FRAME, n_mels=BANDS), np.float32)


@lru_cache(maxsize=1)
def _encoder() -> InferenceSession:
    from onnxruntime import InferenceSession, SessionOptions

    options = SessionOptions()
    options.log_severity_level = 3
    return InferenceSession(str(WEIGHTS), options, providers=["CPUExecutionProvider"])


def mean_print(prints: Sequence[np.ndarray]) -> np.ndarray:
    """The direction in which several prints point on average."""
    mean = np.concatenate(prints).mean(axis=0)
    return np.asarray(mean / (np.linalg.norm(mean) + 1e-9))
