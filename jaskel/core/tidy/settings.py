"""What a show wants tidied, and how."""

from __future__ import annotations

import statistics
from collections.abc import Iterator, Mapping, Sequence
from dataclasses import dataclass, field
from itertools import pairwise
from typing import Literal

from jaskel.core.tidy.chatter import REMARKS, Phrases
from jaskel.core.tidy.fillers import DOUBLED, FILLERS
from jaskel.core.tidy.finding import Kind
from jaskel.core.tidy.retakes import CUES
from jaskel.core.timebase import RATE, Ticks
from jaskel.core.transcript import SHORTEST_REST, Word

Action = Literal["strike", "lift", "shorten", "short rest", "soften"]
"""What accepting a finding does: strike or lift it, make a rest shorter, leave a short rest in the place of words, or make a
breath softer."""

OWN_ACTION: Mapping[Kind, Action] = {"long rest": "shorten", "breath": "soften"}
"""What accepting does with kinds where there is no choice."""

RHYTHMS: Sequence[tuple[float, float]] = ((4.0, 2.0), (3.0, 1.5), (2.2, 1.2), (1.7, 0.9), (1.3, 0.7))
"""From calm to brisk: rests longer than so many times a speaker's median rest become so many times it."""

STEADY = 2
SHORT_REST: Ticks = RATE * 3 // 10
FEWEST = 8
"""A rhythm is told from at least so many rests."""

USUAL: Ticks = RATE * 45 // 100
"""The median rest of a speaker of whom too little is known."""


@dataclass(frozen=True)
class Threshold:
    """Rests ``longer`` than this become so long."""

    longer: Ticks
    becomes: Ticks


@dataclass(frozen=True)
class TidySettings:
    """What counts as what, and what accepting does.

    Attributes
    ----------
    fillers, cues, remarks
        The show's lists: sounds of hesitation, words that say an attempt was given up, what is said to whoever edits.
    doubled
        Small words nobody says twice in a row on purpose.
    empty_words
        Whether there is a rule for words that say nothing in this language.
    rhythm
        A place in :data:`RHYTHMS`.
    rests
        A threshold for all voices that leads instead of the rhythm.
    voices
        Thresholds of single voices, which lead before both.
    keep_answers, keep_laughter
        Leave the rest between a question and the answer, or before somebody laughs, as it is.
    soften_breaths
        Propose to make breaths softer; otherwise they stay as they are.
    actions
        What accepting does, by kind; ``strike`` (and ``shorten`` for rests) where nothing is said.
    """

    fillers: frozenset[str] = FILLERS
    cues: frozenset[str] = CUES
    doubled: frozenset[str] = DOUBLED
    empty_words: bool = True
    remarks: Phrases = REMARKS
    rhythm: int = STEADY
    rests: Threshold | None = None
    voices: Mapping[str, Threshold] = field(default_factory=dict)
    keep_answers: bool = False
    keep_laughter: bool = False
    soften_breaths: bool = False
    actions: Mapping[Kind, Action] = field(default_factory=dict)

    def action(self, kind: Kind) -> Action:
        return OWN_ACTION.get(kind) or self.actions.get(kind, "strike")


def rests_of(words: Sequence[Word]) -> Iterator[tuple[Word, Word, Ticks]]:
    """Every rest between two words, with them and its length."""
    for before, after in pairwise(words):
        if after.start - before.end >= SHORTEST_REST:
            yield before, after, after.start - before.end


Rhythm = Mapping[str | None, Ticks]
"""The median rest of each voice; under None that of all together."""


def rhythm_of(words: Sequence[Word]) -> Rhythm:
    """The median rest of each voice; under None that of all together. A rest belongs to the voice before it."""
    rests: dict[str | None, list[Ticks]] = {None: []}
    for before, _, rest in rests_of(words):
        rests[None].append(rest)
        if before.voice is not None:
            rests.setdefault(before.voice, []).append(rest)
    common = int(statistics.median(rests[None])) if len(rests[None]) >= FEWEST else USUAL
    return {voice: int(statistics.median(mine)) if len(mine) >= FEWEST else common for voice, mine in rests.items()}


def thresholds(rhythm: Rhythm, settings: TidySettings) -> dict[str | None, Threshold]:
    """What counts as a long rest for each voice; under None for any other."""
    longer, becomes = RHYTHMS[settings.rhythm]
    by_rhythm = {
        voice: settings.rests or Threshold(_rounded(longer * rest), _rounded(becomes * rest)) for voice, rest in rhythm.items()
    }
    return by_rhythm | dict(settings.voices)


def _rounded(ticks: float) -> Ticks:
    """To 50 ms: nobody sets rests more exactly, and the numbers stay readable."""
    step = RATE // 20
    return max(step, round(ticks / step) * step)
