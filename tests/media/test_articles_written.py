"""Articles and printed transcripts as files, read back by other libraries."""

from __future__ import annotations

import re

from docx import Document
from lxml import html
from pypdf import PdfReader

from jaskel.core.timebase import RATE
from jaskel.media.articles import (
    blocks,
    write_docx_article,
    write_html_article,
    write_markdown_article,
    write_text_article,
)
from jaskel.media.printed import PrintedPassage, write_transcript_pdf

ARTICLE = """# The dry hull

## Dry planks

**Orla Venn:** Why does a hull dry out?

> **Tam:** Because the *planks* shrink.
>
> They shrink every summer.

- water
- patience

<script>alert(1)</script>
"""


def test_word_has_headings_quotations_and_bold_names(tmp_path):
    write_docx_article(tmp_path / "a.docx", ARTICLE, "Tidelines")
    document = Document(str(tmp_path / "a.docx"))
    told = [(each.style.name, each.text) for each in document.paragraphs]
    assert told[:3] == [
        ("Heading 1", "The dry hull"),
        ("Heading 2", "Dry planks"),
        ("Normal", "Orla Venn: Why does a hull dry out?"),
    ]
    assert told[3:5] == [("Quote", "Tam: Because the planks shrink."), ("Quote", "They shrink every summer.")]
    assert [each[0] for each in told[5:7]] == ["List Bullet"] * 2
    bold = [run.text for run in document.paragraphs[2].runs if run.bold]
    assert bold == ["Orla Venn:"] and document.core_properties.title == "The dry hull"


def test_a_web_page_stands_alone_and_runs_nothing(tmp_path):
    write_html_article(tmp_path / "a.html", ARTICLE, "en")
    text = (tmp_path / "a.html").read_text()
    page = html.fromstring(text)
    assert page.get("lang") == "en" and page.findtext(".//title") == "The dry hull"
    assert [each.text for each in page.iter("h1", "h2")] == ["The dry hull", "Dry planks"]
    assert not [*page.iter("script", "link", "img")] and "http" not in re.sub(r"<style>.*</style>", "", text, flags=re.S)
    assert "<script>" not in text


def test_markdown_and_plain_text_say_the_same(tmp_path):
    write_markdown_article(tmp_path / "a.md", ARTICLE)
    write_text_article(tmp_path / "a.txt", ARTICLE)
    assert blocks((tmp_path / "a.md").read_text()) == blocks(ARTICLE)
    lines = (tmp_path / "a.txt").read_text().split("\n\n")
    assert lines[0] == "The dry hull\n============" and "  Tam: Because the planks shrink." in lines and "- water" in lines
    assert "*" not in "".join(lines)


def test_a_printed_transcript_has_times_voices_and_every_page_its_number(tmp_path):
    passages = [
        PrintedPassage(60 * RATE * at, ("Orla Venn", "Žofie Říhová")[at % 2], "A dry hull leaks. " * 30) for at in range(40)
    ]
    passages[3] = PrintedPassage(180 * RATE, "Žofie Říhová", "Привет, γειά σου.", "Dry planks")
    seen = []
    write_transcript_pdf(tmp_path / "t.pdf", "The dry hull", "Tidelines", passages, seen.append)
    document = PdfReader(tmp_path / "t.pdf")
    pages = [page.extract_text() for page in document.pages]
    assert len(pages) > 5 and seen == [*range(1, 41)] and document.metadata.title == "The dry hull"
    assert all(f"{number} / {len(pages)}" in page for number, page in enumerate(pages, 1))
    text = "\n".join(pages)
    assert text.count("A dry hull leaks.") > 39 * 20 and "39:00" in text
    assert "Žofie Říhová" in pages[0] and "Привет, γειά σου." in text and "Dry planks" in text
