"""Texts that were brought from elsewhere, as words: who is to say them, and what of a line is spoken at all."""

from __future__ import annotations

import re
from collections import Counter
from collections.abc import Iterable, Sequence
from dataclasses import dataclass, replace

from jaskel.core.timebase import Ticks

_VOICE = re.compile(r"^\s*(?:[*_]{0,2})([^\W\d_][\w .'’-]{0,40}?)(?:\s*\([^)]*\))?(?:[*_]{0,2})\s*[::](?:[*_]{0,2})\s+(?=\S)")
_STAMP = re.compile(r"^\s*\d{1,2}:\d{2}(?::\d{2})?(?:[.,]\d{1,3})?\b|[\[(]\d{1,2}:\d{2}(?::\d{2})?(?:[.,]\d{1,3})?[\])]")
"""Times at the beginning of a line or in brackets; others may well be spoken."""


@dataclass(frozen=True, slots=True)
class TextWord:
    """A word of a text, who is to say it, and from when to when its caption is shown, if it is from one."""

    text: str
    voice: str | None = None
    start: Ticks | None = None
    end: Ticks | None = None


def split_voice(line: str) -> tuple[str | None, str]:
    """The voice that a line begins with, such as ``ORLA:``, and the rest of it; None where it begins with none."""
    found = _VOICE.match(line)
    return (found[1].strip(), line[found.end() :]) if found else (None, line)


def words_of_lines(lines: Iterable[str]) -> tuple[TextWord, ...]:
    """The words of a text with the voices that its lines name; times at the beginning of lines are left out."""
    parted = [(*split_voice(line), line) for line in (_STAMP.sub(" ", line) for line in lines)]
    names = Counter(name for name, _, _ in parted if name)
    # One line that happens to have a colon after a word makes no voice.
    voices = {name for name, count in names.items() if count > 1 or (len(names) > 1 and name.istitle()) or name.isupper()}
    words: list[TextWord] = []
    voice: str | None = None
    for name, rest, line in parted:
        if name in voices:
            voice, line = name, rest
        words += [TextWord(word, voice) for word in spoken_words(line)]
    return with_whole_names(words)


def spoken_words(line: str) -> list[str]:
    """What is spoken of a line."""
    line = re.sub(r"\[[^\[\]]*\]|\([A-Z][A-Z ]+\)|♪", " ", line)  # what is not spoken: [laughs], (MUSIC)
    return [word for word in line.split() if any(c.isalnum() for c in word)]


def with_whole_names(words: Sequence[TextWord]) -> tuple[TextWord, ...]:
    """Names in capitals as one writes them: ``ORLA VENN`` is Orla Venn."""
    return tuple(replace(w, voice=w.voice.title()) if w.voice and w.voice.isupper() else w for w in words)
