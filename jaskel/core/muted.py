"""Words that are not heard because their voice is muted there."""

from __future__ import annotations

from collections.abc import Iterator, Mapping, Sequence

from jaskel.core.edition import Edition
from jaskel.core.marks.level import MUTED, Fader, Level, faders
from jaskel.core.marks.mark import Marks, strip_name
from jaskel.core.page import laid_words
from jaskel.core.timebase import Ticks
from jaskel.core.transcript import Transcript, Word

Carriers = Mapping[str, Mapping[str | None, Sequence[str]]]
"""The tracks that carry each voice of a recording or session; under None those of any other voice."""


def has_muted(marks: Marks) -> bool:
    """Whether anything at all is muted."""
    return marks.derived(Level, _any_muted) or marks.derived(Fader, _any_muted)


def _any_muted(marks: Sequence[Level] | Sequence[Fader]) -> bool:
    return any(mark.decibels <= MUTED for mark in marks)


def is_muted(marks: Marks, recording: str, tracks: Sequence[str], start: Ticks, end: Ticks) -> bool:
    """Whether nothing is heard of ``tracks`` from ``start`` to ``end`` of ``recording``."""
    return bool(tracks) and all(_is_muted(marks, recording, track, start, end) for track in tracks)


def _is_muted(marks: Marks, recording: str, track: str, start: Ticks, end: Ticks) -> bool:
    if faders(marks).get(track, 0.0) <= MUTED:
        return True
    at = start
    for level in marks.within(Level, recording, start, end):
        if level.track == track and level.decibels <= MUTED and level.start <= at:
            at = max(at, level.end)
    return at >= end


def word_is_muted(marks: Marks, recording: str, word: Word, carriers: Carriers) -> bool:
    """Whether the voice of a word is muted through all of it."""
    by_voice = carriers.get(recording, {})
    tracks = by_voice.get(word.voice) or by_voice.get(None, ())
    levels = faders(marks)
    if tracks and word.voice and all(levels.get(strip_name(track, word.voice), 0.0) <= MUTED for track in tracks):
        return True
    return is_muted(marks, recording, tracks, word.start, word.end)


def muted_ranges(edition: Edition, transcripts: Mapping[str, Transcript], carriers: Carriers) -> Iterator[tuple[Ticks, Ticks]]:
    """Laid from-to of the words that are muted, in order; neighbours without a rest between them as one."""
    begin = end = -1
    if not has_muted(edition.marks):
        return
    for name, word, laid in laid_words(edition, transcripts):
        if not word_is_muted(edition.marks, name, word, carriers):
            continue
        if laid > end:
            if end >= 0:
                yield begin, end
            begin = laid
        end = laid + word.end - word.start
    if end >= 0:
        yield begin, end
