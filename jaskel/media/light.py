"""Pictures of high dynamic range brought into the range of ordinary screens."""

from __future__ import annotations

from functools import lru_cache

import av
import numpy as np

from jaskel.media.patch import copied, planes_of

PQ = 16
"""The transfer of SMPTE ST 2084, by its number in ITU-T H.273. Hybrid log-gamma is made to be seen as it is."""

WHITE = 203.0
"""Candelas per square metre of a white page in such pictures: ITU-R BT.2408."""

KNEE = 0.75
"""Up to this share of white light stays as it is; what is brighter is brought below the brightest a screen has."""

COLOUR = 1.6
"""Colours are wider apart by so much on a screen of ITU-R BT.709 than they are coded for BT.2020, about."""


def is_high(frame: av.VideoFrame) -> bool:
    """Whether a picture says that it is coded in light that ordinary screens do not have."""
    return int(getattr(frame, "color_trc", 0) or 0) == PQ


def lowered(frame: av.VideoFrame) -> av.VideoFrame:
    """Such a picture as yuv420p of ordinary range."""
    out = frame.reformat(format="yuv420p")
    if out is frame:
        out = copied(frame)
    bright, *colours = planes_of(out)
    bright[:] = _table()[bright]
    for plane in colours:
        plane[:] = np.clip((plane.astype(np.float32) - 128) * COLOUR + 128.5, 0, 255)
    return out


@lru_cache(1)
def _table() -> np.ndarray:
    """Brightness of ordinary range for that of SMPTE ST 2084, both of eight bits and narrow range."""
    code = np.clip((np.arange(256) - 16) / 219, 0, 1)
    m1, m2, c1, c2, c3 = 2610 / 16384, 2523 / 32, 3424 / 4096, 2413 / 128, 2392 / 128
    power = code ** (1 / m2)
    light = 10_000 * (np.maximum(power - c1, 0) / (c2 - c3 * power)) ** (1 / m1) / WHITE
    over = np.maximum(0, light - KNEE)
    seen = np.minimum(light, KNEE) + (1 - KNEE) * (1 - np.exp(-over / (1 - KNEE)))
    made: np.ndarray = np.clip(16 + 219 * seen ** (1 / 2.4) + 0.5, 0, 255).astype(np.uint8)
    return made
