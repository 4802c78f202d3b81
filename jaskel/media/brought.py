"""Reading a text that was brought from elsewhere: a script, an old transcript, or captions.

What it is, is seen from the text itself. To add a form, write a function that gives its words and put it into ``_FORMS``.
"""

from __future__ import annotations

import re
from collections import Counter
from collections.abc import Iterator, Sequence
from dataclasses import dataclass, replace
from itertools import pairwise

import pysubs2
from markdown_it import MarkdownIt
from markdown_it.token import Token

from jaskel.core.problem import Problem
from jaskel.core.timebase import RATE, Ticks
from jaskel.media.ttml import LONGEST_CUE, with_plain_times

LONGEST = 2_000_000
"""Bytes; ten hours of speech have about half a million."""

MOST_WORDS = 200_000

LATEST = 100 * 3_600_000
"""Milliseconds: no caption is shown after a hundred hours."""

_VOICE = re.compile(r"^\s*(?:[*_]{0,2})([^\W\d_][\w .'’-]{0,40}?)(?:\s*\([^)]*\))?(?:[*_]{0,2})\s*[::](?:[*_]{0,2})\s+(?=\S)")
_MARKDOWN = re.compile(r"^[ \t]*(#{1,6}[ \t]|[-*+][ \t]|\d{1,9}[.)][ \t]|>[ \t]|```|---)", re.MULTILINE)
_STAMP = re.compile(r"^\s*\d{1,2}:\d{2}(?::\d{2})?(?:[.,]\d{1,3})?\b|[\[(]\d{1,2}:\d{2}(?::\d{2})?(?:[.,]\d{1,3})?[\])]")
"""Times at the beginning of a line or in brackets; others may well be spoken."""


@dataclass(frozen=True, slots=True)
class TextWord:
    """A word of a text, who is to say it, and from when to when its caption is shown, if it is from one."""

    text: str
    voice: str | None = None
    start: Ticks | None = None
    end: Ticks | None = None


@dataclass(frozen=True)
class Brought:
    """A text as it was understood. ``form`` is a name for people."""

    form: str
    words: tuple[TextWord, ...]

    @property
    def voices(self) -> tuple[str, ...]:
        """Who speaks in it, in order of appearance."""
        return tuple(dict.fromkeys(word.voice for word in self.words if word.voice))

    @property
    def timed(self) -> bool:
        return bool(self.words) and all(word.start is not None for word in self.words)


def read_text(content: bytes, name: str) -> Brought:
    """Understand a text.

    Raises
    ------
    Problem
        ``empty``, ``not-text``, ``too-long``, ``captions-out-of-order`` or ``captions-overlap``.
    """
    text = decoded(content, name)
    head = text.lstrip()[:400]
    if head.startswith("WEBVTT"):
        return _captions(text, "vtt", "WebVTT captions", name)
    if head.startswith(("<?xml", "<!DOCTYPE", "<tt")):
        return _captions(text, "ttml", "TTML captions", name)
    if re.match(r"\d+\s*\n\s*\d+:\d\d:\d\d[,.]\d+\s*-->", head):
        return _captions(text, "srt", "SubRip captions", name)
    brought = _prose(text)
    if not brought.words:
        raise Problem("empty", f"There are no words in “{name}”. Choose another file.")
    if len(brought.words) > MOST_WORDS:
        raise _too_long(name, f"{len(brought.words):,} words; {MOST_WORDS:,}")
    return brought


def _too_long(name: str, how_long: str) -> Problem:
    return Problem(
        "too-long",
        f"“{name}” is too long for the text of one recording: it has {how_long} are the most. Bring only its part.",
    )


def decoded(content: bytes, name: str) -> str:
    """Bytes of a file as text, whatever it is encoded in, lines ended by ``\\n``.

    Raises
    ------
    Problem
        ``too-long`` or ``not-text``.
    """
    if len(content) > LONGEST:
        raise _too_long(name, f"{len(content) / 1e6:.1f} MB; {LONGEST / 1e6:.0f} MB")
    for encoding in ("utf-8-sig", "utf-16") if content[:2] in (b"\xff\xfe", b"\xfe\xff") else ("utf-8-sig",):
        try:
            text = content.decode(encoding)
        except UnicodeDecodeError:
            continue
        if "\0" not in text:
            return text.replace("\r\n", "\n").replace("\r", "\n")
    try:
        text = content.decode("cp1252")
    except UnicodeDecodeError:
        text = "\0"
    if "\0" in text or sum(c < " " and c not in "\n\t\f" for c in text) > len(text) / 100:
        raise Problem(
            "not-text", f"“{name}” is no plain text. Save it as text, Markdown, SubRip, WebVTT or TTML and bring that."
        )
    return text.replace("\r\n", "\n")


