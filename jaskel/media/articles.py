"""Articles and printable transcripts as files: Markdown, HTML, Word, plain text and PDF.

An article is Markdown (CommonMark), see :mod:`jaskel.core.reuse.article`.
"""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from dataclasses import dataclass
from html import escape
from pathlib import Path
from typing import TYPE_CHECKING

from markdown_it import MarkdownIt
from markdown_it.token import Token

if TYPE_CHECKING:
    from docx.document import Document as Docx

_READ = MarkdownIt("commonmark", {"html": False})
"""Tags are shown as they are written: what a person pastes must not run in somebody's browser."""

STYLE = """
body { max-width: 42rem; margin: 3rem auto; padding: 0 1.25rem; color: #1d1d1b; background: #fff; }
body { font: 1.0625rem/1.6 Georgia, "Times New Roman", serif; }
h1, h2, h3 { line-height: 1.25; margin: 2em 0 .6em; } h1 { margin-top: 0; }
blockquote { margin: 1.2em 0; padding-left: 1rem; border-left: 3px solid #b9b4a7; }
@media (prefers-color-scheme: dark) { body { color: #e8e6e1; background: #1b1b1a; } }
"""


def as_html(article: str) -> str:
    """An article as the inside of a page."""
    return str(_READ.render(article))


def write_markdown_article(path: Path, article: str) -> None:
    """The article as it is edited."""
    path.write_text(article.strip() + "\n", encoding="utf-8")


def write_html_article(path: Path, article: str, language: str) -> None:
    """A page by itself, which fetches nothing."""
    title = next((each.text for each in blocks(article) if each.kind == "heading"), "Article")
    path.write_text(
        f'<!doctype html>\n<html lang="{escape(language)}">\n<head>\n<meta charset="utf-8">\n'
        '<meta name="viewport" content="width=device-width, initial-scale=1">\n'
        f"<title>{escape(title)}</title>\n<style>{STYLE}</style>\n</head>\n<body>\n<article>\n{as_html(article)}</article>\n</body>\n</html>\n",
        encoding="utf-8",
    )


def write_text_article(path: Path, article: str) -> None:
    """Plain text, a line between paragraphs; what is quoted is drawn in."""
    lines = []
    for block in blocks(article):
        text = ("  " if block.quoted else "") + ("- " if block.kind == "item" else "") + block.text
        lines.append(f"{text}\n{'=' * len(text)}" if block.kind == "heading" and block.level == 1 else text)
    path.write_text("\n\n".join(lines) + "\n", encoding="utf-8")


def write_docx_article(path: Path, article: str, show: str) -> None:
    """A document with the styles that word processors know: headings, body text, quotations."""
    from docx import Document

    document: Docx = Document()
    document.core_properties.author = show
    document.core_properties.comments = ""
    for block in blocks(article):
        if block.kind == "heading":
            document.add_heading(block.text, min(9, block.level))
            if block.level == 1 and not document.core_properties.title:
                document.core_properties.title = block.text[:255]
            continue
        style = "Quote" if block.quoted else "List Bullet" if block.kind == "item" else None
        paragraph = document.add_paragraph(style=style)
        for run in block.runs:
            made = paragraph.add_run(run.text)
            made.bold, made.italic = run.bold or None, run.italic or None
    document.save(str(path))


@dataclass(frozen=True)
class Run:
    """Letters that are set alike."""

    text: str
    bold: bool = False
    italic: bool = False


@dataclass(frozen=True)
class Block:
    """A heading (``level`` 1 to 6), a paragraph or an item of a list."""

    kind: str
    runs: tuple[Run, ...]
    level: int = 0
    quoted: bool = False

    @property
    def text(self) -> str:
        return "".join(run.text for run in self.runs)


def blocks(article: str) -> list[Block]:
    """The blocks of an article, those within lists and quotations one by one."""
    found: list[Block] = []
    quoted = items = 0
    kind, level = "paragraph", 0
    for token in _READ.parse(article):
        quoted += {"blockquote_open": 1, "blockquote_close": -1}.get(token.type, 0)
        items += {"list_item_open": 1, "list_item_close": -1}.get(token.type, 0)
        if token.type == "heading_open":
            kind, level = "heading", int(token.tag[1])
        elif token.type == "heading_close":
            kind, level = "paragraph", 0
        elif token.type == "inline":
            shown = "item" if items and kind == "paragraph" else kind
            found.append(Block(shown, tuple(_runs(token.children or ())), level, bool(quoted)))
        elif token.type in ("code_block", "fence"):
            found.append(Block("paragraph", (Run(token.content.rstrip()),), 0, bool(quoted)))
    return [block for block in found if block.text.strip()]


def _runs(tokens: Sequence[Token]) -> Iterator[Run]:
    bold = italic = 0
    for token in tokens:
        bold += {"strong_open": 1, "strong_close": -1}.get(token.type, 0)
        italic += {"em_open": 1, "em_close": -1}.get(token.type, 0)
        text = " " if token.type in ("softbreak", "hardbreak") else token.content
        if text:
            yield Run(text, bool(bold), bool(italic))
