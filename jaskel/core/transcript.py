"""Words tied to their sound, the rests between them, and the passages they form.

A transcript belongs to one recording; an edition only says which stretches of it are used. All times are ticks of that
recording.
"""

from __future__ import annotations

from bisect import bisect_left
from collections.abc import Iterable, Sequence
from dataclasses import dataclass, replace
from itertools import groupby
from typing import Any

from jaskel.core.passages import beginnings
from jaskel.core.sounds import sound_in
from jaskel.core.timebase import RATE, Ticks
from jaskel.core.written import written

SHORTEST_REST: Ticks = RATE * 15 // 100
"""Gaps below 0.15 s are part of connected speech (stop closures reach that length) and are not shown as rests."""

_CLOSERS = "\"'”’)]»"


@dataclass(frozen=True, slots=True)
class Word:
    """A spoken word.

    ``confidence`` is the recogniser's probability, below 1; it is 1 where a person typed the word or said that it is right. A
    *loose* word has no tie to its sound: its times are only a guess. ``begins`` says whether a passage begins with it, where a
    person decided that; None leaves it to the pauses. ``over`` says that another voice speaks meanwhile.
    """

    text: str
    start: Ticks
    end: Ticks
    confidence: float = 1.0
    voice: str | None = None
    loose: bool = False
    begins: bool | None = None
    over: bool = False

    def __post_init__(self) -> None:
        if self.end <= self.start:
            raise ValueError(f"the word {self.text!r} has no length ({self.start}–{self.end})")

    @property
    def by_hand(self) -> bool:
        """Whether a person typed the word, or said that it is right."""
        return self.confidence >= 1

    @property
    def is_sound(self) -> bool:
        """Whether it stands for a sound that is no word, such as ``[laughter]``."""
        return sound_in(self.text) is not None

    @property
    def ends_sentence(self) -> bool:
        return self.text.rstrip(_CLOSERS).endswith((".", "?", "!", "…", "。", "？", "！"))


def with_sounds_of(known: Iterable[Word], words: Sequence[Word]) -> tuple[Word, ...]:
    """Words, in order, with the sounds of other words wherever nothing is said meanwhile."""
    merged = list(words)
    for sound in known:
        at = bisect_left(merged, sound.start, key=lambda word: word.start)
        clear = (at == 0 or merged[at - 1].end <= sound.start) and (at == len(merged) or merged[at].start >= sound.end)
        if sound.is_sound and clear:
            merged.insert(at, sound)
    return tuple(merged)


def word_to_json(word: Word) -> list[Any]:
    """A word as plain values: ``Word(*word_to_json(word))`` is the word."""
    plain = [word.text, word.start, word.end, round(word.confidence, 4), word.voice, word.loose, word.begins]
    return [*plain, True] if word.over else plain


@dataclass(frozen=True, slots=True)
class Rest:
    """The silence between two words."""

    start: Ticks
    end: Ticks


@dataclass(frozen=True, slots=True)
class Passage:
    """A stretch by one voice: words in order, never empty."""

    words: tuple[Word, ...]

    @property
    def voice(self) -> str | None:
        return self.words[0].voice

    @property
    def start(self) -> Ticks:
        return self.words[0].start

    @property
    def end(self) -> Ticks:
        return self.words[-1].end

    @property
    def text(self) -> str:
        return written(word.text for word in self.words)


@dataclass(frozen=True, slots=True)
class Transcript:
    """What was said in a recording of length ``duration``, in order of time.

    ``reached`` is how far it has been transcribed, None for all of it; what comes after may hold speech. ``asides`` are words
    spoken under those of another voice: they are shown beside the others, and may overlap them.

    Raises
    ------
    ValueError
        When words overlap or lie outside the recording.
    """

    duration: Ticks
    words: tuple[Word, ...] = ()
    reached: Ticks | None = None
    asides: tuple[Word, ...] = ()

    def __post_init__(self) -> None:
        at = 0
        for word in self.words:
            if word.start < at:
                raise ValueError(f"the word {word.text!r} begins before the one before it ends")
            at = word.end
        if at > self.duration:
            raise ValueError("the last word ends after the recording does")

    def rests(self) -> tuple[Rest, ...]:
        """Every silence of at least :data:`SHORTEST_REST`, the ones before the first and after the last word too."""
        edges = [0, *(edge for word in self.words for edge in (word.start, word.end)), self.duration]
        gaps = zip(edges[::2], edges[1::2], strict=True)
        return tuple(Rest(start, end) for start, end in gaps if end - start >= SHORTEST_REST)

    def passages(self) -> tuple[Passage, ...]:
        """The words in passages; see :mod:`jaskel.core.passages`."""
        begun = beginnings(self.words)
        return tuple(Passage(self.words[a:b]) for a, b in zip(begun, [*begun[1:], len(self.words)], strict=True))


def with_corrections(new: Sequence[Word], old: Sequence[Word]) -> tuple[Word, ...]:
    """A transcript made anew, with what a person typed or accepted in the ``old`` one in the place of what lies there."""
    words = list(new)
    for by_hand, run in groupby(old, key=lambda word: word.by_hand):
        if by_hand:
            kept = tuple(run)
            begin, end = kept[0].start, kept[-1].end
            before = [_within(word, 0, begin) for word in words if (word.start + word.end) // 2 < begin]
            after = [_within(word, end, word.end) for word in words if (word.start + word.end) // 2 >= end]
            words = [*filter(None, before), *kept, *filter(None, after)]
    return tuple(words)


def _within(word: Word, begin: Ticks, end: Ticks) -> Word | None:
    """A word kept between two places; None where nothing is left of it."""
    start, until = max(word.start, begin), min(word.end, end)
    return replace(word, start=start, end=until) if start < until else None


@dataclass(frozen=True, slots=True)
class Rough:
    """A word as it was aligned: its times may still touch or cross those of others, or leave it no length."""

    text: str
    start: Ticks
    end: Ticks
    confidence: float = 1.0
    loose: bool = False


def tidy_times(words: Sequence[Rough], duration: Ticks, shortest: Ticks = RATE // 50) -> tuple[Word, ...]:
    """Words made to follow one another inside ``duration``.

    Crossing edges meet in the middle; a word left shorter than ``shortest`` (20 ms) borrows from the one before. Words for
    which there is no room at all are dropped.
    """
    tidy: list[Word] = []
    for word in words:
        start, end = max(0, word.start), min(duration, word.end)
        if tidy and start < tidy[-1].end:
            last = tidy[-1]
            meet = max(last.start + shortest, min((start + last.end) // 2, duration - shortest))
            start = meet
            tidy[-1] = replace(last, end=min(last.end, meet))
        end = max(end, start + shortest)
        if end > duration:
            end, start = duration, min(start, duration - shortest)
            if tidy and start < tidy[-1].end:
                continue
        tidy.append(Word(word.text, start, end, word.confidence, loose=word.loose))
    return tuple(tidy)


def shortened(text: str) -> str:
    """A long text by its beginning and its end."""
    return text if len(text) <= 48 else f"{text[:24].rsplit(' ', 1)[0]} … {text[-20:].split(' ', 1)[-1]}"
