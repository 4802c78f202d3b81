"""What is wrong with captions: read too quickly, too long or too short on the screen, too near to the next, doubtful."""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from dataclasses import dataclass
from typing import Literal

from jaskel.core.captions.cues import Cue
from jaskel.core.captions.rules import Rules
from jaskel.core.page import UNSURE
from jaskel.core.timebase import RATE

Fault = Literal[
    "too fast", "too long", "too short", "too near", "overlapping", "too wide", "too many lines", "doubtful", "over a face"
]  # fmt: skip


@dataclass(frozen=True, slots=True)
class Trouble:
    """A fault of the cue with that number, and what it is in words."""

    cue: int
    fault: Fault
    told: str


def checked(cues: Sequence[Cue], rules: Rules) -> Iterator[Trouble]:
    """What is wrong with cues by the rules, in order.

    >>> [each.told for each in checked([Cue(0, RATE, ("a" * 30,))], Rules())]
    ['30 characters a second, 20 at most']
    """
    wanted = rules
    for number, cue in enumerate(cues):
        rules = cue.look.rules(wanted)
        seconds = (cue.end - cue.start) / RATE
        if cue.rate > rules.rate * 1.01:
            yield Trouble(number, "too fast", f"{cue.rate:.0f} characters a second, {rules.rate:g} at most")
        if cue.end - cue.start > rules.longest and not rules.hold:
            yield Trouble(number, "too long", f"seen for {seconds:.1f} s, {rules.longest / RATE:g} at most")
        if cue.end - cue.start < rules.shortest:
            yield Trouble(number, "too short", f"seen for {seconds:.1f} s, {rules.shortest / RATE:g} at least")
        if len(cue.lines) > rules.lines:
            yield Trouble(number, "too many lines", f"{len(cue.lines)} lines, {rules.lines} at most")
        widest = max(map(len, cue.lines))
        if widest > rules.characters:
            yield Trouble(number, "too wide", f"{widest} characters on a line, {rules.characters} at most")
        if number + 1 < len(cues):
            between = cues[number + 1].start - cue.end
            if between < 0:
                yield Trouble(number, "overlapping", "seen together with the next")
            elif between < rules.gap:
                yield Trouble(number, "too near", f"{between / RATE:.2f} s before the next, {rules.gap / RATE:.2f} at least")
        doubtful = [item.word.text for item in cue.words if item.word.confidence < UNSURE]
        if doubtful:
            yield Trouble(number, "doubtful", f"not sure of {' and '.join(f'“{text}”' for text in doubtful[:3])}")
