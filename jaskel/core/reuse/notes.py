"""Texts about an episode that a person edits: a summary and notes, all in words that were said. Markdown."""

from __future__ import annotations

from collections.abc import Mapping, Sequence

from jaskel.core.chapters import ProgrammeChapter
from jaskel.core.reuse.alone import alone
from jaskel.core.reuse.article import plain
from jaskel.core.reuse.outline import Subject
from jaskel.core.reuse.phrases import keywords, links_in, names_in
from jaskel.core.reuse.summary import summary
from jaskel.core.reuse.writer import summed_up
from jaskel.core.timebase import clock

QUOTES = 8
SHORTEST_QUOTE, LONGEST_QUOTE = 6, 22
"""Words of a quote."""

NAMES = 40
"""So many names are told at most."""

SENTENCES = 3
"""Of the summary that one begins to edit."""


def quotes_in(subject: Subject) -> list[int]:
    """The numbers of sentences of a length to be quoted that say most by themselves, in order."""
    sentences = subject.sentences
    short = [at for at, it in enumerate(sentences) if SHORTEST_QUOTE <= it.last - it.first <= LONGEST_QUOTE and not it.asks]
    central = summary(sentences, subject.meanings, subject.begins, len(sentences))
    return sorted(sorted({*short} & {*central}, key=lambda at: -alone([sentences[at]]))[:QUOTES])


def summary_text(subject: Subject) -> str:
    """Sentences that were said, one after another."""
    told = summed_up(subject.sentences, subject.meanings, subject.begins, SENTENCES, 0)
    return " ".join(plain(subject.sentences[at].text) for at in told) + "\n"


def notes_text(subject: Subject, chapters: Sequence[ProgrammeChapter], voices: Mapping[str, str]) -> str:
    """A summary, chapters and quotes with their times, who and what is named, and links; ``voices`` are names by ids."""
    sentences = subject.sentences
    parts = [summary_text(subject).strip()]
    if chapters:
        parts += ["## Chapters", "\n".join(f"- {clock(each.begin)} {plain(each.title)}" for each in chapters)]
    quoted = [sentences[at] for at in quotes_in(subject)]
    if quoted:
        lines = (f"- {clock(it.start)} “{plain(it.text)}” {plain(voices.get(it.voice or '', ''))}".rstrip() for it in quoted)
        parts += ["## Quotes", "\n".join(lines)]
    for heading, known in (("Named", names_in(sentences)[:NAMES]), ("Spoken of", keywords(sentences))):
        if known:
            parts += [f"## {heading}", plain(", ".join(known))]
    if links := links_in(sentences):
        parts += ["## Links", "\n".join(f"- {plain(each)}" for each in links)]
    return "\n\n".join(parts) + "\n"
