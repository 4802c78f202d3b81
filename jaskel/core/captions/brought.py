"""Captions that were made elsewhere, held against those of an edition: what differs, and what it takes to have them here."""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from dataclasses import dataclass
from typing import Literal

from rapidfuzz.distance import Indel

from jaskel.core.captions.cues import Cue
from jaskel.core.captions.lines import Before
from jaskel.core.captions.words import ProgrammeWord, is_filler
from jaskel.core.tidy.finding import plain
from jaskel.core.timebase import RATE, Ticks

Kind = Literal["wording", "break", "time", "not said", "missing"]

OFF: Ticks = RATE // 2
"""Times that differ by less are not worth telling: everybody draws the edges of words a little otherwise."""

STRANGE = 0.3
"""Where fewer words than this share are the same, the file belongs to something else."""


@dataclass(frozen=True, slots=True)
class BroughtCue:
    """A caption of a file: from-to of a programme, and its lines."""

    start: Ticks
    end: Ticks
    lines: tuple[str, ...]


@dataclass(frozen=True, slots=True)
class Difference:
    """Something that differs, at a place of the programme: what the file has, and what is here."""

    kind: Kind
    at: Ticks
    theirs: str
    ours: str


@dataclass(frozen=True)
class Comparison:
    """How captions of a file stand to those of an edition.

    Attributes
    ----------
    alike
        The share of words that are in both.
    differences
        What differs, in order of time.
    beyond
        How many of its captions end after the programme.
    """

    alike: float
    differences: tuple[Difference, ...]
    beyond: int


def compared(theirs: Sequence[BroughtCue], ours: Sequence[Cue], words: Sequence[ProgrammeWord], length: Ticks) -> Comparison:
    """Captions of a file against those that an edition has, for a programme of ``words`` and ``length``."""
    matched = _Matched(theirs, words)
    begins = {item.start: cue for cue in ours for item in cue.words[:1]}
    found: list[Difference] = []
    for number, cue in enumerate(theirs):
        inside = matched.said_in(number)
        text = " ".join(cue.lines)
        if not inside:
            found.append(Difference("not said", cue.start, text, ""))
            continue
        said = " ".join(item.word.text for item in inside)
        if [plain(word) for word in said.split()] != [plain(word) for word in text.split() if plain(word)]:
            found.append(Difference("wording", inside[0].start, text, said))
        if inside[0].start not in begins:
            found.append(Difference("break", inside[0].start, text, said))
        if abs(cue.start - inside[0].start) > OFF:
            found.append(Difference("time", inside[0].start, _clock(cue.start), _clock(inside[0].start)))
    for item in matched.without():
        found.append(Difference("missing", item.start, "", item.word.text))
    found.sort(key=lambda each: each.at)
    return Comparison(matched.alike, tuple(found), sum(cue.end > length + OFF for cue in theirs))


@dataclass(frozen=True, slots=True)
class Wanted:
    """What it takes to have a caption of a file here: words of the programme, how each is broken before, and what is read.

    ``text`` is empty where it reads as it is said.
    """

    words: tuple[ProgrammeWord, ...]
    breaks: tuple[Before, ...]
    text: str


def taken_over(theirs: Sequence[BroughtCue], words: Sequence[ProgrammeWord]) -> Iterator[Wanted]:
    """What it takes to have the captions of a file here; those of which nothing is said are left out."""
    matched = _Matched(theirs, words)
    for number, cue in enumerate(theirs):
        inside = matched.said_in(number)
        if not inside:
            continue
        text, said = " ".join(cue.lines), " ".join(item.word.text for item in inside)
        firsts = matched.first_of_lines(number)
        breaks: tuple[Before, ...] = tuple(
            "cue" if at == 0 else "line" if item.start in firsts else "together" for at, item in enumerate(inside)
        )
        yield Wanted(tuple(inside), breaks, "" if text == said else text)


class _Matched:
    """Which words of a programme the words of captions are, by the longest common sequence of both."""

    def __init__(self, theirs: Sequence[BroughtCue], words: Sequence[ProgrammeWord]) -> None:
        self._words = [item for item in words if not is_filler(item.word.text) and plain(item.word.text)]
        spoken = [
            (number, line_number, plain(word))
            for number, cue in enumerate(theirs)
            for line_number, line in enumerate(cue.lines)
            for word in line.split()
            if plain(word)
        ]
        same = [plain(item.word.text) for item in self._words]
        self._found: dict[int, list[tuple[int, int]]] = {}
        self._begin_otherwise: set[int] = set()
        begins = {number: index for index, (number, *_) in reversed([*enumerate(spoken)])}
        count = 0
        for step in Indel.opcodes([word for *_, word in spoken], same):
            if step.tag == "equal":
                for offset in range(step.src_end - step.src_start):
                    number, line, _ = spoken[step.src_start + offset]
                    if number not in self._found and step.src_start + offset > begins[number]:
                        self._begin_otherwise.add(number)
                    self._found.setdefault(number, []).append((step.dest_start + offset, line))
                    count += 1
        self.alike = 2 * count / max(1, len(spoken) + len(same))
        self._close(len(theirs))

    def _close(self, count: int) -> None:
        """Words between those of two captions belong to the later one where that begins otherwise than it is said, else to the
        earlier one: it may have been shortened."""
        self._spans: dict[int, tuple[int, int]] = {}
        last = 0
        known = [number for number in range(count) if number in self._found]
        for index, number in enumerate(known):
            first = max(last, self._found[number][0][0])
            if number in self._begin_otherwise:
                first = max(last, first - REACH)
            following = self._found[known[index + 1]][0][0] if index + 1 < len(known) else self._found[number][-1][0] + 1
            until = self._found[number][-1][0] + 1
            if index + 1 < len(known) and known[index + 1] not in self._begin_otherwise:
                until = max(until, min(following, until + REACH))
            self._spans[number] = (first, until)
            last = until

    def said_in(self, number: int) -> list[ProgrammeWord]:
        """The words of the programme that a caption stands for."""
        first, until = self._spans.get(number, (0, 0))
        return self._words[first:until]

    def first_of_lines(self, number: int) -> set[Ticks]:
        """When the first word of each line but the first is said."""
        seen: dict[int, Ticks] = {}
        for word, line in self._found.get(number, ()):
            seen.setdefault(line, self._words[word].start)
        return {at for line, at in seen.items() if line > 0}

    def without(self) -> Iterator[ProgrammeWord]:
        """Words of the programme that no caption stands for."""
        taken = {index for first, until in self._spans.values() for index in range(first, until)}
        yield from (item for index, item in enumerate(self._words) if index not in taken)


REACH = 12
"""No more words than that are taken for what a caption left out at its end."""


def _clock(at: Ticks) -> str:
    minutes, rest = divmod(at / RATE, 60)
    return f"{int(minutes)}:{rest:04.1f}"
