"""Fillers, words said twice by stumbling, and voice where the transcript has nothing."""

from __future__ import annotations

from collections.abc import Collection, Iterator, Sequence
from itertools import pairwise

from jaskel.core.tidy.finding import Finding, Stretch, plain, set_of
from jaskel.core.timebase import RATE, Ticks
from jaskel.core.transcript import SHORTEST_REST, Word

FILLERS = set_of("um umm uhm uh uhh er erm ehm hm hmm mm mmm mhm ah eh")
"""Sounds of hesitation in English; a show may add its own."""

DOUBLED = set_of("the a an to of in on at i we you he she it they and but so that this is was my your our")
"""Small words nobody says twice in a row on purpose."""

STUMBLED = set_of("her his their its with for from as or if")
"""Others that are no slip side by side ("I gave her her coat") but are one with a comma or a rest between them."""

STUMBLE: Ticks = RATE * 8 // 10
"""A word said again within 0.8 s was stumbled over."""

LAST, SHORT_STUMBLE = set_of("it you that this on in so is was"), RATE * 4 // 10
"""These may also be the last of one sentence and the first of the next, if there is a rest of more than 0.4 s between."""

SHORTEST_VOICE, LONGEST_VOICE = RATE // 5, RATE * 14 // 10
"""Voice without words is a hesitation from 0.2 s on; beyond 1.4 s it is more likely speech that was not recognised,"""

LONGEST_RUNNING_ON, LONGEST_WITHIN = RATE * 8 // 10, RATE * 45 // 100
"""and beyond 0.8 s where it runs on from a word, or 0.45 s where it also runs into the next: then words were laid wrongly.
(Of 18 hesitations in 38 recordings the longest took 0.74 s, and the one without any rest around it 0.4 s.)"""

RINGING: Ticks = RATE * 3 // 10
"""Where voice goes over from a word without a rest, up to 0.3 s of it are that word ringing out in the room."""

CLEAR: Ticks = RATE * 8 // 100
"""So far from the words around, their own beginnings and endings are not taken for it."""


SHORTEST_FILLER: Ticks = RATE // 5
APART: Ticks = RATE // 10
SURE = 0.8
"""A hesitation under 0.2 s comes after a rest of 0.1 s; one that runs on from a word was misheard, unless the recogniser or who
retyped it is sure. (Of 39 in twenty recordings all real ones come after a rest; three that do not were none.)"""

LEAST: Ticks = RATE * 12 // 100
UNHEARD = 0.1
"""Under 0.12 s one was not said, either, if the recogniser hardly believes itself: it likes to write them at a comma."""


def fillers(words: Sequence[Word], wanted: Collection[str] = FILLERS) -> Iterator[Finding]:
    """Words that only fill a pause. ``wanted`` are written small."""
    for before, word in pairwise([None, *words]):
        if word and plain(word.text) in wanted and not _is_misheard(before, word):
            yield Finding("filler", word.start, word.end, word.text, why="a sound of hesitation")


def _is_misheard(before: Word | None, word: Word) -> bool:
    length = word.end - word.start
    runs_on = before is not None and word.start - before.end < APART
    briefly = length < SHORTEST_FILLER and word.confidence < SURE
    return (runs_on and briefly) or (length < LEAST and word.confidence < UNHEARD)


def doubled(words: Sequence[Word], small: Collection[str] = DOUBLED) -> Iterator[Finding]:
    """Small words said twice: the first of the two."""
    for word, again in pairwise(words):
        text, rest = plain(word.text), again.start - word.end
        if text != plain(again.text) or word.ends_sentence or rest > (SHORT_STUMBLE if text in LAST else STUMBLE):
            continue
        if text in small or (small is DOUBLED and text in STUMBLED and (word.text[-1] in ",–-…" or rest >= SHORTEST_REST)):
            yield Finding("doubled", word.start, again.start, word.text, why="said twice", rest=max(0, rest))


def unspoken(words: Sequence[Word], voice: Sequence[Stretch]) -> Iterator[Finding]:
    """Voice where the transcript has no word: hesitations that the recogniser swallowed. ``voice`` is from-to, in order."""
    runs_on, runs_in = {word.end + CLEAR for word in words}, {word.start - CLEAR for word in words}
    for start, until in voice_between(words, voice):
        within = LONGEST_WITHIN if until in runs_in else LONGEST_RUNNING_ON
        if until - start <= (within if start in runs_on else LONGEST_VOICE):
            yield Finding("voice without words", start, until, "", why="voice, but no word was recognised")


def voice_between(words: Sequence[Word], voice: Sequence[Stretch]) -> Iterator[Stretch]:
    """Voice as far as it lies between words, clear of them; what is shorter than a hesitation is left out."""
    edges = [0, *(edge for word in words for edge in (word.start - CLEAR, word.end + CLEAR)), 2**62]
    gaps = [(a, b) for a, b in zip(edges[::2], edges[1::2], strict=False) if b - a >= SHORTEST_VOICE]
    index = 0
    for begin, end in gaps:
        while index and voice[index - 1][1] > begin:
            index -= 1
        while index < len(voice) and voice[index][1] <= begin:
            index += 1
        for start, until in voice[index:]:
            if start >= end:
                break
            least = RINGING if start < begin else SHORTEST_VOICE
            start, until = max(start, begin), min(until, end)
            if until - start >= least:
                yield start, until
