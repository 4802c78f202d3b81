"""Words of the programme into caption cues: parted where somebody else speaks or nobody does, broken, and timed."""

from __future__ import annotations

from collections.abc import Iterator, Mapping, Sequence
from dataclasses import dataclass, replace

from jaskel.core.captions.lines import Spoken, broken
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
    lines, parts
        What is read, and the words that each line is put together from.
    words
        Those of the transcript that it is made of, in order.
    voice, tint
        Who says them, and the number of the colour they have for it where colours name voices.
    look
        How it is drawn.
    """

    start: Ticks
    end: Ticks
    lines: tuple[str, ...]
    words: tuple[ProgrammeWord, ...] = ()
    voice: str | None = None
    parts: tuple[tuple[Part, ...], ...] = ()
    tint: int | None = None
    look: Look = USUAL_LOOK

    @property
    def is_reworded(self) -> bool:
        """Whether some of it is read otherwise than it is said."""
        return any(item.worded for item in self.words)

    @property
    def line_starts(self) -> tuple[Ticks, ...]:
        """When each line but the first begins."""
        return tuple(line[0].start for line in self.parts[1:])

    @property
    def text(self) -> str:
        return " ".join(self.lines)

    @property
    def rate(self) -> float:
        """Characters a second."""
        return sum(map(len, self.lines)) * RATE / max(1, self.end - self.start)


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
        spoken = _fitting(stretch, kept, _name(name, rules))
        for lines in broken(tuple(each for each, _ in spoken), kept, min(max(0, after), rules.longest)):
            first, end = lines[0][0], lines[-1][1]
            inside = dict.fromkeys(item for _, item in spoken[first:end])
            parts = tuple(_parts([each for each, _ in spoken[a:b]], begin) for a, b in lines)
            texts = tuple(written(part.text for part in line) for line in parts)
            start, over = begin + spoken[first][0].start, begin + spoken[end - 1][0].end
            made.append(Cue(start, over, texts, tuple(inside), voice, parts, tints.get(voice or ""), look))
    return tuple(_timed(made, length, rules))


def _parts(line: Sequence[Spoken], begin: Ticks) -> tuple[Part, ...]:
    """A line of a stretch that begins at a place of the programme."""
    found = []
    for number, each in enumerate(line):
        spaced = number > 0 and (each.text[:1] < LATER or " " in written((line[number - 1].text[-1:], each.text[:1])))
        found.append(Part(each.text, begin + each.start, begin + each.end, spaced))
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


def _fitting(stretch: Sequence[ProgrammeWord], rules: Rules, name: str) -> list[tuple[Spoken, ProgrammeWord]]:
    """The words of a stretch as they are captioned, relative to its beginning; what is longer than a line is parted."""
    begin = stretch[0].start
    found: list[tuple[Spoken, ProgrammeWord]] = []
    for item in stretch:
        text = name + item.word.text if not found else item.word.text
        start, end = item.start - begin, max(item.end, item.start + 1) - begin
        start = max(start, found[-1][0].end if found else 0)
        end = max(end, start + 1)
        if len(text) <= rules.characters:
            found.append((Spoken(text, start, end, item.before), item))
            continue
        parts = [*_parted(text, rules.characters)]
        edges = [start + (end - start) * number // len(parts) for number in range(len(parts) + 1)]
        for part, a, b in zip(parts, edges[:-1], edges[1:], strict=True):
            found.append((Spoken(part, a, max(b, a + 1)), item))
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
    for number, cue in enumerate(made):
        until = made[number + 1].start - rules.gap if number + 1 < len(made) else length
        until = max(until, cue.start + 1)
        if rules.hold and number + 1 < len(made):
            end = until
        else:
            reading = cue.start + round(sum(map(len, cue.lines)) / rules.rate * RATE)
            end = max(cue.end, cue.start + rules.shortest, min(reading, cue.start + rules.longest))
        end = min(end, until, length)
        if end > cue.start:
            yield replace(cue, end=end)
