"""The house style of a show's pictures: colours, letters, logo, and how what is drawn over the picture looks."""

from __future__ import annotations

import re
from dataclasses import dataclass
from typing import Literal

from jaskel.core.picture.framing import OwnFraming

Corner = Literal["upper left", "upper right", "lower left", "lower right"]
Entrance = Literal["edge", "fade", "none"]
StrapForm = Literal["slip", "line"]
Side = Literal["left", "right"]
BarPlace = Literal["none", "top", "bottom"]
PulseForm = Literal["none", "bars", "line", "circle"]

COLOUR = re.compile(r"#[0-9a-f]{6}")
"""Red, green and blue in hexadecimal, as in CSS Color 4."""


@dataclass(frozen=True, slots=True)
class Style:
    """How the pictures of a show look. Sizes are in per cent of the picture's shorter side, so that every shape has the same.

    Attributes
    ----------
    paper, ink, accent
        The ground of cards and lower thirds, the letters on it, and what is set apart.
    heading, text
        The fonts of titles and names, and of what is smaller.
    logo, corner, logo_size, watermark
        The digest of the show's logo, empty without one; in which corner it stands, how high it is, and whether it is seen over
        every picture.
    strap, side, enter
        What lower thirds look like, at which side they stand, and how they come and go: behind a moving edge, fading, at once.
    bar
        Where a bar grows that shows how far the programme has come.
    pulse
        How the voice is drawn on the card where nothing was filmed.
    framings
        Framings that the show has made.
    """

    paper: str = "#fcfbf7"
    ink: str = "#20262b"
    accent: str = "#23559e"
    heading: str = "literata"
    text: str = "instrument-sans"
    logo: str = ""
    corner: Corner = "upper right"
    logo_size: float = 11.0
    watermark: bool = False
    strap: StrapForm = "slip"
    side: Side = "left"
    enter: Entrance = "edge"
    bar: BarPlace = "none"
    pulse: PulseForm = "none"
    framings: tuple[OwnFraming, ...] = ()

    @property
    def draws_voices(self) -> bool:
        """Whether a moving drawing of the voice is seen anywhere: on the card, or in a framing."""
        return self.pulse != "none" or any(each.kind == "voice" for made in self.framings for each in made.fixtures)

    def __post_init__(self) -> None:
        for colour in (self.paper, self.ink, self.accent):
            if not COLOUR.fullmatch(colour):
                raise ValueError(f"a colour is written like #20262b, not “{colour}”")
        if not 3 <= self.logo_size <= 40:
            raise ValueError(f"a logo is from 3 to 40 per cent high, not {self.logo_size:g}")


USUAL_STYLE = Style()
