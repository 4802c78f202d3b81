"""What a show wants of captions where an edition says nothing else."""

from __future__ import annotations

from dataclasses import dataclass

from jaskel.core.captions.look import USUAL_LOOK, Look
from jaskel.core.captions.rules import USUAL, Rules


@dataclass(frozen=True, slots=True)
class HouseCaptions:
    """The rules and the look of a show."""

    rules: Rules = USUAL
    look: Look = USUAL_LOOK


USUAL_HOUSE = HouseCaptions()
