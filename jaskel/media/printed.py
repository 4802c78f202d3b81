"""A transcript to be printed: PDF with the time and the voice of each passage."""

from __future__ import annotations

from collections.abc import Callable, Iterable, Sequence
from dataclasses import dataclass
from io import BytesIO
from itertools import count
from pathlib import Path
from tempfile import TemporaryDirectory

from fpdf import FPDF

from jaskel.core.timebase import Ticks, clock
from jaskel.media.typefaces import sources_for

SIDE, TOP, TIMES = 20.0, 18.0, 24.0
"""Millimetres of margin at the sides and the top, and from the time to the text."""

TEXT, SMALL, TITLE = 10.5, 8.5, 18.0
"""Points."""

FAMILY = "literata"


@dataclass(frozen=True)
class PrintedPassage:
    """What one voice says from a time on; ``heading`` where a chapter begins with it."""

    at: Ticks
    voice: str
    text: str
    heading: str = ""


def write_transcript_pdf(
    path: Path, title: str, show: str, passages: Sequence[PrintedPassage], progress: Callable[[int], None] = lambda _: None
) -> None:
    """A4, with the number of each page; ``progress`` is told how many passages are written."""
    said = [title, show, "0123456789:/ ", *(f"{each.voice}{each.text}{each.heading}" for each in passages)]
    pdf = _Sheet()
    # Joining letters takes five times as long, so it is done for scripts that need it alone.
    pdf.set_text_shaping(any(_joined(letter) for text in said for letter in text))
    with TemporaryDirectory(dir=path.parent) as folder:
        _set_fonts(pdf, Path(folder), said)
        pdf.set_title(title)
        pdf.set_author(show)
        pdf.add_page()
        pdf.set_font("text", "B", TITLE)
        pdf.multi_cell(0, 9, title, align="L", new_x="LMARGIN", new_y="NEXT")
        pdf.set_font("text", "", TEXT)
        pdf.set_text_color(90)
        pdf.multi_cell(0, 6, show, align="L", new_x="LMARGIN", new_y="NEXT")
        last = ""
        for number, passage in enumerate(passages):
            if passage.heading:
                pdf.ln(4)
                pdf.set_text_color(0)
                pdf.set_font("text", "B", 13)
                pdf.multi_cell(0, 7, passage.heading, align="L", new_x="LMARGIN", new_y="NEXT")
                last = ""
            pdf.passage(passage, named=passage.voice != last)
            last = passage.voice
            progress(number + 1)
        pdf.output(str(path))


class _Sheet(FPDF):
    def __init__(self) -> None:
        super().__init__(format="A4")
        self.set_margins(SIDE, TOP, SIDE)
        self.set_auto_page_break(True, 20)

    def footer(self) -> None:
        self.set_y(-14)
        self.set_font("text", "", SMALL)
        self.set_text_color(110)
        self.cell(0, 6, f"{self.page_no()} / {{nb}}", align="R")

    def passage(self, passage: PrintedPassage, *, named: bool) -> None:
        """A passage beside its time; one that begins at the foot of a page takes its first lines along."""
        if self.will_page_break(14):
            self.add_page()
        self.ln(2.5)
        top = self.get_y()
        self.set_text_color(110)
        self.set_font("text", "", SMALL)
        self.cell(TIMES, 5.4, clock(passage.at))
        self.set_left_margin(SIDE + TIMES)
        self.set_xy(SIDE + TIMES, top)
        self.set_text_color(0)
        if named and passage.voice:
            self.set_font("text", "B", TEXT)
            self.multi_cell(0, 5.4, passage.voice, align="L", new_x="LMARGIN", new_y="NEXT")
        self.set_font("text", "", TEXT)
        self.multi_cell(0, 5.4, passage.text, align="L", new_x="LMARGIN", new_y="NEXT")
        self.set_left_margin(SIDE)
        self.set_x(SIDE)


def _joined(letter: str) -> bool:
    """Whether letters of its script change beside one another: from Hebrew to Tibetan, and from Burmese to Mongolian."""
    return "\u0590" <= letter <= "\u109f" or "\u1700" <= letter <= "\u18af"


def _set_fonts(pdf: FPDF, folder: Path, said: Iterable[str]) -> None:
    """Give a document the fonts that have the letters of some texts; each is embedded with those letters only."""
    number = count()
    letters = {letter for text in said for letter in text}
    spare: list[str] = []
    for place, source in enumerate(sources_for(letters, FAMILY)):
        family = "text" if place == 0 else f"spare{place}"
        for style, weight in (("", 400), ("B", 700)):
            file = folder / f"{next(number)}.ttf"
            file.write_bytes(_of_weight(source, weight))
            pdf.add_font(family, style, str(file))
        if place:
            spare.append(family)
    pdf.set_fallback_fonts(spare, exact_match=False)


def _of_weight(source: Path, weight: int) -> bytes:
    """A font of one weight, made of one that has many."""
    from fontTools.ttLib import TTFont  # type: ignore[import-untyped]
    from fontTools.varLib.instancer import instantiateVariableFont  # type: ignore[import-untyped]

    with TTFont(source) as font:
        if "fvar" in font:
            axis = next(each for each in font["fvar"].axes if each.axisTag == "wght")
            others = {each.axisTag: each.defaultValue for each in font["fvar"].axes if each.axisTag != "wght"}
            at = min(max(weight, axis.minValue), axis.maxValue)
            font = instantiateVariableFont(font, {**others, "wght": at}, inplace=True)
        font.flavor = None
        out = BytesIO()
        font.save(out)
        return out.getvalue()
