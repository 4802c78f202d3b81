"""How captions look when they are drawn on the picture: letters, colours, box, place, and how they move."""

from __future__ import annotations

import re
from dataclasses import dataclass, replace
from typing import Literal

from jaskel.core.captions.rules import Rules

Box = Literal["none", "lines", "all"]
Case = Literal["as written", "capitals"]
Across = Literal["left", "centre", "right"]
Down = Literal["top", "middle", "bottom"]
Move = Literal["still", "appear", "change colour", "mark", "word by word", "enlarge"]
Easing = Literal["none", "even", "gentle"]

COLOUR = re.compile(r"#[0-9a-f]{6}([0-9a-f]{2})?")
"""Red, green, blue and perhaps how opaque, in hexadecimal, as in CSS Color 4."""


@dataclass(frozen=True, slots=True)
class Look:
    """The look of captions. Sizes are relative, so that a look is the same in every shape and size of picture.

    Attributes
    ----------
    name
        What it is saved as.
    font, weight
        A family, and how heavy from 100 to 900, as far as it goes.
    size
        Of the letters: what the font calls its size, in per cent of the picture's shorter side.
    colour, accent
        Of the words, and of those that a movement sets apart.
    outline, outline_colour
        How wide a line around the letters is, in per cent of their size.
    shadow, shadow_colour
        How far below the letters their shadow falls, in per cent of their size; it is half as soft.
    box, box_colour, rounding
        What is behind the words: nothing, a box for each line, or one for all; how round its corners, in per cent of the size.
    case
        Whether words are in capitals.
    across, down, x, y
        Where captions stand, within the safe area of the picture; ``x`` and ``y`` move them, in per cent of its sides.
    lines, characters
        How many at once at most; 0 where the rules of the edition say it.
    move, easing
        How they move: not at all; each caption appears; words that are said change colour; the word that is said is marked;
        words appear as they are said; the word that is said is a little larger. ``easing`` is how it comes about: at once,
        evenly, or gently.
    """

    name: str = "Plain"
    font: str = "instrument-sans"
    weight: int = 600
    size: float = 5.5
    colour: str = "#fcfbf7"
    accent: str = "#f2c14e"
    outline: float = 0.0
    outline_colour: str = "#20262b"
    shadow: float = 0.0
    shadow_colour: str = "#20262bb0"
    box: Box = "lines"
    box_colour: str = "#20262bcc"
    rounding: float = 20.0
    case: Case = "as written"
    across: Across = "centre"
    down: Down = "bottom"
    x: float = 0.0
    y: float = 0.0
    lines: int = 0
    characters: int = 0
    move: Move = "still"
    easing: Easing = "even"

    def __post_init__(self) -> None:
        for colour in (self.colour, self.accent, self.outline_colour, self.shadow_colour, self.box_colour):
            if not COLOUR.fullmatch(colour):
                raise ValueError(f"a colour is written like #20262b or #20262bcc, not “{colour}”")
        for told, value, least, most in (
            ("a weight is", self.weight, 100, 900), ("the size is", self.size, 1, 25), ("an outline is", self.outline, 0, 30),
            ("a shadow is", self.shadow, 0, 40), ("the rounding is", self.rounding, 0, 100), ("x is", self.x, -100, 100),
            ("y is", self.y, -100, 100), ("lines are", self.lines, 0, 3),
        ):  # fmt: skip
            if not least <= value <= most:
                raise ValueError(f"{told} from {least} to {most}, not {value:g}")
        if self.characters and not 10 <= self.characters <= 100:
            raise ValueError(f"a line has 10 to 100 characters, not {self.characters}")

    def rules(self, rules: Rules) -> Rules:
        """The rules of an edition as far as this look has no others."""
        lines, characters = self.lines or rules.lines, self.characters or rules.characters
        return (
            rules
            if (lines, characters) == (rules.lines, rules.characters)
            else replace(rules, lines=lines, characters=characters)
        )

    def tinted(self, tint: int | None) -> Look:
        """The look of the words of a voice that is told by colour, by the number of that."""
        if tint is None:
            return self
        tints = DARK_TINTS if _is_dark(self.colour) else LIGHT_TINTS
        return replace(self, colour=tints[tint % len(tints)])


LIGHT_TINTS = ("#fcfbf7", "#f2c14e", "#8fd0c8", "#ff9a76", "#b9c8f2", "#e3b5d9")
DARK_TINTS = ("#20262b", "#23559e", "#8c2f24", "#1f6b52", "#6b3f8c", "#7a5a10")
"""Colours by which voices are told apart, where the letters of a look are light, and where they are dark."""


def _is_dark(colour: str) -> bool:
    red, green, blue = (int(colour[at : at + 2], 16) for at in (1, 3, 5))
    return 0.2126 * red + 0.7152 * green + 0.0722 * blue < 128


PAPER = Look("Paper slip", "literata", 600, 5.2, "#20262b", "#23559e", box_colour="#fcfbf7f0", rounding=12)
SCORE = Look("Score line", "instrument-sans", 600, 5.4, box="all", box_colour="#20262bd8", move="change colour")
LOOKS: tuple[Look, ...] = (
    PAPER,
    SCORE,
    Look("Quiet", "noto-sans", 500, 4.8, outline=9, shadow=8, box="none"),
    Look(
        "Pencil", "bitter", 700, 6.4, "#fcfbf7", "#f2c14e", outline=11, box="none", lines=2, characters=24, move="mark",
        easing="gentle", y=-6,
    ),
    Look(
        "Harbour", "oswald", 600, 8.4, "#fcfbf7", "#8fd0c8", shadow=10, box="none", case="capitals", lines=2, characters=18,
        move="word by word", easing="gentle", y=-12,
    ),
    Look(
        "Big word", "nunito", 900, 9.2, "#fcfbf7", "#ff9a76", outline=12, outline_colour="#20262b", box="none", lines=1,
        characters=16, down="middle", y=18, move="enlarge", easing="gentle",
    ),
)  # fmt: skip
"""The looks that come with Jaskel: three quiet ones for wide pictures, three that move for square and upright ones."""

USUAL_LOOK = PAPER


def named(look: Look, name: str) -> Look:
    """The same look under another name."""
    return replace(look, name=name)
