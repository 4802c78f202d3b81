"""When each word was said, by forced alignment of the text with the sound.

The recogniser's own word times are off by a tenth of a second and more. Here each part of a recording is aligned as one
window with the acoustic model of PocketSphinx. A window that does not fit is parted at a silence and tried again.
"""

from __future__ import annotations

import itertools
from collections.abc import Callable, Sequence
from dataclasses import dataclass, replace
from functools import lru_cache
from threading import RLock
from typing import TYPE_CHECKING

import numpy as np

from jaskel.core.tidy.fillers import FILLERS
from jaskel.core.tidy.finding import plain
from jaskel.core.timebase import Ticks, from_seconds
from jaskel.core.transcript import Rough, Word, tidy_times
from jaskel.speech.pronounce import pronunciation
from jaskel.speech.recognise import RATE_16K, HeardWord

if TYPE_CHECKING:
    from pocketsphinx import Decoder

FRAME = 0.01
FRAME_CENTRE = 0.008
"""A border between two frames lies so much later than their count says: features are taken over 25.6 ms around it."""

SEARCHES = (
    {"ds": 2},
    {"ds": 2, "beam": 1e-70, "wbeam": 1e-50, "pbeam": 1e-70},
    {"beam": 1e-100, "wbeam": 1e-80, "pbeam": 1e-100},
)
"""Alignment is tried with these settings of the decoder, one after the other: quick ones first, then wide beams."""

SHORTEST_WINDOW = 0.25

HESITATIONS = {"hesitation-a": "AH", "hesitation-b": "AH M", "hesitation-c": "ER", "hesitation-d": "HH M"}
"""What may be said at a rest without being written, in phones."""

HESITATING = 1e-3
"""How likely that is taken to be."""

NEIGHBOURS = 2
"""Where a word lies across a rest, this is looked into with so many words on either side,"""

EDGE = 0.1
"""and so much of the sound around them, in seconds."""

STRANDED, STRANDED_LETTERS = 0.4, 3
"""A sentence seldom begins right after the last one only to stop after its first "the" or "a" for so many seconds: such a word
was laid on the end of the last sentence, and is said after the rest."""


@dataclass(frozen=True)
class TimedWord:
    """A word with its times in seconds of the sound.

    ``fitted`` is false where they are only estimated. A word is ``lost`` that makes no sound where it was laid.
    """

    text: str
    start: float
    end: float
    probability: float
    fitted: bool = True
    lost: bool = False


def in_recording(words: Sequence[TimedWord], start: Ticks, end: Ticks) -> tuple[Word, ...]:
    """Words of the stretch of a recording between two ticks, in order and apart from one another."""
    rough = [Rough(w.text, from_seconds(w.start), from_seconds(w.end), w.probability, w.lost) for w in words]
    return tuple(replace(w, start=w.start + start, end=w.end + start) for w in tidy_times(rough, end - start))