def _captions(text: str, form: str, shown: str, name: str) -> Brought:
    try:
        if form == "ttml":
            text = with_plain_times(text)
        elif max(map(len, text.split("\n\n"))) > LONGEST_CUE:
            raise ValueError("a caption is too long")
        events = pysubs2.SSAFile.from_string(text, form)
        cues = [each for each in events if each.plaintext.strip() and 0 <= each.start <= each.end <= LATEST]
    except Exception as error:  # whatever a reader meets in what is damaged
        raise Problem(
            "not-captions",
            f"“{name}” looks like {shown} but cannot be read as such: it is damaged. Save it anew where it was made.",
        ) from error
    if not cues:
        raise Problem("empty", f"There are no captions in “{name}”. Choose another file.")
    for number, (before, after) in enumerate(pairwise(cues), 2):
        if after.start < before.start:
            raise Problem(
                "captions-out-of-order",
                f"Caption {number} of “{name}” begins before the one it follows. Put them in order and bring them again.",
            )
        if after.start < before.end - 40 and after.start + 40 < before.end and after.end <= before.end:
            raise Problem(
                "captions-overlap",
                f"Captions {number - 1} and {number} of “{name}” are shown at the same time. Part them and bring them again.",
            )
    words: list[TextWord] = []
    voice: str | None = None
    for cue in cues:
        line = cue.plaintext.replace("\n", " ")
        if found := _VOICE.match(line):
            voice, line = found[1].strip(), line[found.end() :]
        spoken = cue.name.strip() or voice
        words += [TextWord(t, spoken, cue.start * RATE // 1000, cue.end * RATE // 1000) for t in _words(line.lstrip("-– "))]
    return Brought(shown, _with_whole_names(words))


def _prose(text: str) -> Brought:
    markdown = len(_MARKDOWN.findall(text)) >= 2 or "**" in text
    lines = [_STAMP.sub(" ", line) for line in (_spoken_lines(text) if markdown else text.split("\n"))]
    names = Counter(found[1].strip() for line in lines if (found := _VOICE.match(line)))
    # One line that happens to have a colon after a word makes no voice.
    voices = {name for name, count in names.items() if count > 1 or (len(names) > 1 and name.istitle()) or name.isupper()}
    words: list[TextWord] = []
    voice: str | None = None
    for line in lines:
        if (found := _VOICE.match(line)) and found[1].strip() in voices:
            voice, line = found[1].strip(), line[found.end() :]
        words += [TextWord(word, voice) for word in _words(line)]
    form = "Markdown" if markdown else "plain text"
    return Brought(form, _with_whole_names(words))


def _spoken_lines(text: str) -> Iterator[str]:
    """What is said of a Markdown text, line by line: no headings, no code, links by their text."""
    heading = False
    for block in MarkdownIt("commonmark").parse(text):
        heading = block.type == "heading_open" or (heading and block.type != "heading_close")
        if block.type == "inline" and not heading:
            yield from _plain(block.children or []).split("\n")


def _plain(inline: Sequence[Token]) -> str:
    shown = ("text", "code_inline")
    return "".join("\n" if t.type in ("softbreak", "hardbreak") else t.content if t.type in shown else "" for t in inline)


def _words(line: str) -> list[str]:
    line = re.sub(r"\[[^\[\]]*\]|\([A-Z][A-Z ]+\)|♪", " ", line)  # what is not spoken: [laughs], (MUSIC)
    return [word for word in line.split() if any(c.isalnum() for c in word)]


def _with_whole_names(words: Sequence[TextWord]) -> tuple[TextWord, ...]:
    """Names in capitals as one writes them: ``ORLA VENN`` is Orla Venn."""
    return tuple(replace(w, voice=w.voice.title()) if w.voice and w.voice.isupper() else w for w in words)
