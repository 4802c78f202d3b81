"""A picture that is drawn with a few shapes, for the library that ships."""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np
from PIL import Image, ImageDraw, ImageFilter

WIDE, HIGH = 1280, 720


class Sheet:
    """A picture of 1280 by 720 that is drawn on, twice as large, so that edges are smooth."""

    def __init__(self, above: str, below: str, seed: int = 1) -> None:
        top, bottom = (np.array(Image.new("RGB", (1, 1), colour))[0, 0].astype(float) for colour in (above, below))
        share = np.linspace(0, 1, 2 * HIGH)[:, None, None]
        self.image = Image.fromarray(np.broadcast_to(top + (bottom - top) * share, (2 * HIGH, 2 * WIDE, 3)).astype(np.uint8))
        self.draw = ImageDraw.Draw(self.image, "RGBA")
        self.chance = np.random.default_rng(seed)

    def shape(self, points: Sequence[tuple[float, float]], fill: str) -> None:
        self.draw.polygon([(2 * x, 2 * y) for x, y in points], fill=fill)

    def box(self, x: float, y: float, wide: float, high: float, fill: str, round: float = 0) -> None:
        self.draw.rounded_rectangle((2 * x, 2 * y, 2 * (x + wide), 2 * (y + high)), 2 * round, fill=fill)

    def disc(self, x: float, y: float, radius: float, fill: str) -> None:
        self.draw.ellipse((2 * (x - radius), 2 * (y - radius), 2 * (x + radius), 2 * (y + radius)), fill=fill)

    def line(self, points: Sequence[tuple[float, float]], fill: str, width: float = 3) -> None:
        self.draw.line([(2 * x, 2 * y) for x, y in points], fill=fill, width=round(2 * width), joint="curve")

    def water(self, y: float, colour: str, light: str, phase: float = 0.0) -> None:
        """Water from a height downwards, with light on its waves."""
        self.box(0, y, WIDE, HIGH - y, colour)
        for number in range(70):
            down = (number / 70) ** 1.6
            at = (number * 397.3 + phase * (60 + 140 * down)) % (WIDE + 300) - 150
            self.line([(at, y + 8 + down * (HIGH - y)), (at + 30 + 120 * down, y + 8 + down * (HIGH - y))], light, 1 + 3 * down)

    def boat(self, x: float, y: float, size: float, hull: str, mast: bool = True) -> None:
        self.shape(
            [(x - size, y), (x + size * 1.05, y), (x + size * 0.7, y + size * 0.38), (x - size * 0.8, y + size * 0.38)], hull
        )
        self.line([(x - size, y + 2), (x + size * 1.05, y + 2)], "#f0e6d2", size / 40)
        if mast:
            self.line([(x, y), (x, y - size * 1.7)], "#3a2f28", size / 30)
            self.line([(x, y - size * 1.6), (x + size * 0.9, y)], "#3a2f28aa", size / 90)

    def planks(self, colour: str, dark: str) -> None:
        """Boards over the whole picture."""
        self.box(0, 0, WIDE, HIGH, colour)
        for row in range(9):
            y = row * HIGH / 8
            self.line([(0, y), (WIDE, y)], dark, 4)
            for _ in range(14):
                at, long = self.chance.uniform(0, WIDE), self.chance.uniform(60, 300)
                down = y + self.chance.uniform(10, 80)
                self.line([(at, down), (at + long, down + self.chance.uniform(-3, 3))], dark + "44", 1.5)

    def soft(self, radius: float) -> None:
        self.image = self.image.filter(ImageFilter.GaussianBlur(radius * 2))
        self.draw = ImageDraw.Draw(self.image, "RGBA")

    def finished(self, size: tuple[int, int]) -> Image.Image:
        """With a little grain, at a size."""
        small = np.asarray(self.image.resize(size, Image.Resampling.LANCZOS), np.float32)
        return Image.fromarray(np.clip(small + self.chance.normal(0, 2.2, (*small.shape[:2], 1)), 0, 255).astype(np.uint8))
