"""What is drawn of captions at each moment: screens, which stand until the next one takes their place.

A caption that moves is a row of screens with their times, so that preview and film show the same drawings: each is drawn once.
What moves gradually does so in steps of :data:`STEP`.
"""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from dataclasses import dataclass
from functools import cached_property
from hashlib import sha256

from jaskel.core.captions.cues import Cue
from jaskel.core.captions.look import Easing, Look
from jaskel.core.timebase import RATE, Ticks

STEP: Ticks = RATE // 25
"""A film shows no more of a movement at 25 pictures a second."""

STEPS = 4
"""A movement takes so many steps, 160 ms; it is over before most words are."""

LARGER = 0.14
"""A word that is enlarged grows by so much."""


@dataclass(frozen=True, slots=True)
class Shown:
    """A word on a screen: how far it has gone over to the accent colour, how opaque it is, and how much larger, each 0 to 1."""

    text: str
    accent: float = 0.0
    opaque: float = 1.0
    larger: float = 0.0


@dataclass(frozen=True)
class Screen:
    """Lines of words as they are drawn; ``spaced`` says of each word whether a space stands before it."""

    lines: tuple[tuple[Shown, ...], ...]
    spaced: tuple[tuple[bool, ...], ...]
    look: Look
    opaque: float = 1.0

    @cached_property
    def digest(self) -> str:
        """A name that only its drawing decides."""
        return sha256(repr((self.lines, self.spaced, self.look, self.opaque)).encode()).hexdigest()[:24]


Moment = tuple[Ticks, Screen | None]
"""From a place of the programme on a screen is seen, or none."""


def screens(cues: Sequence[Cue]) -> Iterator[Moment]:
    """What is drawn of captions, in order."""
    for number, cue in enumerate(cues):
        yield from _of_cue(cue, cue.look.tinted(cue.tint))
        following = cues[number + 1].start if number + 1 < len(cues) else None
        if following is None or following > cue.end:
            yield cue.end, None


def _of_cue(cue: Cue, look: Look) -> Iterator[Moment]:
    """The screens of a caption; each differs from the one before."""
    last: Screen | None = None
    for at in _times(cue, look):
        screen = _at(cue, look, at)
        if screen != last:
            yield at, screen
            last = screen


def _times(cue: Cue, look: Look) -> list[Ticks]:
    """When something may change."""
    if look.move == "still":
        return [cue.start]
    begins = [cue.start] if look.move == "appear" else [part.start for line in cue.parts for part in line]
    steps = 1 if look.easing == "none" else STEPS
    times = {cue.start, *(begin + step * STEP for begin in begins for step in range(steps))}
    return sorted(at for at in times if cue.start <= at < cue.end)


def _at(cue: Cue, look: Look, at: Ticks) -> Screen:
    spaced = tuple(tuple(part.spaced for part in line) for line in cue.parts)
    if look.move in ("still", "appear"):
        opaque = _come(at - cue.start, look.easing) if look.move == "appear" else 1.0
        return Screen(tuple(tuple(Shown(part.text) for part in line) for line in cue.parts), spaced, look, opaque)
    flat = [part for line in cue.parts for part in line]
    begun = [part.start <= at for part in flat]
    now = max((number for number, is_begun in enumerate(begun) if is_begun), default=-1)
    words = []
    for number, part in enumerate(flat):
        come = _come(at - part.start, look.easing) if begun[number] else 0.0
        going = come if number == now else 1 - _come(at - flat[now].start, look.easing) if number == now - 1 else 0.0
        if look.move == "change colour":
            words.append(Shown(part.text, accent=come))
        elif look.move == "mark":
            words.append(Shown(part.text, accent=going))
        elif look.move == "word by word":
            words.append(Shown(part.text, opaque=come))
        else:
            words.append(Shown(part.text, accent=going, larger=going))
    rows = iter(words)
    return Screen(tuple(tuple(next(rows) for _ in line) for line in cue.parts), spaced, look)


def _come(since: Ticks, easing: Easing) -> float:
    """How far a movement has come that began so many ticks ago; ``gentle`` is the smoothstep 3p² − 2p³."""
    if easing == "none":
        return 1.0
    part = min(1.0, (since // STEP + 1) / STEPS)
    return round(part if easing == "even" else part * part * (3 - 2 * part), 4)
