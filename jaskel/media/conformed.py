"""Conformed sound as a file: FLAC, 48 kHz and 24 bit, one or two channels.

FLAC holds nothing above full scale. Float and lossy originals may; theirs is stored lower by a power of two, which loses no
digit that can be heard, and a comment in the file says by how much. Whoever reads through :class:`ConformedSound` gets it at
its own level.
"""

from __future__ import annotations

import math
from errno import ENOSPC
from pathlib import Path

import numpy as np
import soundfile

from jaskel.core.timebase import RATE, Ticks

_GAIN = "gain="


class ConformedSound:
    """Reads a conformed file from any tick. Close it after use."""

    def __init__(self, path: Path) -> None:
        self._file = soundfile.SoundFile(path)
        self.length: Ticks = self._file.frames
        self.channels: int = self._file.channels
        comment = self._file.comment or ""
        self.gain = float(comment.removeprefix(_GAIN)) if comment.startswith(_GAIN) else 1.0

    def __enter__(self) -> ConformedSound:
        return self

    def __exit__(self, *_: object) -> None:
        self.close()

    def read(self, start: Ticks, end: Ticks) -> np.ndarray:
        """The sound between two ticks, at most to its end: float32 of shape (ticks, channels)."""
        self._file.seek(min(start, self.length))
        sound: np.ndarray = self._file.read(max(0, end - start), "float32", always_2d=True)
        return sound if self.gain == 1 else sound * np.float32(self.gain)

    def close(self) -> None:
        self._file.close()


class NewConformedSound:
    """Writes a conformed file; ``gain`` is by how much lower it is stored. Used as a context."""

    def __init__(self, path: Path, channels: int, gain: float = 1.0) -> None:
        self._file = soundfile.SoundFile(path, "w", RATE, channels, "PCM_24", format="FLAC")
        self._gain = np.float32(gain)
        if gain != 1:
            self._file.comment = f"{_GAIN}{gain:g}"

    def __enter__(self) -> NewConformedSound:
        return self

    def __exit__(self, *_: object) -> None:
        self._file.close()

    def write(self, sound: np.ndarray) -> None:
        """Add samples, shape (ticks, channels)."""
        write_samples(self._file, sound if self._gain == 1 else sound / self._gain)


def write_samples(file: soundfile.SoundFile, sound: np.ndarray) -> None:
    """Write samples to a file that is open for writing.

    Raises
    ------
    OSError
        ``ENOSPC`` where the system takes no more: libsndfile says only that it was the system.
    """
    try:
        file.write(sound)
    except soundfile.LibsndfileError as error:
        raise OSError(ENOSPC, "No space left on device", file.name) from error


def gain_for(peak: float) -> float:
    """The least power of two by which sound with this ``peak`` has to be lowered to hold no sample above full scale.

    >>> gain_for(0.9), gain_for(1.5), gain_for(4.0)
    (1.0, 2.0, 4.0)
    """
    return 2.0 ** max(0, math.ceil(math.log2(peak))) if peak > 1 else 1.0
