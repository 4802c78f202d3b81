"""The words of the programme, with their places in it."""

from __future__ import annotations

from collections.abc import Callable, Iterable, Iterator, Mapping, Sequence
from dataclasses import dataclass, replace
from difflib import SequenceMatcher
from functools import lru_cache
from itertools import groupby
from operator import attrgetter
from typing import TypeVar

from jaskel.core.captions.lines import Before
from jaskel.core.captions.look import Look
from jaskel.core.edition import Edition
from jaskel.core.marks.bleep import Bleep, is_bleeped
from jaskel.core.marks.caption_look import has_own_looks, looks_in
from jaskel.core.marks.caption_second import CaptionSecond
from jaskel.core.marks.caption_wording import CaptionWording
from jaskel.core.marks.captions import breaks_in
from jaskel.core.marks.mark import StretchMark
from jaskel.core.muted import Carriers, has_muted, word_is_muted
from jaskel.core.page import laid_words
from jaskel.core.tidy.fillers import FILLERS
from jaskel.core.tidy.finding import plain
from jaskel.core.timebase import Ticks
from jaskel.core.transcript import Transcript, Word

Heard = Callable[[Ticks, Ticks], tuple[Ticks, Ticks] | None]
"""Where in the programme something sounds that lies between two laid times; None where none of it does."""


@dataclass(frozen=True, slots=True)
class ProgrammeWord:
    """A word with its place in the programme, and what somebody wants of it in captions.

    ``before`` says how they break before it, ``look`` how it is drawn; ``worded`` is the shorter wording it belongs to,
    ``recording`` that (or the session) it is said in,
    ``second`` what it says in the second language.
    """

    word: Word
    start: Ticks
    end: Ticks
    before: Before = ""
    look: Look | None = None
    worded: CaptionWording | None = None
    recording: str = ""
    second: CaptionSecond | None = None


def programme_words(
    edition: Edition, transcripts: Mapping[str, Transcript], heard: Heard, carriers: Carriers | None = None
) -> tuple[ProgrammeWord, ...]:
    """The words that are heard. A word mostly taken out is not.

    Nor is one whose voice is muted through all of it; without ``carriers`` those count.
    """
    words = []
    marks = edition.marks
    bleeps = bool(marks.all(Bleep))
    muting = carriers if carriers and has_muted(marks) else None
    breaks = breaks_in(marks)
    looks = looks_in(marks) if has_own_looks(marks) else None
    wordings = bool(marks.all(CaptionWording))
    seconds = bool(marks.all(CaptionSecond))
    for name, word, laid in laid_words(edition, transcripts):
        length = word.end - word.start
        if muting and word_is_muted(marks, name, word, muting):
            continue
        place = heard(laid, laid + length)
        if place and 2 * (place[1] - place[0]) >= length:
            masked = bleeps and is_bleeped(marks, name, word.start, word.end)
            before = breaks.before(name, word.start, word.end) if breaks else ""
            look = looks.of(name, word.start, word.end, word.voice) if looks else None
            worded = _at(edition, CaptionWording, name, word) if wordings else None
            second = _at(edition, CaptionSecond, name, word) if seconds else None
            words.append(
                ProgrammeWord(replace(word, text=_masked(word)) if masked else word, *place, before, look, worded, name, second)
            )
    return tuple(words)


MASKED = "[bleep]"


def _masked(word: Word) -> str:
    """What stands for a word that must not be read; what ends its sentence stays."""
    return MASKED + (word.text.rstrip()[-1] if word.text.rstrip()[-1:] in ".,;:?!…" else "")


M = TypeVar("M", bound=StretchMark)


def _at(edition: Edition, kind: type[M], recording: str, word: Word) -> M | None:
    """The mark of a kind that the middle of a word lies in."""
    middle = (word.start + word.end) // 2
    found = edition.marks.within(kind, recording, middle, middle + 1)
    return next((each for each in found if each.start <= middle < each.end), None)


@lru_cache(65_536)
def is_filler(text: str) -> bool:
    """Whether a word is only a sound of hesitation, which captions never have."""
    return plain(text) in FILLERS


def as_captioned(words: Iterable[ProgrammeWord]) -> Iterator[ProgrammeWord]:
    """The words as captions have them: without fillers, and with shorter wordings for what they were written for.

    Words that stay keep their times; new ones share the time of those they replace.
    """
    read = (item for item in words if not is_filler(item.word.text))
    for worded, group in groupby(read, key=attrgetter("worded")):
        if worded is None:
            yield from group
            continue
        said = [*group]
        if " ".join(item.word.text for item in said) != worded.instead_of:
            yield from (replace(item, worded=None) if item.worded else item for item in said)
            continue
        *new, last = _begun(said, [*_reworded(said, worded.text.split())])
        # The wording stands for all of them, so it is seen as long as they are said.
        yield from new
        yield replace(last, end=max(last.end, said[-1].end))


def _begun(said: Sequence[ProgrammeWord], new: Sequence[ProgrammeWord]) -> Iterator[ProgrammeWord]:
    """What is wanted before the first of the words that are said is wanted before the first that is read, and nowhere else."""
    for number, item in enumerate(new):
        if number == 0:
            yield replace(item, before=said[0].before)
        else:
            yield replace(item, before="") if item.word.start == said[0].word.start else item


def _reworded(said: Sequence[ProgrammeWord], texts: Sequence[str]) -> Iterator[ProgrammeWord]:
    matched = SequenceMatcher(None, [plain(item.word.text) for item in said], [plain(text) for text in texts], autojunk=False)
    for kind, a, b, c, d in matched.get_opcodes():
        if kind == "equal":
            yield from (
                replace(item, word=replace(item.word, text=text)) for item, text in zip(said[a:b], texts[c:d], strict=True)
            )
        elif c < d:
            start = said[a].start if a < len(said) else said[-1].end
            end = said[b - 1].end if b > a else said[a].start if a < len(said) else said[-1].end
            first = said[min(a, len(said) - 1)]
            for number, text in enumerate(texts[c:d]):
                at, until = (start + (end - start) * part // (d - c) for part in (number, number + 1))
                yield replace(
                    first,
                    word=replace(first.word, text=text, confidence=1.0),
                    start=at,
                    end=max(at + 1, until),
                    before=first.before if number == 0 else "",
                )
