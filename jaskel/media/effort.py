"""How much work it is to write a file, as a multiple of writing its sound as WAV: what is told of the time left rests on it.

The numbers are ratios of one run on one machine; ``./run bench leaving`` tells how far off what follows from them is.
"""

from __future__ import annotations

from collections.abc import Mapping

from jaskel.core.destination import Quality
from jaskel.core.plan import Frame

MEASURING = 5.0
"""Of bringing a programme to its loudness, where the limiter is set once."""

SOUND: Mapping[str, float] = {"aac": 7.5, "flac": 1.5, "libmp3lame": 8.5, "libopus": 4.0, "pcm_s24le": 1.0}
"""By encoder."""

PICTURES: Mapping[str, float] = {"libx264": 1.3, "libvpx-vp9": 2.0, "libsvtav1": 3.4}
"""Of a million pixels a second, by encoder."""

FINER: Mapping[Quality, float] = {"small": 1.0, "good": 1.0, "best": 2.5}


def of_picture(encoder: str, frame: Frame, quality: Quality = "good") -> float:
    """The work of one picture, as a multiple of that of a second of sound."""
    return PICTURES[encoder] * FINER[quality] * frame.width * frame.height / 1e6
