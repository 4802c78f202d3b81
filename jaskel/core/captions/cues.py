"""Words of the programme into caption cues: parted where somebody else speaks or nobody does, broken, and timed."""

from __future__ import annotations

from collections.abc import Iterator, Mapping, Sequence
from dataclasses import dataclass, replace
from functools import lru_cache

from jaskel.core.captions.lines import Before, Spoken, broken
from jaskel.core.captions.look import USUAL_LOOK, Look
from jaskel.core.captions.rules import USUAL, Rules
from jaskel.core.captions.words import ProgrammeWord, as_captioned
from jaskel.core.timebase import RATE, Ticks
from jaskel.core.written import written

PAUSE: Ticks = RATE * 7 // 10
"""A pause this long ends a cue."""

MOST_WORDS = 60
"""A sentence goes on in another stretch after so many words: nobody reads that far without a breath."""

LATER = "\u0e00"
"""No script below this letter (Thai) is written without spaces."""

NOBODY: Mapping[str, str] = {}


@dataclass(frozen=True, slots=True)
class Part:
    """A word as it stands in a line, when it is said, and whether a space is before it."""

    text: str
    start: Ticks
    end: Ticks
    spaced: bool


@dataclass(frozen=True, slots=True)
class Cue:
    """Lines of text, shown from ``start`` to ``end`` of the programme.

    Attributes
    ----------
    lines
        What is read.
    words
        Those of the transcript that it is made of, in order.
    voice, tint
        Who says them, and the number of the colour they have for it where colours name voices.
    look
        How it is drawn.
    firsts
        The number of the first word of each line.
    second
        The lines of its second language, where it has one.
    begin, said
        The words that each line is put together from, in ticks after ``begin``, a place of the programme.
    """

    start: Ticks
    end: Ticks
    lines: tuple[str, ...]
    words: tuple[ProgrammeWord, ...] = ()
    voice: str | None = None
    tint: int | None = None
    look: Look = USUAL_LOOK
    firsts: tuple[int, ...] = ()
    begin: Ticks = 0
    said: tuple[tuple[Part, ...], ...] = ()
    second: tuple[str, ...] = ()

    @property
    def parts(self) -> tuple[tuple[Part, ...], ...]:
        """The words that each line is put together from, with their places in the programme."""
        begin = self.begin
        return tuple(tuple(Part(p.text, p.start + begin, p.end + begin, p.spaced) for p in line) for line in self.said)

    @property
    def is_reworded(self) -> bool:
        """Whether some of it is read otherwise than it is said."""
        return any(item.worded for item in self.words)

    @property
    def line_starts(self) -> tuple[Ticks, ...]:
        """When the first word of each line but the first is said."""
        return tuple(self.words[number].start for number in self.firsts[1:])

    @property
    def text(self) -> str:
        return " ".join(self.lines)

    @property
    def rate(self) -> float:
        """Characters a second."""
        return sum(map(len, self.lines)) * RATE / max(1, self.end - self.start)


Said = tuple[str, Ticks, Ticks, Before]
"""A word of a stretch: its text, from-to from where that begins, and what is wanted before it."""


def cues(
    words: Sequence[ProgrammeWord],
    length: Ticks,
    rules: Rules = USUAL,
    names: Mapping[str, str] = NOBODY,
    usual: Look = USUAL_LOOK,
) -> tuple[Cue, ...]:
    """Cues for a programme of ``length``, in order, never overlapping.

    ``names`` are those of voices, by their ids; ``usual`` is the look of words that have none of their own.

    A cue begins with its first word; it stays as long as it takes to read, where what follows leaves room.
    """
    made: list[Cue] = []
    last: str | None = None
    tints = {voice: number for number, voice in enumerate(names)} if rules.named == "colour" and rules.names != "never" else {}
    stretches = list(_stretches(words, rules))
    for number, stretch in enumerate(stretches):
        begin = stretch[0].start
        after = (stretches[number + 1][0].start if number + 1 < len(stretches) else length) - stretch[-1].end
        voice = stretch[0].word.voice
        named = rules.names == "always" or (rules.names == "when it changes" and voice != last)
        name = names.get(voice or "", "") if named else ""
        last = voice
        look = stretch[0].look or usual
        kept = look.rules(rules)
        said = tuple((item.word.text, item.start - begin, item.end - begin, item.before) for item in stretch)
        for each in _captioned(said, kept, _name(name, rules), min(max(0, after), rules.longest)):
            words_of = tuple(stretch[each.first : each.until])
            start, over = begin + each.said[0][0].start, begin + each.said[-1][-1].end
            made.append(
                Cue(start, over, each.lines, words_of, voice, tints.get(voice or ""), look, each.firsts, begin, each.said)
            )
    return tuple(_timed(made, length, rules))


@dataclass(frozen=True, slots=True)
class _Captioned:
    """A caption of a stretch: its lines, their words from where the stretch begins, and which words of that it has."""

    lines: tuple[str, ...]
    said: tuple[tuple[Part, ...], ...]
    firsts: tuple[int, ...]
    first: int
    until: int


