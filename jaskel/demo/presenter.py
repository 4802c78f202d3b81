"""Drawn presenters for the demo's cameras: a face whose mouth follows the sound of its voice.

The faces are shaded enough for OpenCV's frontal-face cascade to find them, which the framing tools rely on.
"""

from __future__ import annotations

from dataclasses import dataclass
from functools import lru_cache

import numpy as np
from PIL import Image, ImageDraw, ImageFilter

SIZE = (640, 360)
FPS = 25
MOUTHS = 6


@dataclass(frozen=True)
class Look:
    """Colours (RGB hex) and shape of one presenter and of what stands behind them."""

    skin: str
    hair: str
    coat: str
    wall: str
    floor: str
    long_hair: bool = False
    beard: bool = False
    prop: str = "planks"


LOOKS = {
    "orla": Look("#d9a98a", "#5a3324", "#2f7355", "#3c5661", "#2b3f47", long_hair=True, prop="shelf"),
    "teo": Look("#c99877", "#8b8781", "#23559e", "#6b5a45", "#40362b", beard=True, prop="planks"),
    "ines": Look("#b98462", "#221b1a", "#a9482f", "#7f8b86", "#4d5a57", long_hair=True, prop="sail"),
}


def _shade(colour: str, factor: float) -> tuple[int, ...]:
    return tuple(min(255, round(int(colour[i : i + 2], 16) * factor)) for i in (1, 3, 5))


@lru_cache(maxsize=8)
def _backdrop(voice: str) -> Image.Image:
    look = LOOKS[voice]
    width, height = SIZE
    image = Image.new("RGB", SIZE, look.wall)
    draw = ImageDraw.Draw(image)
    if look.prop == "planks":
        for x in range(0, width, 46):
            draw.rectangle((x, 0, x + 44, height), fill=_shade(look.wall, 0.9 + 0.2 * ((x // 46) % 3) / 2))
        draw.polygon([(380, 250), (640, 190), (640, 330), (400, 330)], fill=_shade(look.floor, 1.5))
    elif look.prop == "shelf":
        for y in (60, 150):
            draw.rectangle((0, y, 190, y + 8), fill=_shade(look.floor, 1.3))
            for x in range(12, 180, 26):
                draw.rectangle((x, y - 34 - x % 5 * 3, x + 18, y), fill=_shade(look.wall, 1.2 + x % 4 * 0.12))
    else:
        draw.polygon([(450, 10), (630, 300), (430, 300)], fill=_shade("#e8e2d2", 0.95))
        draw.line([(450, 10), (430, 300)], fill=_shade(look.floor, 1.2), width=6)
    draw.rectangle((0, 300, width, height), fill=look.floor)
    return image.filter(ImageFilter.GaussianBlur(2.5))


@lru_cache(maxsize=64)
def _figure(voice: str, mouth: int, blink: bool) -> Image.Image:
    """Head and shoulders on a transparent ground, 300 by 340; ``mouth`` from 0 (shut) to MOUTHS - 1 (wide)."""
    look = LOOKS[voice]
    scale = 2
    image = Image.new("RGBA", (300 * scale, 340 * scale))
    draw = ImageDraw.Draw(image)

    def ellipse(cx: float, cy: float, rx: float, ry: float, fill: object) -> None:
        draw.ellipse([v * scale for v in (cx - rx, cy - ry, cx + rx, cy + ry)], fill=fill)  # type: ignore[arg-type]

    skin, dark, light = look.skin, _shade(look.skin, 0.8), _shade(look.skin, 1.1)
    if look.long_hair:
        ellipse(150, 130, 88, 112, look.hair)
        draw.rectangle([v * scale for v in (66, 130, 234, 232)], fill=look.hair)
    draw.rounded_rectangle([v * scale for v in (22, 246, 278, 420)], 70 * scale, fill=look.coat)
    draw.rectangle([v * scale for v in (122, 200, 178, 262)], fill=dark)
    ellipse(150, 132, 70, 92, skin)
    ellipse(150, 100, 56, 40, light)
    ellipse(102, 156, 20, 26, _shade(look.skin, 0.93))
    ellipse(198, 156, 20, 26, _shade(look.skin, 0.93))
    draw.pieslice([v * scale for v in (76, 30, 224, 178)], 190, 350, fill=look.hair)
    ellipse(150, 104, 60, 26, skin)
    if look.beard:
        draw.chord([v * scale for v in (84, 96, 216, 236)], 20, 160, fill=look.hair)
        ellipse(150, 182, 30, 20, skin)
    for x in (122, 178):
        draw.arc([v * scale for v in (x - 22, 100, x + 22, 132)], 200, 340, fill=_shade(look.hair, 0.7), width=6 * scale)
        ellipse(x, 128, 18, 11, dark)
        if blink:
            draw.line([v * scale for v in (x - 14, 129, x + 14, 129)], fill=_shade(look.skin, 0.5), width=3 * scale)
        else:
            ellipse(x, 128, 14, 8, "#f4f0ea")
            ellipse(x, 128, 7.5, 7.5, "#2a211c")
    draw.polygon([v * scale for v in (150, 128, 140, 162, 160, 162)], fill=_shade(look.skin, 0.9))
    ellipse(150, 162, 13, 6, dark)
    opening = mouth / (MOUTHS - 1)
    ellipse(150, 186, 25 - 4 * opening, 4 + 13 * opening, "#7a3b34")
    if mouth:
        ellipse(150, 186, 20 - 4 * opening, 1.5 + 10 * opening, "#3a1614")
    return image.resize((300, 340), Image.Resampling.LANCZOS).filter(ImageFilter.GaussianBlur(0.6))


@lru_cache(maxsize=256)
def frame(voice: str, mouth: int, blink: bool, dx: int, dy: int) -> np.ndarray:
    """One picture, uint8 of shape (360, 640, 3)."""
    image = _backdrop(voice).copy()
    figure = _figure(voice, mouth, blink)
    image.paste(figure, (170 + dx, 26 + dy), figure)
    return np.asarray(image)


def mouth_levels(samples: np.ndarray, rate: int) -> np.ndarray:
    """Mouth opening for each frame of ``samples`` (float mono), integers from 0 to MOUTHS - 1."""
    hop = rate // FPS
    count = len(samples) // hop
    energy = np.sqrt((samples[: count * hop].reshape(count, hop) ** 2).mean(axis=1))
    loud = np.percentile(energy[energy > energy.max() * 0.05], 90) if energy.max() > 0 else 1.0
    return np.clip(np.round(np.sqrt(energy / loud) * (MOUTHS - 1)), 0, MOUTHS - 1).astype(int)


def frames(voice: str, samples: np.ndarray, rate: int):
    """Yield the pictures of a presenter speaking ``samples``."""
    rng = np.random.default_rng(sum(map(ord, voice)))
    levels = mouth_levels(samples, rate)
    blinks = np.zeros(len(levels), bool)
    at = 30
    while at < len(levels):
        blinks[at : at + 4] = True
        at += int(rng.integers(60, 140))
    for number, (level, blink) in enumerate(zip(levels, blinks, strict=True)):
        sway = number / FPS
        yield frame(voice, int(level), bool(blink), round(3 * np.sin(sway * 0.7)), round(2 * np.sin(sway * 1.1)))
