"""Cards of an edition that look otherwise than the house style has them."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Literal

WhichCard = Literal["opening", "closing", "between"]
"""The episode's own card (before, and where nothing was filmed), the one after it, and those of words between its parts."""

LONGEST = 200


@dataclass(frozen=True, slots=True)
class CardLook:
    """How a card looks.

    Attributes
    ----------
    text
        What stands on it instead of the episode's title; cards between parts have words of their own.
    colour, picture
        What lies behind: a colour, or a picture of the house style by its digest; empty for the paper of the house style.
    logo
        Whether the logo of the show stands on it.
    """

    text: str = ""
    colour: str = ""
    picture: str = ""
    logo: bool = True

    def __post_init__(self) -> None:
        if len(self.text) > LONGEST:
            raise ValueError(f"a card has room for {LONGEST} letters")


AS_IN_STYLE = CardLook()
