"""Sentences as they are spoken: what chapters, highlights and clips are made of."""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from dataclasses import dataclass
from statistics import median

from jaskel.core.passages import Spoken
from jaskel.core.sounds import sound_in
from jaskel.core.timebase import RATE, Ticks
from jaskel.core.written import written

LONGEST = 60
"""Words without a full stop after which a sentence is ended at the longest rest in it."""

ENDING_REST: Ticks = RATE * 3 // 2
"""A rest this long ends a sentence, whatever stands before it."""

REACTION: Ticks = 2 * RATE
"""So soon after a sentence laughter or applause is about it."""


@dataclass(frozen=True)
class Sentence:
    """A sentence, from-to in ticks and ``first`` to ``last`` (excluded) among the words.

    ``rest`` is how long nobody spoke before it, ``reaction`` is ``laughter`` or ``applause`` that follows, and ``quick`` and
    ``loud`` how fast and how loud it is said, to what is usual of its voice.
    """

    text: str
    voice: str | None
    start: Ticks
    end: Ticks
    first: int
    last: int
    rest: Ticks = 0
    reaction: str = ""
    quick: float = 1.0
    loud: float = 1.0

    @property
    def asks(self) -> bool:
        return self.text.rstrip("\"'”’)]»").endswith("?")

    @property
    def length(self) -> Ticks:
        return self.end - self.start


def sentences_of(words: Sequence[Spoken]) -> list[Sentence]:
    """The sentences of some words, in order of time; sounds in brackets belong to none."""
    spoken = [index for index, word in enumerate(words) if sound_in(word.text) is None]
    reactions = [(word.start, kind) for word in words if (kind := sound_in(word.text)) in ("laughter", "applause")]
    runs = [*_runs(words, spoken)]
    rates: dict[str | None, list[float]] = {}
    for run in runs:
        rates.setdefault(words[run[0]].voice, []).append(_rate(words, run))
    usual = {voice: median(known) for voice, known in rates.items()}
    found: list[Sentence] = []
    for run in runs:
        first, last = words[run[0]], words[run[-1]]
        found.append(
            Sentence(
                written(words[index].text for index in run),
                first.voice,
                first.start,
                last.end,
                run[0],
                run[-1] + 1,
                max(0, first.start - found[-1].end) if found else first.start,
                next((kind or "" for at, kind in reactions if last.end - RATE // 2 <= at <= last.end + REACTION), ""),
                _rate(words, run) / usual[first.voice],
            )
        )
    return found


def _runs(words: Sequence[Spoken], spoken: Sequence[int]) -> Iterator[list[int]]:
    run: list[int] = []
    for place, index in enumerate(spoken):
        run.append(index)
        following = words[spoken[place + 1]] if place + 1 < len(spoken) else None
        word = words[index]
        if (
            following is None
            or word.ends_sentence
            or following.voice != word.voice
            or following.start - word.end >= ENDING_REST
        ):
            yield from _parted(words, run)
            run = []


def _parted(words: Sequence[Spoken], run: list[int]) -> Iterator[list[int]]:
    """A run of words, in parts no longer than a listener follows."""
    while len(run) > LONGEST:
        inside = range(LONGEST // 3, LONGEST)
        at = max(inside, key=lambda place: (words[run[place]].start - words[run[place - 1]].end, place))
        yield run[:at]
        run = run[at:]
    yield run


def _rate(words: Sequence[Spoken], run: Sequence[int]) -> float:
    """Letters a second, without the rests between sentences."""
    seconds = max(1, words[run[-1]].end - words[run[0]].start) / RATE
    return sum(len(words[index].text) for index in run) / seconds
