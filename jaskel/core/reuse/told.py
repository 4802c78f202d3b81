"""Which sentences of a written text tell it in so many seconds, as they are spoken.

A sentence is taken to last as long as its letters take at an even pace; with that it is a sentence like any that was said, and
chosen as highlights are.
"""

from __future__ import annotations

from collections.abc import Collection, Iterator, Sequence
from dataclasses import dataclass, replace
from itertools import groupby
from operator import itemgetter

from jaskel.core.problem import Problem
from jaskel.core.reuse.chapters import borders
from jaskel.core.reuse.highlights import Wish, highlights
from jaskel.core.reuse.phrases import Means
from jaskel.core.reuse.sentences import Sentence, sentences_of
from jaskel.core.timebase import RATE, Ticks
from jaskel.core.transcript import Word

PACE = 15
"""Letters and digits that are read in a second: somewhat slower than one talks (three readings by the packaged voice took 14.8
to 17.1)."""

REST, OF_PARAGRAPH = RATE * 45 // 100, RATE * 8 // 10
"""Between sentences, and between paragraphs."""

LEAST_REST, MOST_REST = RATE // 4, RATE * 12 // 10
"""Rests between sentences are eased so far that a film becomes as long as was asked for."""

LONGEST = 20_000
"""Words of a text that is made into a film: some two hours of reading."""


@dataclass(frozen=True)
class Paragraph:
    """A paragraph of a text, or a heading, which is not read but begins a part."""

    text: str
    heading: bool = False


@dataclass(frozen=True)
class WrittenSentence:
    """A sentence, how long it takes to read with the rest after it, and the number of its paragraph."""

    text: str
    length: Ticks
    paragraph: int


def reading_length(text: str) -> Ticks:
    """How long it takes to read a text aloud.

    >>> reading_length("A dry hull leaks.") / 48_000
    0.8666666666666667
    """
    return max(RATE // 3, sum(letter.isalnum() for letter in text) * RATE // PACE)


def sentences_in(paragraphs: Sequence[Paragraph]) -> list[WrittenSentence]:
    """The sentences of a text, without its headings.

    Raises
    ------
    Problem
        ``nothing-written`` or ``too-long``.
    """
    said, _, homes = _read(paragraphs)
    return [WrittenSentence(each.text, each.end - each.start + REST, home) for each, home in zip(said, homes, strict=True)]


def chosen(
    paragraphs: Sequence[Paragraph], length: Ticks, means: Means, pinned: Collection[int] = (), refused: Collection[int] = ()
) -> list[int]:
    """The numbers of the sentences that tell a text in a length best; those ``pinned`` are among them, none ``refused``."""
    said, parts, _ = _read(paragraphs)
    if sum(each.end - each.start + REST for each in said) <= length:
        return [at for at in range(len(said)) if at not in refused]
    meanings = means([each.text for each in said])
    begins = parts if len(parts) > 1 else borders(said, meanings)
    # A rest follows each, so that as much time is left for what is read.
    held = [replace(each, end=each.end + REST) for each in said]
    found = highlights(held, meanings, begins, Wish(length, pinned, refused))
    return [at for each in found for at in range(each.first, each.last)]


def rest_for(lengths: Sequence[Ticks], wanted: Ticks) -> Ticks:
    """The rest between sentences of some lengths with which all of it lasts as long as is wanted, as far as rests can do that.

    >>> rest_for([48_000, 48_000, 48_000], 4 * 48_000) / 48_000, rest_for([48_000] * 3, 60 * 48_000) / 48_000
    (0.5, 1.2)
    """
    if len(lengths) < 2:
        return REST
    return max(LEAST_REST, min(MOST_REST, (wanted - sum(lengths)) // (len(lengths) - 1)))


def _read(paragraphs: Sequence[Paragraph]) -> tuple[list[Sentence], list[int], list[int]]:
    """The sentences at the times at which they would be read, with which of them parts begin, and their paragraphs."""
    words = [*_words(paragraphs)]
    if not words:
        raise Problem("nothing-written", "There are no sentences in this text. Paste or drop one that has some.")
    if len(words) > LONGEST:
        raise Problem("too-long", f"This text has {len(words):,} words; {LONGEST:,} is the most. Take a part of it.")
    said: list[Sentence] = []
    homes: list[int] = []
    first_in: dict[int, int] = {}
    for number, group in groupby(words, key=itemgetter(0)):
        found = sentences_of([word for _, word in group])
        first_in[number] = len(said)
        homes += [number] * len(found)
        said += found
    headed = {number + 1 for number, paragraph in enumerate(paragraphs) if paragraph.heading}
    return said, sorted({0, *(at for number, at in first_in.items() if number in headed)}), homes


def _words(paragraphs: Sequence[Paragraph]) -> Iterator[tuple[int, Word]]:
    """The words of all paragraphs, each with the number of its paragraph, at the times at which they would be read."""
    at = 0
    for number, paragraph in enumerate(paragraphs):
        if paragraph.heading:
            continue
        for text in paragraph.text.split():
            word = Word(text, at, at + max(1, sum(letter.isalnum() for letter in text)) * RATE // PACE)
            yield number, word
            at = word.end + (REST if word.ends_sentence else 0)
        at += OF_PARAGRAPH
