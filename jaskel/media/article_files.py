"""Reading an article that was brought: plain text, Markdown, HTML or a Word document; as Markdown."""

from __future__ import annotations

import re
from collections.abc import Iterator
from io import BytesIO
from zipfile import BadZipFile, ZipFile

from jaskel.core.problem import Problem
from jaskel.core.reuse.article import plain
from jaskel.core.reuse.told import Paragraph
from jaskel.media.articles import blocks
from jaskel.media.text_files import decoded

LARGEST = 20_000_000
"""Bytes of a file; a book in a Word document with pictures is smaller."""

LARGEST_INSIDE = 100_000_000
"""Bytes of what a document holds, unpacked."""

_HTML = re.compile(r"<(!doctype html|html|head|body|article|main|div|p|h[1-6])\b", re.IGNORECASE)


def read_article(content: bytes, name: str) -> str:
    """An article as Markdown; headings and paragraphs are kept, pictures and tables are not.

    Raises
    ------
    Problem
        ``too-long``, ``not-text``, ``no-document`` or ``nothing-written``.
    """
    if len(content) > LARGEST:
        raise Problem("too-long", f"“{name}” has more than {LARGEST // 1_000_000} MB. Save its text alone, and bring that.")
    if content.startswith(b"PK"):
        text = _from_word(content, name)
    else:
        text = decoded(content, name)
        if _HTML.search(text[:4000]):
            text = _from_html(text, name)
    if not any(not each.heading and each.text for each in paragraphs_of(text)):
        raise Problem("nothing-written", f"There is no text in “{name}”. Choose another file.")
    return text.strip() + "\n"


def paragraphs_of(text: str) -> list[Paragraph]:
    """The paragraphs and headings of a text in Markdown."""
    return [Paragraph(each.text, each.kind == "heading") for each in blocks(text)]


def _from_word(content: bytes, name: str) -> str:
    from docx import Document
    from docx.opc.exceptions import PackageNotFoundError

    try:
        with ZipFile(BytesIO(content)) as parts:
            if sum(part.file_size for part in parts.infolist()) > LARGEST_INSIDE:
                raise Problem("too-long", f"“{name}” is far larger inside than it looks. Save its text alone, and bring that.")
        document = Document(BytesIO(content))
    except (BadZipFile, PackageNotFoundError, KeyError, ValueError, SyntaxError, EOFError) as error:
        raise Problem(
            "no-document", f"“{name}” is no Word document that can be read. Save it anew as DOCX, HTML or text, and bring that."
        ) from error
    return "\n\n".join(_of_word(document.paragraphs))


def _of_word(paragraphs: object) -> Iterator[str]:
    for each in paragraphs:  # type: ignore[attr-defined]
        text = " ".join(each.text.split())
        style = (each.style.name or "") if each.style is not None else ""
        if not text:
            continue
        if style == "Title":
            yield f"# {plain(text)}"
        elif found := re.fullmatch(r"Heading (\d)", style):
            yield f"{'#' * min(6, int(found[1]))} {plain(text)}"
        else:
            yield plain(text)


_HEADINGS = ("h1", "h2", "h3", "h4", "h5", "h6")
_READ = {*_HEADINGS, "p", "li", "blockquote", "dd", "figcaption"}
_UNREAD = ("script", "style", "noscript", "template", "nav", "header", "footer", "aside", "form", "svg", "table")


def _from_html(text: str, name: str) -> str:
    from lxml import etree, html

    try:
        page = html.document_fromstring(re.sub(r"<\?xml[^>]*\?>", "", text))
    except (etree.ParserError, ValueError) as error:
        raise Problem("nothing-written", f"There is no text in “{name}”. Choose another file.") from error
    inside = next((found[0] for tag in ("article", "main", "body") if (found := page.findall(f".//{tag}"))), page)
    for each in [*inside.iter(*_UNREAD, etree.Comment, etree.ProcessingInstruction)]:
        if each is not inside:
            each.drop_tree()
    parts = [*_of_html(inside)]
    # A page without paragraphs has its lines.
    return "\n\n".join(parts or [plain(" ".join(line.split())) for line in inside.text_content().split("\n") if line.strip()])


def _of_html(inside: object) -> Iterator[str]:
    for each in inside.iter(*_READ):  # type: ignore[attr-defined]
        # What holds paragraphs of its own is told by them.
        if any(child.tag in _READ for child in each.iterdescendants()):
            continue
        text = " ".join(each.text_content().split())
        if text:
            yield f"{'#' * int(each.tag[1])} {plain(text)}" if each.tag in _HEADINGS else plain(text)
