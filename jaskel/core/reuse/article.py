"""The transcript of a programme as an article: headings from its chapters, paragraphs by sense, without sounds of hesitation.

An article is Markdown (CommonMark): what a person edits, and what every form of it is written from.
"""

from __future__ import annotations

import re
from collections import Counter
from collections.abc import Iterator, Mapping, Sequence
from dataclasses import replace
from itertools import groupby, pairwise
from typing import Literal

from jaskel.core.captions.words import is_filler
from jaskel.core.chapters import ProgrammeChapter
from jaskel.core.passages import beginnings
from jaskel.core.problem import Problem
from jaskel.core.sounds import sound_in
from jaskel.core.timebase import RATE, Ticks
from jaskel.core.transcript import Word
from jaskel.core.written import written

Manner = Literal["names", "running"]
"""Each paragraph begun with the name of its voice, or running text in which the guests are quoted."""

JOINED_WORDS = 25
"""A paragraph with fewer words goes on with what the same voice says next,"""

JOINED_REST: Ticks = 2 * RATE
"""unless a rest as long as that lies between them."""


def article(
    words: Sequence[Word], chapters: Sequence[ProgrammeChapter], voices: Mapping[str, str], title: str, manner: Manner
) -> str:
    """What is said, as Markdown; ``words`` and ``chapters`` are placed in the programme, ``voices`` are names by ids.

    Raises
    ------
    Problem
        ``nothing-said``.
    """
    said = [*_without_fillers(words)]
    if not said:
        raise Problem("nothing-said", "Nobody says anything here that is written down, so there is no article to write.")
    host = _host(said) if manner == "running" else None
    blocks = [f"# {plain(title)}"]
    last: str | None = None
    for heading, part in _by_chapters(said, chapters):
        if heading:
            blocks.append(f"## {plain(heading)}")
            last = None
        for paragraph in _paragraphs(part):
            voice, text = paragraph[0].voice or "", plain(written(word.text for word in paragraph))
            name = plain(voices.get(voice, ""))
            if manner == "names":
                blocks.append(f"**{name}:** {text}" if name and voice != last else text)
            elif host is None or voice == host:
                blocks.append(text)
            elif voice == last and blocks[-1].startswith(">"):
                blocks[-1] = "\n>\n".join((blocks[-1], f"> {text}"))
            else:
                blocks.append(f"> **{name}:** {text}" if name else f"> {text}")
            last = voice
    return "\n\n".join(blocks) + "\n"


_SIGNS = re.compile(r"([\\`*_\[\]<>#~|&])")
_BULLET, _NUMBER = re.compile(r"^(\s*)([-+=])"), re.compile(r"^(\s*\d+)([.)])")


def plain(text: str) -> str:
    r"""A text that stands in Markdown as it is.

    >>> print(plain("1. She wrote *all* of it"))
    1\. She wrote \*all\* of it
    """
    escaped = _SIGNS.sub(r"\\\1", text)
    for leading in (_BULLET, _NUMBER):
        escaped = leading.sub(r"\1\\\2", escaped)
    return escaped


def _without_fillers(words: Sequence[Word]) -> Iterator[Word]:
    """What is read: no sounds in brackets, no hesitation; where a sentence began with one, the next word begins it."""
    opened = True
    for word in words:
        if sound_in(word.text) is not None:
            continue
        if is_filler(word.text):
            opened = opened or word.ends_sentence
            continue
        yield replace(word, text=word.text[:1].upper() + word.text[1:]) if opened else word
        opened = word.ends_sentence


def _host(words: Sequence[Word]) -> str | None:
    """Who asks most, the one who says least where several do; None where there is one voice only."""
    asked = Counter(word.voice for word in words if word.text.rstrip("\"'”’)").endswith("?"))
    said = Counter(word.voice for word in words)
    return max(said, key=lambda voice: (asked[voice], -said[voice])) if len(said) > 1 else None


def _by_chapters(words: Sequence[Word], chapters: Sequence[ProgrammeChapter]) -> Iterator[tuple[str, list[Word]]]:
    def chapter(word: Word) -> int:
        return sum(each.begin <= word.start for each in chapters) - 1

    for number, group in groupby(words, key=chapter):
        # One chapter alone is the whole, which has its title already.
        yield chapters[number].title if number >= 0 and len(chapters) > 1 else "", [*group]


def _paragraphs(words: Sequence[Word]) -> Iterator[list[Word]]:
    held: list[Word] = []
    for first, last in pairwise([*beginnings(words), len(words)]):
        part = [*words[first:last]]
        goes_on = held and held[-1].voice == part[0].voice and part[0].start - held[-1].end < JOINED_REST
        if goes_on and min(len(held), len(part)) < JOINED_WORDS:
            held += part
            continue
        if held:
            yield held
        held = part
    if held:
        yield held
