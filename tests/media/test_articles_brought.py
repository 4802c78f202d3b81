"""Articles that are brought, in every form, and those that are none."""

from __future__ import annotations

from io import BytesIO
from zipfile import ZIP_DEFLATED, ZipFile

import pytest
from docx import Document

from jaskel.core.problem import Problem
from jaskel.media.article_files import paragraphs_of, read_article
from jaskel.media.articles import write_docx_article, write_html_article

ARTICLE = "# The dry hull\n\nA hull dries out. It leaks.\n\n## What helps\n\nWater, and patience.\n"


def told(content: bytes, name: str) -> list[tuple[bool, str]]:
    return [(each.heading, each.text) for each in paragraphs_of(read_article(content, name))]


WHOLE = [(True, "The dry hull"), (False, "A hull dries out. It leaks."), (True, "What helps"), (False, "Water, and patience.")]


def test_what_goes_out_comes_back(tmp_path):
    write_docx_article(tmp_path / "a.docx", ARTICLE, "Tidelines")
    write_html_article(tmp_path / "a.html", ARTICLE, "en")
    assert told((tmp_path / "a.docx").read_bytes(), "a.docx") == WHOLE
    assert told((tmp_path / "a.html").read_bytes(), "a.html") == WHOLE
    assert told(ARTICLE.encode(), "a.md") == WHOLE


def test_of_a_page_the_article_is_read_and_nothing_around_it():
    page = b"""<!DOCTYPE html><html><head><title>x</title><style>p{}</style></head><body><nav><p>Menu</p></nav>
    <article><h2>One &amp; two</h2><script>alert(1)</script><p>First <b>bold</b>\n text.</p>
    <ul><li>An item</li><li><p>Deeper</p></li></ul>
    <blockquote><p>Quoted *stars*</p></blockquote><!-- no --></article><footer><p>Imprint</p></footer></body></html>"""
    assert told(page, "p.html") == [
        (True, "One & two"),
        (False, "First bold text."),
        (False, "An item"),
        (False, "Deeper"),
        (False, "Quoted *stars*"),
    ]


def test_a_page_without_paragraphs_has_lines():
    assert told(b"<html><body>First line<br>goes on\nSecond line</body></html>", "p.html")[0][1].startswith("First line")


def test_other_encodings_and_line_ends_are_read():
    assert told("Ein Bäcker.\r\n\r\nZwei Brötchen.".encode("cp1252"), "t.txt") == [
        (False, "Ein Bäcker."),
        (False, "Zwei Brötchen."),
    ]


def _bomb() -> bytes:
    held = BytesIO()
    with ZipFile(held, "w", ZIP_DEFLATED) as out:
        out.writestr("word/document.xml", b"\0" * 120_000_000)
    return held.getvalue()


def _empty() -> bytes:
    held = BytesIO()
    Document().save(held)
    return held.getvalue()


@pytest.mark.parametrize(
    ("content", "name", "code"),
    [
        (b"", "empty.txt", "nothing-written"),
        (b"# Only a heading\n", "heading.md", "nothing-written"),
        (b"<html><body><script>x</script></body></html>", "bare.html", "nothing-written"),
        (_empty(), "empty.docx", "nothing-written"),
        (b"PK\x03\x04 not a zip", "broken.docx", "no-document"),
        (b"\x89PNG\r\n\x1a\n\0\0\0\rIHDR\0\0", "picture.png", "not-text"),
        (b"a" * 20_000_001, "long.txt", "too-long"),
    ],
)
def test_what_cannot_be_read_is_told(content, name, code):
    with pytest.raises(Problem) as problem:
        read_article(content, name)
    assert problem.value.code == code and name in problem.value.sentence


def test_a_document_that_is_far_larger_inside_is_refused():
    with pytest.raises(Problem, match="far larger inside"):
        read_article(_bomb(), "bomb.docx")


def test_a_zip_that_is_no_document_is_refused():
    held = BytesIO()
    with ZipFile(held, "w") as out:
        out.writestr("a.txt", "hello")
    with pytest.raises(Problem, match="no Word document"):
        read_article(held.getvalue(), "a.zip")