class PocketSphinxAligner:
    """Aligns English text. Threads take turns: alignment keeps the interpreter to itself anyway."""

    def __init__(self) -> None:
        from pocketsphinx import Config, Decoder

        self._decoders = [Decoder(Config(lm=None, loglevel="FATAL", samprate=RATE_16K, **search)) for search in SEARCHES]
        self._known: dict[str, str] = {}
        self._turn = RLock()
        for name, phones in HESITATIONS.items():
            self._decoders[1].add_word(name, phones, True)

    def align(self, sound: np.ndarray, words: Sequence[HeardWord]) -> list[tuple[float, float]] | None:
        """From-to in seconds of each word in ``sound`` (float32 mono at 16 kHz), or None where they do not fit it."""
        with self._turn:
            names = [self._name(word.text) for word in words]
            for decoder in self._decoders:
                try:
                    decoder.set_align_text(" ".join(names))
                except RuntimeError:
                    continue
                if found := self._places(decoder, sound, len(names)):
                    return found
        return None

    def align_hesitating(self, sound: np.ndarray, texts: Sequence[str], at: int) -> list[tuple[float, float]] | None:
        """The same for a few words, where something unwritten may be said right before and after the one at ``at``."""
        decoder, count = self._decoders[1], len(texts)
        with self._turn:
            steps: list[tuple[int, int, float, str] | tuple[int, int, float]] = [
                (place, place + 1, 1.0, self._name(text)) for place, text in enumerate(texts)
            ]
            for border, aside in ((at, count + 1), (at + 1, count + 2)):
                steps += [(border, aside, HESITATING, name) for name in HESITATIONS]
                steps.append((aside, border, 1.0))
            decoder.add_fsg("hesitating", decoder.create_fsg("hesitating", 0, count, steps))
            decoder.activate_search("hesitating")
            return self._places(decoder, sound, count)

    def _places(self, decoder: Decoder, sound: np.ndarray, count: int) -> list[tuple[float, float]] | None:
        """From-to of the words in ``sound`` by the search that is set, or None where it does not come to its end."""
        pcm = np.clip(sound * 32767, -32768, 32767).astype("<i2").tobytes()
        try:
            decoder.start_utt()
            decoder.process_raw(pcm, full_utt=True)
            decoder.end_utt()
            segments = decoder.seg()
        except RuntimeError:
            return None
        found = [
            (s.start_frame * FRAME + FRAME_CENTRE, (s.end_frame + 1) * FRAME + FRAME_CENTRE)
            for s in segments or ()
            if not s.word.startswith(("<", "[", "(NULL)")) and s.word not in HESITATIONS
        ]
        return found if len(found) == count else None

    def lookup(self, word: str) -> str | None:
        """The phones of a word in small letters, or None where the dictionary does not have it."""
        phones: str | None = self._decoders[0].lookup_word(word)
        return phones

    def _name(self, text: str) -> str:
        """The name under which the word stands in the decoders' dictionary."""
        phones = pronunciation(text, self._decoders[0].lookup_word)
        plain = "".join(c for c in text.lower() if c.isalnum() or c == "'")
        if self._decoders[0].lookup_word(plain) == phones:
            return plain
        if phones not in self._known:
            self._known[phones] = f"said{len(self._known)}"
            for decoder in self._decoders:
                decoder.add_word(self._known[phones], phones, True)
        return self._known[phones]


@lru_cache(maxsize=1)
def aligner() -> PocketSphinxAligner:
    """The aligner, loaded once in a process."""
    return PocketSphinxAligner()


def align_words(sound: np.ndarray, words: Sequence[HeardWord], voice: Sequence[tuple[float, float]]) -> list[TimedWord]:
    """Times for words heard in this order in ``sound`` (float32 mono at 16 kHz); their own times need only be rough.

    ``voice`` are the stretches of ``sound`` with voice in them, in seconds. Words that do not fit the sound are spread over
    the voice in their window by their length, and marked as not fitted.
    """
    timed = _window(sound, words, voice, 0.0, len(sound) / RATE_16K)
    for index in range(1, len(timed) - 1):
        if _is_stranded(*timed[index - 1 : index + 2]):
            _carry_over(sound, timed, index)
    return [_off_rests(sound, timed, index, voice) for index in range(len(timed))]


Align = Callable[[np.ndarray, Sequence[HeardWord], Sequence[tuple[float, float]]], list[TimedWord]]
"""Gives words their times in a sound, as :func:`align_words` does."""


def aligned(given: tuple[np.ndarray, Sequence[HeardWord], Sequence[tuple[float, float]]]) -> list[TimedWord]:
    """The same for sound, words and voice as one value, for other processes."""
    return align_words(*given)


def _is_stranded(before: TimedWord, word: TimedWord, after: TimedWord) -> bool:
    said = plain(word.text)
    small = len(said) <= STRANDED_LETTERS and said not in FILLERS
    between = before.text[-1:] in ".?!" and word.text[-1:].isalnum()
    return small and between and word.start - before.end < EDGE and after.start - word.end >= STRANDED


def _carry_over(sound: np.ndarray, words: list[TimedWord], index: int) -> None:
    """Align a stranded word anew, with those after it, where that succeeds."""
    word, following = words[index], words[index + 1 : index + 1 + NEIGHBOURS]
    begin, end = max(word.end, following[0].start - STRANDED), following[-1].end + EDGE
    part = sound[round(begin * RATE_16K) : round(end * RATE_16K)]
    places = aligner().align(part, [HeardWord(each.text, 0.0, 0.0, 1.0) for each in (word, *following)])
    if places:
        (first, last), (after, _) = places[:2]
        words[index - 1] = replace(words[index - 1], end=word.end)
        words[index] = replace(word, start=first + begin, end=last + begin)
        words[index + 1] = replace(following[0], start=after + begin)


