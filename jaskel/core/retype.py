"""Mending the text of a transcript without touching its sound.

A correction belongs to the recording. Words that stay keep their times; for new ones there is a guess, the words they replace
or the gap they stand in laid out by length, and they are *loose* until they have been fitted to the sound.
"""

from __future__ import annotations

from bisect import bisect_left, bisect_right
from collections.abc import Callable, Iterator, Sequence
from dataclasses import dataclass, replace
from difflib import SequenceMatcher
from itertools import accumulate, pairwise

from jaskel.core.problem import Problem
from jaskel.core.sounds import sound_in
from jaskel.core.timebase import RATE, Ticks
from jaskel.core.transcript import SHORTEST_REST, Transcript, Word

SHORTEST: Ticks = RATE // 25
"""A word gets at least 40 ms, so that it can be seen and selected."""

LONGEST_TEXT = 20_000


@dataclass(frozen=True, slots=True)
class Change:
    """In one recording, ``old`` words become ``new`` ones. Between what comes before and after, nothing else stands."""

    recording: str
    old: tuple[Word, ...]
    new: tuple[Word, ...]

    @property
    def turned(self) -> Change:
        return Change(self.recording, self.new, self.old)


def within(transcript: Transcript, begin: Ticks, end: Ticks) -> tuple[int, int]:
    """Indices from-to of the words that have their middle between two times."""
    middles = [(word.start + word.end) // 2 for word in transcript.words]
    return bisect_left(middles, begin), bisect_right(middles, end - 1)


def retype(recording: str, transcript: Transcript, begin: Ticks, end: Ticks, text: str) -> Change:
    """Give the words between two times another text; an empty one takes them off the page but leaves the sound.

    Raises
    ------
    Problem
        ``nothing-changed``, or ``too-long``.
    """
    if len(text) > LONGEST_TEXT:
        raise Problem("too-long", "That is too much text for a correction. Bring it as a text instead.")
    words = transcript.words
    first, last = within(transcript, begin, end)
    old, said = words[first:last], text.split()
    if [word.text for word in old] == said:
        raise Problem("nothing-changed", "That changes nothing: the words already read so.")
    before = words[first - 1].end if first else 0
    after = words[last].start if last < len(words) else transcript.duration
    voice = old[0].voice if old else words[first - 1].voice if first else None
    new: list[Word] = []
    for kept, inserted in _matched(old, said):
        if inserted is None:
            new += kept
            continue
        room = _room(kept, new[-1].end if new else before, _following(old, kept, after), (begin, end))
        new += _laid_out(inserted, room, kept[0].voice if kept else voice, kept)
    if new and old:
        new[0] = replace(new[0], begins=old[0].begins)
    fitted = _without_overlap(new, before, after)
    return Change(recording, tuple(old), fitted)


def _matched(old: Sequence[Word], said: Sequence[str]) -> Iterator[tuple[list[Word], list[str] | None]]:
    """Runs of words that stay (with None), and runs of old words with what is said in their place."""
    matcher = SequenceMatcher(None, [_plain(word.text) for word in old], [_plain(text) for text in said], autojunk=False)
    for tag, a, b, c, d in matcher.get_opcodes():
        if tag == "equal" or (tag == "replace" and b - a == d - c == 1):
            # The same word in other letters, or one for one: its sound is where it was.
            pairs = zip(old[a:b], said[c:d], strict=True)
            yield [replace(word, text=text, confidence=1.0) if word.text != text else word for word, text in pairs], None
        else:
            yield list(old[a:b]), list(said[c:d])


def _plain(text: str) -> str:
    return "".join(c for c in text.casefold() if c.isalnum())


def _following(old: Sequence[Word], kept: Sequence[Word], after: Ticks) -> Ticks:
    if not kept:
        return after
    index = old.index(kept[-1]) + 1
    return old[index].start if index < len(old) else after


def _room(kept: Sequence[Word], before: Ticks, after: Ticks, asked: tuple[Ticks, Ticks]) -> tuple[Ticks, Ticks]:
    if kept:
        return kept[0].start, kept[-1].end
    return max(before, min(asked[0], after)), max(before, min(after, asked[1]))


def _laid_out(said: Sequence[str], room: tuple[Ticks, Ticks], voice: str | None, kept: Sequence[Word]) -> list[Word]:
    """Words over a stretch, each with room by its length."""
    begin, end = room
    end = max(end, begin + SHORTEST * len(said))
    total = sum(len(text) + 1 for text in said) or 1
    edges = [begin + (end - begin) * share // total for share in accumulate((len(text) + 1 for text in said), initial=0)]
    return [
        # A sound in brackets cannot be aligned; it is where it was put.
        Word(text, a, max(b, a + 1), 1.0, voice, sound_in(text) is None)
        for text, (a, b) in zip(said, pairwise(edges), strict=True)
    ]


def _without_overlap(words: Sequence[Word], before: Ticks, after: Ticks) -> tuple[Word, ...]:
    """Words made to follow one another between two times; where there is no room they are squeezed, a tick at the least."""
    out: list[Word] = []
    room_after = [len(words) - index for index in range(len(words))]
    at = before
    for word, needed in zip(words, room_after, strict=True):
        start = max(at, min(word.start, after - needed))
        end = max(start + 1, min(word.end, after - needed + 1))
        if start < at or end > after:
            raise Problem("no-room", "There is no room for so many words here. Select the words around too and retype them.")
        out.append(replace(word, start=start, end=end))
        at = end
    return tuple(out)


def changed_words(recording: str, transcript: Transcript, begin: Ticks, end: Ticks, change: Callable[[Word], Word]) -> Change:
    """Change something about the words between two times, such as whose they are."""
    first, last = within(transcript, begin, end)
    old = transcript.words[first:last]
    new = tuple(change(word) for word in old)
    if new == old:
        raise Problem("nothing-changed", "That changes nothing: it is so already.")
    return Change(recording, old, new)


def put_in(transcript: Transcript, change: Change) -> Transcript:
    """The transcript with a change carried out.

    Raises
    ------
    Problem
        ``changed-elsewhere`` when the old words are not there any more as they were.
    """
    words = transcript.words
    span = change.old or change.new
    first, last = within(transcript, span[0].start, span[-1].end) if change.old else (_place(words, span[0].start),) * 2
    found = words[first:last]
    if [(word.text, word.voice) for word in found] != [(word.text, word.voice) for word in change.old]:
        raise Problem(
            "changed-elsewhere",
            "These words were changed elsewhere since, so this cannot be taken back or done again.",
        )
    before = words[first - 1].end if first else 0
    after = words[last].start if last < len(words) else transcript.duration
    new = _without_overlap(change.new, before, after)
    return replace(transcript, words=(*words[:first], *new, *words[last:]))


def _place(words: Sequence[Word], at: Ticks) -> int:
    return bisect_left([word.start for word in words], at)


SHORTEST_LEFT: Ticks = RATE // 50
"""Moving the edge of a word leaves at least 20 ms of it and of the words beside it."""


def with_edges(recording: str, transcript: Transcript, word: tuple[Ticks, Ticks], start: Ticks, end: Ticks) -> Change:
    """Say that the one word between two times sounds from ``start`` to ``end``; words beside it give way, or follow.

    Raises
    ------
    Problem
        ``no-words`` where there is none, ``no-room`` when a word beside it would be left with less than 20 ms.
    """
    words = transcript.words
    first, last = within(transcript, *word)
    if last - first != 1:
        raise Problem("no-words", "There is no word here whose edges could be moved.")
    least = words[first - 1].start + SHORTEST_LEFT if first else 0
    most = words[last].end - SHORTEST_LEFT if last < len(words) else transcript.duration
    if not least <= start <= end - SHORTEST_LEFT <= most - SHORTEST_LEFT:
        raise Problem("no-room", "Too little would be left of a word. Pull its edge less far.")
    moved = replace(words[first], start=start, end=end, loose=False)
    old, new = [words[first]], [moved]
    if first and (words[first - 1].end > start or words[first].start - words[first - 1].end < SHORTEST_REST):
        # Without a rest between them, two words share the edge.
        old.insert(0, words[first - 1])
        new.insert(0, replace(words[first - 1], end=start))
    if last < len(words) and words[last].start < end:
        old.append(words[last])
        new.append(replace(words[last], start=end))
    return Change(recording, tuple(old), tuple(new))
