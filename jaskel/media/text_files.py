"""Reading a text that was brought from elsewhere: a script, an old transcript, or captions.

What it is, is seen from the text itself. To add a form, write a function that gives its words and put it into ``_FORMS``.
"""

from __future__ import annotations

import codecs
import re
from collections.abc import Iterator, Sequence
from contextlib import suppress
from dataclasses import dataclass
from io import BytesIO
from itertools import pairwise

import pysubs2
from charset_normalizer import from_bytes
from markdown_it import MarkdownIt
from markdown_it.token import Token
from ttconv import model
from ttconv.scc import reader as scc_reader
from ttconv.stl import reader as stl_reader

from jaskel.core.captions.brought import BroughtCue
from jaskel.core.problem import Problem
from jaskel.core.text import TextWord, split_voice, spoken_words, with_whole_names, words_of_lines
from jaskel.core.timebase import RATE
from jaskel.media.ttml import LONGEST_CUE, with_plain_times

LONGEST = 2_000_000
"""Bytes; ten hours of speech have about half a million."""

MOST_WORDS = 200_000

LATEST = 100 * 3_600_000
"""Milliseconds: no caption is shown after a hundred hours."""

_MARKDOWN = re.compile(r"^[ \t]*(#{1,6}[ \t]|[-*+][ \t]|\d{1,9}[.)][ \t]|>[ \t]|```|---)", re.MULTILINE)


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


MOST_CAPTIONS = 20_000
"""Ten hours of speech have about as many."""


def read_captions(content: bytes, name: str) -> tuple[BroughtCue, ...]:
    """The captions of a file: SubRip, WebVTT, TTML, EBU STL or SCC.

    Raises
    ------
    Problem
        As :func:`read_text`, or ``not-captions`` where it is none of these.
    """
    timed = _timecoded(content, name)
    if timed is None:
        text = decoded(content, name)
        head = text.lstrip()[:400]
        if head.startswith("WEBVTT"):
            form = "vtt", "WebVTT captions"
        elif head.startswith(("<?xml", "<!DOCTYPE", "<tt")):
            form = "ttml", "TTML captions"
        elif "-->" in head:
            form = "srt", "SubRip captions"
        else:
            raise Problem("not-captions", f"“{name}” holds no captions. Take SubRip, WebVTT, TTML, EBU STL or SCC.")
        timed = [
            BroughtCue(each.start * RATE // 1000, each.end * RATE // 1000, tuple(each.plaintext.strip().split("\n")))
            for each in _events(text, *form, name)
        ]
    if len(timed) > MOST_CAPTIONS:
        raise Problem("too-long", f"“{name}” has {len(timed):,} captions; {MOST_CAPTIONS:,} are the most. Bring a part of it.")
    if not timed:
        raise Problem("empty", f"There are no captions in “{name}”. Choose another file.")
    return tuple(timed)


def _timecoded(content: bytes, name: str) -> list[BroughtCue] | None:
    """The captions of an EBU STL or SCC file; None where it is neither."""
    if len(content) > LONGEST:
        return None
    try:
        if content[3:6] == b"STL" and content[8:11] == b".01":
            return _of_document(stl_reader.to_model(BytesIO(content)))
        if content.lstrip().startswith(b"Scenarist_SCC"):
            return _of_document(scc_reader.to_model(content.decode("ascii")))
    except Exception as error:  # whatever a reader meets in what is damaged
        raise Problem(
            "not-captions", f"“{name}” looks like captions but is damaged. Save it anew where it was made."
        ) from error
    return None


def _of_document(document: model.ContentDocument) -> list[BroughtCue]:
    """The paragraphs of a document of ttconv, in order of time."""
    found = []
    body = document.get_body()
    for element in body.dfs_iterator() if body else ():
        if not isinstance(element, model.P):
            continue
        lines = [""]
        for each in element.dfs_iterator():
            if isinstance(each, model.Br):
                lines.append("")
            elif isinstance(each, model.Text):
                lines[-1] += each.get_text()
        parent = element.parent()
        offset = (parent.get_begin() if parent else None) or 0
        start, end = (element.get_begin() or 0) + offset, element.get_end()
        until = end + offset if end is not None else (parent.get_end() if parent else None) or start + 1
        shown = tuple(line.strip() for line in lines if line.strip())
        if shown:
            found.append(BroughtCue(round(start * RATE), round(until * RATE), shown))
    return sorted(found, key=lambda cue: cue.start)


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
    text = _as_unicode(content)
    if text is None or "\0" in text or sum(c < " " and c not in "\n\r\t\f" for c in text) > len(text) / 100:
        raise Problem(
            "not-text", f"“{name}” is no plain text. Save it as text, Markdown, SubRip, WebVTT or TTML and bring that."
        )
    return text.removeprefix("\ufeff").replace("\r\n", "\n").replace("\r", "\n")


def _as_unicode(content: bytes) -> str | None:
    """UTF-8 where it is that, else what it most probably is; None where it is no text at all."""
    marked = content[:2] in (codecs.BOM_UTF16_LE, codecs.BOM_UTF16_BE)
    for encoding in ("utf-16" if marked else "utf-8-sig", "cp1252" if len(content) < TELLING else ""):
        with suppress(UnicodeDecodeError):
            if encoding:
                return content.decode(encoding)
    found = from_bytes(content).best()
    return str(found) if found else None


TELLING = 160
"""Bytes: of what is shorter nobody can tell how it is encoded, and most of what is not UTF-8 is Western European."""


def _events(text: str, form: str, shown: str, name: str) -> list[pysubs2.SSAEvent]:
    """The captions of a text, in order; shown one after the other."""
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
    return cues


def _captions(text: str, form: str, shown: str, name: str) -> Brought:
    words: list[TextWord] = []
    voice: str | None = None
    for cue in _events(text, form, shown, name):
        line = cue.plaintext.replace("\n", " ")
        said_by, line = split_voice(line)
        voice = said_by or voice
        times = cue.start * RATE // 1000, cue.end * RATE // 1000
        words += [TextWord(t, cue.name.strip() or voice, *times) for t in spoken_words(line.lstrip("-– "))]
    return Brought(shown, with_whole_names(words))


def _prose(text: str) -> Brought:
    markdown = len(_MARKDOWN.findall(text)) >= 2 or "**" in text
    lines = _spoken_lines(text) if markdown else text.split("\n")
    return Brought("Markdown" if markdown else "plain text", words_of_lines(lines))


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
