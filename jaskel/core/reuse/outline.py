"""All that is proposed of an episode at once: chapters, highlights, clips, titles, a summary."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, field

import numpy as np

from jaskel.core.passages import Spoken
from jaskel.core.problem import Problem
from jaskel.core.reuse.chapters import USUAL, Density, borders
from jaskel.core.reuse.clips import Lengths, clips
from jaskel.core.reuse.highlights import Highlight, Wish, highlights
from jaskel.core.reuse.phrases import Means, keywords, names_in, titles_of
from jaskel.core.reuse.sentences import Sentence, sentences_of
from jaskel.core.reuse.writer import summed_up, writer
from jaskel.core.timebase import RATE, Ticks

FEWEST = 3
"""Sentences without which nothing can be proposed."""


@dataclass(frozen=True)
class Chapter:
    """A chapter that begins with sentence ``first``, from-to in ticks; one ends where the next begins."""

    first: int
    start: Ticks
    end: Ticks
    title: str


@dataclass(frozen=True)
class Subject:
    """What is said, what it means (sentences by directions, each of length 1), and with which sentences chapters begin."""

    sentences: Sequence[Sentence]
    meanings: np.ndarray
    begins: Sequence[int]


@dataclass(frozen=True)
class Outline:
    """What is proposed; indexes are of ``sentences``."""

    sentences: Sequence[Sentence]
    chapters: Sequence[Chapter]
    highlights: Sequence[Highlight]
    clips: Sequence[Highlight]
    titles: Sequence[tuple[str, str]]
    summary: Sequence[int]
    keywords: Sequence[str]
    names: Sequence[str]


@dataclass(frozen=True)
class Wanted:
    """What is asked for: the length of the highlights in ticks, how many clips, how many sentences of summary."""

    highlights: Ticks = 0
    clips: int = 0
    summary: int = 3
    density: Density = field(default_factory=Density)
    lengths: Lengths = field(default_factory=Lengths)


def subject_of(words: Sequence[Spoken], means: Means, density: Density = USUAL) -> Subject:
    """What is said, and where it changes.

    Raises
    ------
    Problem
        ``nothing-said`` or ``too-little-said``.
    """
    sentences = sentences_of(words)
    if not sentences:
        raise Problem("nothing-said", "Nobody says anything here that is written down, so there is nothing to propose.")
    if len(sentences) < FEWEST:
        raise Problem(
            "too-little-said",
            f"Only {len(sentences)} sentence{'s are' if len(sentences) > 1 else ' is'} said here, too little to choose from. "
            "Take a longer recording, or mark by hand what is good.",
        )
    meanings = means([each.text for each in sentences])
    return Subject(sentences, meanings, borders(sentences, meanings, density))


def chapters_of(subject: Subject, means: Means) -> list[Chapter]:
    """Chapters with their titles; the first begins where everything does."""
    sentences, begins = subject.sentences, subject.begins
    named = titles_of(sentences, subject.meanings, begins, means)
    starts = [0, *(sentences[at].start for at in begins[1:])]
    ends = [*starts[1:], sentences[-1].end]
    return [Chapter(*each) for each in zip(begins, starts, ends, named, strict=True)]


def outline(words: Sequence[Spoken], means: Means, wanted: Wanted) -> Outline:
    """All of it.

    Raises
    ------
    Problem
        See :func:`subject_of`.
    """
    subject = subject_of(words, means, wanted.density)
    sentences, meanings, begins = subject.sentences, subject.meanings, subject.begins
    about = keywords(sentences)
    return Outline(
        sentences,
        chapters_of(subject, means),
        highlights(sentences, meanings, begins, Wish(wanted.highlights)) if wanted.highlights >= RATE else [],
        clips(sentences, meanings, begins, wanted.clips, wanted.lengths),
        writer().titles(sentences, about, 0),
        summed_up(sentences, meanings, begins, wanted.summary, 0),
        about,
        names_in(sentences),
    )