def _off_rests(sound: np.ndarray, words: Sequence[TimedWord], index: int, voice: Sequence[tuple[float, float]]) -> TimedWord:
    """A word; one that lies across a rest keeps to one side of it.

    Beside the rest something may be said that is not written, an "uh" most of all. Where that can be told, the word keeps to
    the side where it is then found; else to the larger one. (To take over the edges of its neighbours from this second
    alignment was tried: they get worse.)
    """
    word = words[index]
    sides = [(max(a, word.start), min(b, word.end)) for a, b in voice if a < word.end and b > word.start]
    if len(sides) < 2:
        return word
    first, last = max(0, index - NEIGHBOURS), min(len(words), index + NEIGHBOURS + 1)
    begin, end = max(0.0, words[first].start - EDGE), words[last - 1].end + EDGE
    part = sound[round(begin * RATE_16K) : round(end * RATE_16K)]
    places = aligner().align_hesitating(part, [each.text for each in words[first:last]], index - first)
    found = (places[index - first][0] + begin, places[index - first][1] + begin) if places else (word.start, word.end)
    start, end = max(sides, key=lambda side: min(side[1], found[1]) - max(side[0], found[0]))
    return replace(word, start=start, end=end)


def _window(
    sound: np.ndarray, words: Sequence[HeardWord], voice: Sequence[tuple[float, float]], begin: float, end: float
) -> list[TimedWord]:
    """The words said between two seconds of ``sound``."""
    if not words:
        return []
    part = sound[round(begin * RATE_16K) : round(end * RATE_16K)]
    places = aligner().align(part, words) if end - begin > SHORTEST_WINDOW else None
    if places is not None:
        return [TimedWord(w.text, a + begin, b + begin, w.probability) for w, (a, b) in zip(words, places, strict=True)]
    if parting := _parting(words, voice, begin, end):
        count, at = parting
        return _window(sound, words[:count], voice, begin, at) + _window(sound, words[count:], voice, at, end)
    spreading = spread([len(word.text) for word in words], begin, end, voice)
    return [TimedWord(w.text, a, b, w.probability, False) for w, (a, b) in zip(words, spreading, strict=True)]


def _parting(
    words: Sequence[HeardWord], voice: Sequence[tuple[float, float]], begin: float, end: float
) -> tuple[int, float] | None:
    """Before which word, and at which silence, to part a window: where a long silence lies nearest to a rough word border."""
    inside = [stretch for stretch in voice if stretch[1] > begin and stretch[0] < end]
    best: tuple[float, int, float] | None = None
    for (_, silent_from), (silent_to, _) in itertools.pairwise(inside):
        middle = (silent_from + silent_to) / 2
        for count in range(1, len(words)):
            border = (words[count - 1].end + words[count].start) / 2
            worth = (silent_to - silent_from) - abs(border - middle)
            if begin < middle < end and (best is None or worth > best[0]):
                best = worth, count, middle
    return best[1:] if best else None


def spread(lengths: Sequence[int], begin: float, end: float, voice: Sequence[tuple[float, float]]) -> list[tuple[float, float]]:
    """Words of the given lengths laid out over the voice between ``begin`` and ``end``, without regard to their sound."""
    inside = [(max(a, begin), min(b, end)) for a, b in voice if b > begin and a < end] or [(begin, max(end, begin + 0.05))]
    edges = np.concatenate([[0.0], np.cumsum([b - a for a, b in inside])])
    shares = np.concatenate([[0.0], np.cumsum(lengths)]) / max(1, sum(lengths)) * edges[-1]

    def place(heard: float, side: str) -> float:
        index = min(int(np.searchsorted(edges, heard, side=side)) - 1, len(inside) - 1)  # type: ignore[call-overload]
        index = max(0, index)
        return inside[index][0] + heard - edges[index]

    return [(place(a, "right"), place(b, "left")) for a, b in itertools.pairwise(shares)]


def fit(sound: np.ndarray, texts: Sequence[str]) -> list[tuple[float, float]] | None:
    """From-to in seconds of words said in this order in ``sound`` (float32 mono at 16 kHz), or None where they do not fit."""
    if len(sound) < SHORTEST_WINDOW * RATE_16K:
        return None
    places = aligner().align(sound, [HeardWord(text, 0.0, 0.0, 1.0) for text in texts])
    if places is None:
        return None
    length = len(sound) / RATE_16K
    inside = [(max(0.0, a), min(length, b)) for a, b in places]
    return inside if all(a < b for a, b in inside) else None
