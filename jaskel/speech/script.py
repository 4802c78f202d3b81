"""A known text and the sound it belongs to: which of its words were said, and when.

The recording is recognised quickly, which need not be right but tells which stretch of the text is said in which part of the
sound. Then the text's own words are aligned with each part. Words the recogniser heard that are not in the text hold their
place meanwhile, and words of the text that nobody said are told apart by having nothing heard in their place.
"""

from __future__ import annotations

import math
import re
from collections.abc import Callable, Container, Iterator, Sequence
from dataclasses import dataclass, replace
from itertools import accumulate, groupby, pairwise, tee

import numpy as np
from rapidfuzz.distance import Levenshtein, Opcodes

from jaskel.core.problem import Problem
from jaskel.core.session import without_overlap
from jaskel.core.timebase import RATE, Ticks
from jaskel.core.transcript import Transcript, Word
from jaskel.speech.activity import Sound16k, Window, windows
from jaskel.speech.align import TimedWord, aligned, in_recording
from jaskel.speech.attention import by_known_words
from jaskel.speech.edges import drawn_in
from jaskel.speech.house import sounds_alike
from jaskel.speech.pipeline import elsewhere
from jaskel.speech.recognise import HeardWord, Recogniser
from jaskel.speech.transcribe import ALIGNERS, each_heard

LONG: Ticks = 120 * RATE
"""From two minutes on it pays to start other processes that align."""

UNRELATED = 0.25
"""With fewer of its words heard than this share, a text does not belong to the sound. Chance alone gives about a tenth."""

SKIPPED = 3
"""So many words of a text in a row, with nothing heard in their place, were not said; fewer the recogniser may have missed."""


SHORT_WORD = 0.15
"""Seconds. Where there is voice for that many words, but none was heard, the quick recognition missed them."""

UNLIKE = 0.4
"""So little alike do words sound that have nothing to do with one another (99 of 100 of three drawn at random from different
sentences); what was said and only misheard is more alike (39 of 42 times in twenty recordings)."""


@dataclass(frozen=True)
class Script:
    """A text fitted to its sound.

    Attributes
    ----------
    words
        What was said of it, in ticks, with the index of each in the text.
    unspoken
        From-to indices of the text that nobody said.
    besides
        What was heard that is not in the text, in ticks.
    share
        How much of the text was heard word for word, 0 to 1.
    """

    words: tuple[tuple[int, Word], ...]
    unspoken: tuple[tuple[int, int], ...]
    besides: tuple[Word, ...]
    share: float


@dataclass(frozen=True)
class _Part:
    start: Ticks
    end: Ticks
    voice: list[tuple[float, float]]
    heard: tuple[HeardWord, ...]


