"""Whose turn it is in a track of several voices: so each voice can have a channel strip of its own, by time."""

from __future__ import annotations

from collections.abc import Collection, Iterator, Sequence
from dataclasses import dataclass

from jaskel.core.timebase import Ticks
from jaskel.core.transcript import Transcript


@dataclass(frozen=True, slots=True)
class Turn:
    """From ``start`` to ``end`` one voice speaks; it reaches half-way to the words of the others."""

    start: Ticks
    end: Ticks
    voice: str


def turns(said: Transcript | None, voices: Collection[str], fade: Ticks) -> list[Turn]:
    """The turns of ``voices``, in order, each with room for its fades: those of neighbours fall together at the border.

    >>> from jaskel.core.transcript import Word
    >>> said = Transcript(1000, (Word("So", 100, 200, voice="a"), Word("Yes", 300, 400, voice="b")))
    >>> turns(said, {"a", "b"}, 20)
    [Turn(start=0, end=240, voice='a'), Turn(start=260, end=1000, voice='b')]
    """
    found: list[Turn] = []
    words = said.words if said else ()
    begin: Ticks = 0
    for index, word in enumerate(words):
        after = words[index + 1] if index + 1 < len(words) else None
        if after is not None and after.voice == word.voice:
            continue
        last = after is None
        border = said.duration if said and last else (word.end + after.start) // 2 if after else word.end
        start, end = begin + (fade // 2 if begin else 0), border - (0 if last else fade // 2)
        if word.voice in voices and start < end:
            found.append(Turn(start, end, word.voice or ""))
        begin = border
    return found


def without(turn: Turn, taken: Sequence[tuple[Ticks, Ticks]], fade: Ticks) -> Iterator[Turn]:
    """What is left of a turn beside stretches that are otherwise, which fade in before they begin and out after their end."""
    at = turn.start
    for start, end in sorted(taken):
        if end + fade <= at or start - fade >= turn.end:
            continue
        if at < start - fade:
            yield Turn(at, start - fade, turn.voice)
        at = max(at, end + fade)
    if at < turn.end:
        yield Turn(at, turn.end, turn.voice)
