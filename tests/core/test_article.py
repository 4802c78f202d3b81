"""What is said, as an article."""

from __future__ import annotations

import pytest
from hypothesis import given
from hypothesis import strategies as st
from markdown_it import MarkdownIt

from jaskel.core.chapters import ProgrammeChapter
from jaskel.core.problem import Problem
from jaskel.core.reuse.article import article, plain
from jaskel.core.timebase import RATE
from jaskel.core.transcript import Word

NAMES = {"a": "Orla Venn", "b": "Tam"}


def said(*turns: tuple[str, str], rest: float = 0.3) -> list[Word]:
    """Turns of voices, two words in a second, with a rest after each."""
    words, at = [], 0
    for voice, text in turns:
        for word in text.split():
            words.append(Word(word, at, at + RATE * 2 // 5, 0.9, voice))
            at += RATE // 2
        at += round(rest * RATE)
    return words


TALK = said(
    ("a", "Why does a hull dry out?"),
    ("b", "Um, because the planks shrink. [laughter] They shrink every summer, uh, and nobody sees it."),
    ("b", "By then it is too late."),
    ("a", "And what do you do about it?"),
    ("b", "Water. You keep her wet."),
)
LATER = next(word.start for word in TALK if word.text == "And")


def test_voices_are_named_where_they_change_and_hesitation_is_left_out():
    text = article(TALK, [], NAMES, "The dry hull", "names")
    assert text.split("\n\n") == [
        "# The dry hull",
        "**Orla Venn:** Why does a hull dry out?",
        "**Tam:** Because the planks shrink. They shrink every summer, and nobody sees it. By then it is too late.",
        "**Orla Venn:** And what do you do about it?",
        "**Tam:** Water. You keep her wet.\n",
    ]


def test_in_running_text_whoever_asks_tells_and_the_others_are_quoted():
    text = article(TALK, [], NAMES, "The dry hull", "running")
    assert "\n\nWhy does a hull dry out?\n\n> **Tam:** Because" in text
    assert "**Orla Venn:**" not in text


def test_nobody_is_quoted_where_one_alone_speaks():
    text = article(said(("a", "I went out. I came home.")), [], NAMES, "Alone", "running")
    assert text == "# Alone\n\nI went out. I came home.\n"


def test_chapters_are_headings_and_begin_a_paragraph():
    chapters = [ProgrammeChapter(0, LATER, "Dry planks"), ProgrammeChapter(LATER, TALK[-1].end, "What helps")]
    text = article(TALK, chapters, NAMES, "The dry hull", "names")
    assert text.index("## Dry planks") < text.index("Why does") < text.index("## What helps") < text.index("And what")
    assert "##" not in article(TALK, chapters[:1], NAMES, "The dry hull", "names")


def test_a_long_rest_parts_what_one_voice_says():
    short = article(said(("a", "First this."), ("a", "Then that.")), [], NAMES, "T", "names")
    long = article(said(("a", "First this."), ("a", "Then that."), rest=3), [], NAMES, "T", "names")
    assert "First this. Then that." in short and "First this.\n\nThen that." in long


def test_nothing_said_is_told():
    with pytest.raises(Problem, match="no article to write"):
        article(said(("a", "[laughter] um")), [], NAMES, "T", "names")


@given(st.text(st.characters(categories=("L", "N", "P", "S", "Zs"), max_codepoint=0x2FF), min_size=1, max_size=40))
def test_whatever_is_said_stands_in_markdown_as_it_is(text):
    # Spaces at the edges and in a row are not read in Markdown, nor in speech.
    text = " ".join(text.split())
    tokens = MarkdownIt("commonmark", {"html": False}).parse(plain(text))
    assert "".join(each.content for token in tokens for each in token.children or ()) == text