@lru_cache(16_384)
def _captioned(said: tuple[Said, ...], rules: Rules, name: str, after: Ticks) -> tuple[_Captioned, ...]:
    """The captions of a stretch. Most edits leave nearly all stretches as they were, so they are kept."""
    spoken = _fitting(said, rules, name)
    found = []
    for lines in broken(tuple(each for each, _ in spoken), rules, after):
        first, end = lines[0][0], lines[-1][1]
        parts = tuple(_parts([each for each, _ in spoken[a:b]]) for a, b in lines)
        texts = tuple(written(part.text for part in line) for line in parts)
        firsts = tuple(spoken[a][1] - spoken[first][1] for a, _ in lines)
        found.append(_Captioned(texts, parts, firsts, spoken[first][1], spoken[end - 1][1] + 1))
    return tuple(found)


def _parts(line: Sequence[Spoken]) -> tuple[Part, ...]:
    """A line of a stretch."""
    found = []
    for number, each in enumerate(line):
        spaced = number > 0 and (each.text[:1] < LATER or " " in written((line[number - 1].text[-1:], each.text[:1])))
        found.append(Part(each.text, each.start, each.end, spaced))
    return tuple(found)


def _name(name: str, rules: Rules) -> str:
    if not name or rules.named == "colour":
        return ""
    return f"{name.upper()}: " if rules.named == "NAME:" else "– "


def _stretches(words: Sequence[ProgrammeWord], rules: Rules) -> Iterator[list[ProgrammeWord]]:
    """Runs of words by one voice without a long pause, parted after sentences once they fill a cue."""
    run: list[ProgrammeWord] = []
    characters = 0
    for item in as_captioned(words):
        if item.word.is_sound and not rules.sounds:
            continue
        if run:
            before = run[-1]
            ends = before.word.ends_sentence and characters > rules.characters
            together = item.before == "together"
            pause = item.start - before.end >= PAUSE and not together
            other = item.word.voice != before.word.voice or pause or item.before == "cue" or item.look != before.look
            if other or (ends and not together) or len(run) >= MOST_WORDS:
                yield run
                run, characters = [], 0
        run.append(item)
        characters += len(item.word.text) + 1
    if run:
        yield run


def _fitting(said: Sequence[Said], rules: Rules, name: str) -> list[tuple[Spoken, int]]:
    """The words of a stretch as they are captioned, with their numbers; what is longer than a line is parted."""
    found: list[tuple[Spoken, int]] = []
    for number, (word, start, end, before) in enumerate(said):
        text = name + word if not found else word
        start = max(start, found[-1][0].end if found else 0)
        end = max(end, start + 1)
        if len(text) <= rules.characters:
            found.append((Spoken(text, start, end, before), number))
            continue
        parts = [*_parted(text, rules.characters)]
        edges = [start + (end - start) * part // len(parts) for part in range(len(parts) + 1)]
        for part, a, b in zip(parts, edges[:-1], edges[1:], strict=True):
            found.append((Spoken(part, a, max(b, a + 1)), number))
    return found


def _parted(text: str, characters: int) -> Iterator[str]:
    """A text that is longer than a line in parts: at spaces where there are some, else with a hyphen."""
    while len(text) > characters:
        space = text.rfind(" ", 1, characters + 1)
        if space > 0:
            yield text[:space]
            text = text[space + 1 :]
        else:
            yield text[: characters - 1] + "-"
            text = text[characters - 1 :]
    yield text


def _timed(made: Sequence[Cue], length: Ticks, rules: Rules) -> Iterator[Cue]:
    """The same, each seen as long as it takes to read it, or until the next where they are held."""
    late = 0
    for number, cue in enumerate(made):
        last = number + 1 == len(made)
        start = cue.start + late
        until = length if last else made[number + 1].start - rules.gap
        late = 0 if last else _lent(cue, start, made, number + 1, length, rules)
        until = max(until + late, start + 1)
        if rules.hold and not last:
            end = until
        else:
            end = max(cue.end, start + rules.shortest, min(start + _reading(cue, rules), start + rules.longest))
        end = min(end, until, length)
        if end > start:
            yield replace(cue, start=start, end=end)


def _reading(cue: Cue, rules: Rules) -> Ticks:
    """So long it takes to read a cue."""
    return round(sum(map(len, cue.lines)) / rules.rate * RATE)


def _lent(cue: Cue, start: Ticks, made: Sequence[Cue], number: int, length: Ticks, rules: Rules) -> Ticks:
    """How much later the cue of that number begins, so that the one before it is read: what that lacks and this one can do
    without.
    """
    after = made[number]
    until = made[number + 1].start - rules.gap if number + 1 < len(made) else length
    lacks = start + max(rules.shortest, _reading(cue, rules)) - (after.start - rules.gap)
    spare = until - after.start - max(rules.shortest, _reading(after, rules))
    # One that begins after it was said would be read as what follows.
    return max(0, min(lacks, spare, rules.late, after.said[0][0].end - after.said[0][0].start))