def fit_text(
    sound: Sound16k,
    length: Ticks,
    text: Sequence[str],
    recogniser: Recogniser,
    language: str = "en",
    progress: Callable[[Ticks], None] = lambda _: None,
    known: Sequence[Word] | None = None,
) -> Script:
    """Fit ``text`` to a recording of ``length``; ``known`` is what was recognised in it before, if it was.

    Raises
    ------
    Problem
        ``text-unrelated`` when the text has nothing to do with what is said.
    """
    parts, written = [], {plain(word) for word in text}
    for part in _parts(sound, length, recogniser, language, known):
        parts.append(replace(part, heard=tuple(letter for word in part.heard for letter in _spelled_out(word, written))))
        progress(part.end * 3 // 4)
    heard = [(number, word) for number, part in enumerate(parts) for word in part.heard]
    matches = Levenshtein.opcodes([plain(t) for t in text], [plain(word.text) for _, word in heard])
    share = sum(m.src_end - m.src_start for m in matches if m.tag == "equal") / max(1, len(text))
    if share < UNRELATED:
        raise Problem(
            "text-unrelated",
            f"This text does not belong to the recording: only {share:.0%} of its words are heard there. Bring the right one, "
            "or let the recording be transcribed.",
        )
    placed, unspoken, besides = _placed(matches, text, heard, parts)
    words: list[tuple[int, Word]] = []
    extra: list[Word] = []
    inside = [_in_part(number, part, placed, besides, text, heard) for number, part in enumerate(parts)]
    sounds, again = tee(sound(part.start, part.end) for part in parts)
    work = ((each, [said for _, said in here], part.voice) for each, here, part in zip(sounds, inside, parts, strict=True))

    def by_ear(given: tuple[np.ndarray, Sequence[HeardWord], Sequence[tuple[float, float]]]) -> list[TimedWord]:
        its_sound, said, voice = given
        return by_known_words(recogniser, language, its_sound, [word.text for word in said], voice)

    # The recogniser is here, and only here; the dictionary of pronunciations is in every process.
    known_sounds = language in ALIGNERS
    with elsewhere(known_sounds and length >= LONG) as apply:
        for part, here, its_sound, timed in zip(
            parts, inside, again, apply(aligned if known_sounds else by_ear, work), strict=True
        ):
            # Words for which a part has no room are left out at its end.
            said_here = in_recording(drawn_in(its_sound, timed), part.start, part.end)
            for (index, _), word in zip(here, said_here, strict=False):
                if index is None:
                    extra.append(word)
                else:
                    words.append((index, word))
            progress(length * 3 // 4 + part.end // 4)
    return Script(tuple(words), tuple(unspoken), tuple(extra), share)


def transcript_of(script: Script, duration: Ticks) -> Transcript:
    """A fitted text as a transcript, with what was said besides in it."""
    words = sorted([*(word for _, word in script.words), *script.besides], key=lambda word: word.start)
    return Transcript(duration, without_overlap(words, duration))


def guided(words: Sequence[Word], text: Sequence[str]) -> tuple[Word, ...]:
    """Recognised words put right by a text of roughly the same: what was said stays, as the text spells it.

    Words of both that are the same take the text's capitals and punctuation. Where they differ, the text's words are taken if
    they sound like what was recognised; the rest is taken to be said otherwise than written, and left as it was heard. New
    words are loose.
    """
    out: list[Word] = []
    for same, (first, last), (begin, end) in _blocks([plain(word.text) for word in words], [plain(t) for t in text]):
        here, said = words[first:last], text[begin:end]
        if same:
            out += [replace(word, text=written) for word, written in zip(here, said, strict=True)]
        elif here and said and sounds_alike(" ".join(word.text for word in here), " ".join(said)) >= GUIDED:
            out += _over(here, said)
        else:
            out += here
    return tuple(out)


def _blocks(one: Sequence[str], other: Sequence[str]) -> list[tuple[bool, tuple[int, int], tuple[int, int]]]:
    """Stretches that are the same in both, and what stands between them, from-to in each."""
    found: list[tuple[bool, tuple[int, int], tuple[int, int]]] = []
    for match in Levenshtein.opcodes(one, other):
        same = match.tag == "equal"
        if found and not same and not found[-1][0]:
            _, (first, _), (begin, _) = found.pop()
        else:
            first, begin = match.src_start, match.dest_start
        found.append((same, (first, match.src_end), (begin, match.dest_end)))
    return found


GUIDED = 0.6
"""How alike recognised and written words must be for the written ones to be what was said."""


def _over(here: Sequence[Word], said: Sequence[str]) -> list[Word]:
    """Written words over the time of recognised ones: one for one, or spread by their length."""
    if len(here) == len(said):
        return [replace(word, text=text, confidence=1.0) for word, text in zip(here, said, strict=True)]
    begin, end = here[0].start, here[-1].end
    edges = [begin + (end - begin) * share // sum(map(len, said)) for share in accumulate(map(len, said), initial=0)]
    voice = here[0].voice
    return [Word(t, a, max(b, a + 1), 1.0, voice, True) for t, (a, b) in zip(said, pairwise(edges), strict=True)]


def plain(text: str) -> str:
    """A word as it is compared: small letters and digits."""
    return re.sub(r"[\W_]+", "", text.casefold())


def _parts(
    sound: Sound16k, length: Ticks, recogniser: Recogniser, language: str, known: Sequence[Word] | None
) -> Iterator[_Part]:
    def heard(group: Sequence[Window]) -> list[list[HeardWord]]:
        return recogniser.heard([window.sound for window in group], language)

    def known_in(window: Window) -> list[HeardWord]:
        begun = window.start
        inside = [word for word in known or () if begun <= (word.start + word.end) // 2 < window.end]
        return [HeardWord(w.text, (w.start - begun) / RATE, (w.end - begun) / RATE, w.confidence) for w in inside]

    parts = windows(sound, length)
    for window, words in each_heard(heard, parts) if known is None else ((part, known_in(part)) for part in parts):
        yield _Part(window.start, window.end, window.voice, tuple(words))


def _placed(
    matches: Opcodes, text: Sequence[str], heard: Sequence[tuple[int, HeardWord]], parts: Sequence[_Part]
) -> tuple[dict[int, tuple[int, float]], list[tuple[int, int]], list[tuple[int, int]]]:
    """Where each word of the text belongs (part, order among the heard), what was not said, and what was heard besides."""
    placed: dict[int, tuple[int, float]] = {}
    unspoken: list[tuple[int, int]] = []
    besides: list[tuple[int, int]] = []
    part_of = [number for number, _ in heard]
    for differing, group in groupby(matches, lambda match: match.tag != "equal"):
        here = list(group)
        first, last, begin, end = here[0].src_start, here[-1].src_end, here[0].dest_start, here[-1].dest_end
        if differing and _is_unlike(text[first:last], [word.text for _, word in heard[begin:end]]):
            unspoken.append((first, last))
            besides += [(part_of[index], index) for index in range(begin, end)]
            continue
        for match in here:
            count = match.src_end - match.src_start
            for offset in range(count if match.dest_end > match.dest_start else 0):
                order = match.dest_start + offset * (match.dest_end - match.dest_start) / count
                placed[match.src_start + offset] = part_of[min(int(order), len(part_of) - 1)], order
            if match.tag == "insert":
                besides += [(part_of[index], index) for index in range(match.dest_start, match.dest_end)]
            if match.tag == "delete":
                room, part = _unheard(heard, parts, match.dest_start)
                if not heard or (count >= SKIPPED and room < count * SHORT_WORD):
                    unspoken.append((match.src_start, match.src_end))
                    continue
                for index in range(match.src_start, match.src_end):
                    placed[index] = part, match.dest_start - 0.9 + 0.8 * (index - match.src_start) / count
    return placed, unspoken, besides


def _unheard(heard: Sequence[tuple[int, HeardWord]], parts: Sequence[_Part], at: int) -> tuple[float, int]:
    """Seconds of voice before the heard word ``at`` and after the one before it, and the part in which most of it lies."""
    first, begin = (heard[at - 1][0], heard[at - 1][1].end) if at else (0, 0.0)
    last, end = (heard[at][0], heard[at][1].start) if at < len(heard) else (len(parts) - 1, math.inf)
    rooms = []
    for number in range(first, last + 1):
        since, until = (begin if number == first else 0.0), (end if number == last else math.inf)
        rooms.append((sum(max(0.0, min(b, until) - max(a, since)) for a, b in parts[number].voice), number))
    return sum(room for room, _ in rooms), max(rooms)[1]


SPELLED = re.compile(r"(?:[^\W\d_][-.]){2,}[^\W\d_]?")
"""Letters that are said one by one, as recognisers write them."""


def _spelled_out(word: HeardWord, written: Container[str]) -> Iterator[HeardWord]:
    """A word that was heard as letters as one word for each of them, unless it is ``written`` as one in the text."""
    if not SPELLED.match(word.text) or plain(word.text) in written:
        yield word
        return
    letters = plain(word.text)
    step = (word.end - word.start) / len(letters)
    for number, letter in enumerate(letters):
        yield replace(word, text=letter, start=word.start + number * step, end=word.start + (number + 1) * step)


def _is_unlike(text: Sequence[str], heard: Sequence[str]) -> bool:
    """Whether something else was said in the place of words of the text; names of letters are unlike the letters themselves."""
    if len(text) == len(heard) and all(len(plain(word)) == 1 for word in heard):
        return False
    return len(text) >= SKIPPED and bool(heard) and sounds_alike(" ".join(text), " ".join(heard)) < UNLIKE


def _in_part(
    number: int,
    part: _Part,
    placed: dict[int, tuple[int, float]],
    besides: Sequence[tuple[int, int]],
    text: Sequence[str],
    heard: Sequence[tuple[int, HeardWord]],
) -> list[tuple[int | None, HeardWord]]:
    """What is to be aligned with a part, in order: words of the text with their index, and those heard besides."""
    first = next((index for index, (of, _) in enumerate(heard) if of == number), 0)

    def rough(order: float) -> HeardWord:
        return heard[max(first, min(int(order), first + len(part.heard) - 1))][1]

    here: list[tuple[float, int, int | None, HeardWord]] = []
    for index, (of, order) in placed.items():
        if of == number:
            near = rough(order)
            here.append((order, index, index, HeardWord(text[index], near.start, near.end, near.probability)))
    here += [(order, -1, None, heard[order][1]) for of, order in besides if of == number]
    # The text keeps its own order, whatever the fractions say.
    here.sort(key=lambda item: (item[0], item[1]))
    return [(index, word) for _, _, index, word in here]
