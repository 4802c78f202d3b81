"""Recordings made at the same time, kept in sync.

A session has a clock of its own, which begins with its earliest track. To editions it is one recording: a piece is a stretch of
the session, and all tracks sound in it. So nothing that is cut can ever fall out of sync.
"""

from __future__ import annotations

from collections.abc import Iterable, Mapping
from dataclasses import dataclass, replace
from fractions import Fraction

from jaskel.core.passages import SENTENCE_REST
from jaskel.core.timebase import RATE, Ticks
from jaskel.core.transcript import Transcript, Word

PHRASE_REST: Ticks = RATE * 3 // 10
"""A voice that rests this long has ended a phrase; another may take over without interrupting it."""


@dataclass(frozen=True, slots=True)
class Picture:
    """What a camera's pictures look like: ``width`` and ``height`` in square pixels, upright, and frames a second."""

    width: int
    height: int
    rate: Fraction


@dataclass(frozen=True, slots=True)
class Track:
    """One voice or camera of a session.

    Attributes
    ----------
    recording
        The recording's id.
    length
        Its length in its own ticks.
    offset
        Where on the session's clock it begins; it may lie before zero.
    drift
        By how much its clock runs slow: a stretch ``t`` of it takes ``t * (1 + drift)`` of the session.
    voice
        Who is heard in it, or None where several are.
    sounds
        Whether it is heard; cameras beside microphones are only seen.
    picture
        What is seen in it, or None where nothing is.
    """

    recording: str
    length: Ticks
    offset: Ticks = 0
    drift: float = 0.0
    voice: str | None = None
    sounds: bool = True
    picture: Picture | None = None

    def to_session(self, at: Ticks) -> Ticks:
        """The session's time at ``at`` of the recording."""
        return self.offset + round(at * (1 + self.drift))

    def to_recording(self, at: Ticks) -> Ticks:
        """The recording's time at ``at`` of the session; below zero where it had not begun."""
        return round((at - self.offset) / (1 + self.drift))

    @property
    def end(self) -> Ticks:
        """Where on the session's clock it ends."""
        return self.to_session(self.length)


@dataclass(frozen=True, slots=True)
class Session:
    """Tracks on one clock, in the order they are shown."""

    tracks: tuple[Track, ...]

    @property
    def length(self) -> Ticks:
        """From the session's zero to the end of what ends last."""
        return max((track.end for track in self.tracks), default=0)

    def from_zero(self) -> Session:
        """The same with its earliest track at zero."""
        earliest = min((track.offset for track in self.tracks), default=0)
        return Session(tuple(replace(track, offset=track.offset - earliest) for track in self.tracks))


def without_overlap(words: Iterable[Word], duration: Ticks) -> tuple[Word, ...]:
    """Words in order of time, each trimmed to what the one before leaves; what nothing is left of is dropped."""
    out: list[Word] = []
    for word in sorted(words, key=lambda word: word.start):
        start, end = max(word.start, out[-1].end if out else 0), min(word.end, duration)
        if start < end:
            out.append(word if (start, end) == (word.start, word.end) else replace(word, start=start, end=end))
    return tuple(out)


def conversation(session: Session, transcripts: Mapping[str, Transcript]) -> Transcript:
    """What was said in a session, by all voices, in the session's time.

    Phrases follow one another by when they begin. Where one begins before another has ended, its first words are trimmed to
    what comes after; words that lie wholly under another voice are *asides* and do not interrupt it.
    """
    phrases = sorted(
        (phrase for track in session.tracks if track.sounds for phrase in _phrases(track, transcripts.get(track.recording))),
        key=lambda phrase: phrase[0].start,
    )
    words: list[Word] = []
    asides: list[Word] = []
    at = 0
    for phrase in phrases:
        for word in phrase:
            if word.start < at and word.end <= at + _least(word):
                asides.append(word)
                continue
            words.append(replace(word, start=max(word.start, at)) if word.start < at else word)
            at = words[-1].end
    reached = [
        track.to_session(known.reached)
        for track in session.tracks
        if track.sounds
        and (known := transcripts.get(track.recording))
        and known.reached is not None
        and known.reached < track.length
    ]
    asides.sort(key=lambda word: word.start)
    return Transcript(session.length, tuple(words), min(reached) if reached else None, tuple(asides))


def _least(word: Word) -> Ticks:
    """How much of a word must be left for it to be worth showing among the others: a third, at least 40 ms."""
    return max(RATE // 25, (word.end - word.start) // 3)


def _phrases(track: Track, transcript: Transcript | None) -> Iterable[tuple[Word, ...]]:
    """The words of a track in the session's time, parted where the voice rests; none from before the session's zero."""
    phrase: list[Word] = []
    for known in transcript.words if transcript else ():
        start, end = track.to_session(known.start), track.to_session(known.end)
        if start < 0:
            continue
        word = replace(known, start=start, end=max(end, start + 1), voice=known.voice or track.voice)
        if phrase and (
            word.start - phrase[-1].end >= PHRASE_REST or word.voice != phrase[-1].voice or _sentence(phrase[-1], word)
        ):
            yield tuple(phrase)
            phrase = []
        phrase.append(word)
    if phrase:
        yield tuple(phrase)


def _sentence(before: Word, after: Word) -> bool:
    return before.ends_sentence and after.start - before.end >= SENTENCE_REST // 3
