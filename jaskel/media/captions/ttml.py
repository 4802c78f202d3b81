"""Captions as TTML: the text profile of IMSC 1.1, and SMPTE-TT with the timecode of a frame rate; both by ttconv."""

from __future__ import annotations

from collections.abc import Iterable
from fractions import Fraction
from pathlib import Path
from xml.etree.ElementTree import Element, SubElement

from ttconv import model
from ttconv import style_properties as style
from ttconv.imsc import writer

from jaskel.core.captions.cues import Cue
from jaskel.core.timebase import RATE
from jaskel.media.captions.about import About
from jaskel.media.captions.rates import FrameRate

IMSC_TEXT = "http://www.w3.org/ns/ttml/profile/imsc1.1/text"
"""The text profile of IMSC 1.1."""

SMPTE_TT = "http://www.smpte-ra.org/schemas/2052-1/2010/profiles/smpte-tt-full"
"""SMPTE ST 2052-1."""

TT, PARAMETER = "{http://www.w3.org/ns/ttml}", "{http://www.w3.org/ns/ttml#parameter}"
METADATA = "{http://www.w3.org/ns/ttml#metadata}"

ACROSS = {"left": style.TextAlignType.start, "centre": style.TextAlignType.center, "right": style.TextAlignType.end}
DOWN = {"top": style.DisplayAlignType.before, "middle": style.DisplayAlignType.center, "bottom": style.DisplayAlignType.after}

Timed = tuple[Fraction, Fraction, tuple[str, ...]]


def document_of(
    captions: Iterable[Timed], language: str, places: Iterable[tuple[str, str]] = (), colours: Iterable[str | None] = ()
) -> model.ContentDocument:
    """Captions (from, to, lines) as a document of ttconv: within the middle four fifths of the picture.

    ``places`` says across and down where each stands (else at the bottom), ``colours`` what colour each has.
    """
    document = model.ContentDocument()
    document.set_lang(language)
    body = model.Body(document)
    document.set_body(body)
    part = model.Div(document)
    body.push_child(part)
    regions: dict[tuple[str, str], model.Region] = {}
    where, tints = iter(places), iter(colours)
    for start, end, lines in captions:
        place = next(where, ("centre", "bottom"))
        if place not in regions:
            regions[place] = _region(document, *place)
        shown = model.P(document)
        shown.set_begin(start)
        shown.set_end(end)
        shown.set_region(regions[place])
        colour = next(tints, None)
        for number, line in enumerate(lines):
            if number:
                shown.push_child(model.Br(document))
            span = model.Span(document)
            if colour:
                parts = tuple(int(colour[at : at + 2], 16) for at in (1, 3, 5))
                span.set_style(style.StyleProperties.Color, style.ColorType((*parts, 255)))
            span.push_child(model.Text(document, line))
            shown.push_child(span)
        part.push_child(shown)
    return document


def _region(document: model.ContentDocument, across: str, down: str) -> model.Region:
    region = model.Region(f"{down}.{across}", document)
    percent = style.LengthType.Units.pct
    eighty, ten = style.LengthType(80, percent), style.LengthType(10, percent)
    region.set_style(style.StyleProperties.Extent, style.ExtentType(eighty, eighty))
    region.set_style(style.StyleProperties.Origin, style.CoordinateType(ten, ten))
    region.set_style(style.StyleProperties.DisplayAlign, DOWN[down])
    region.set_style(style.StyleProperties.TextAlign, ACROSS[across])
    document.put_region(region)
    return region


def _document(cues: Iterable[Cue], about: About) -> model.ContentDocument:
    known = [*cues]
    return document_of(
        [(Fraction(cue.start, RATE), Fraction(cue.end, RATE), cue.lines) for cue in known],
        about.language,
        [(cue.look.across, cue.look.down) for cue in known],
        [cue.look.tinted(cue.tint).colour if cue.tint is not None else None for cue in known],
    )


def write_imsc(path: Path, cues: Iterable[Cue], about: About) -> None:
    """The text profile of IMSC 1.1, with times of the media."""
    tree = writer.from_model(_document(cues, about))
    tree.getroot().set(PARAMETER + "contentProfiles", IMSC_TEXT)
    _say(tree.getroot(), about)
    tree.write(path, encoding="utf-8", xml_declaration=True)


def _say(root: Element, about: About) -> None:
    """Say what the file belongs to, and at which step of that it was written."""
    if not about.told:
        return
    head = root.find(TT + "head")
    if head is None:
        head = Element(TT + "head")
        root.insert(0, head)
    metadata = Element(TT + "metadata")
    SubElement(metadata, METADATA + "title").text = about.told
    head.insert(0, metadata)


def write_smpte(path: Path, cues: Iterable[Cue], about: About, rate: FrameRate) -> None:
    """SMPTE-TT, with the timecode of a frame rate."""
    known = [*cues]
    tree = writer.from_model(_document(known, about))
    root = tree.getroot()
    root.set(PARAMETER + "profile", SMPTE_TT)
    root.set(PARAMETER + "timeBase", "smpte")
    root.set(PARAMETER + "frameRate", str(rate.whole))
    multiplier = rate.rate / rate.whole
    root.set(PARAMETER + "frameRateMultiplier", f"{multiplier.numerator} {multiplier.denominator}")
    root.set(PARAMETER + "dropMode", "dropNTSC" if rate.drops else "nonDrop")
    root.set(PARAMETER + "clockMode", "local")
    root.set(PARAMETER + "markerMode", "discontinuous")
    _say(root, about)
    for shown, cue in zip(root.iter(TT + "p"), known, strict=True):
        start = rate.frame_at(cue.start)
        shown.set("begin", rate.timecode(start).replace(";", ":"))
        shown.set("end", rate.timecode(max(start + 1, rate.frame_at(cue.end))).replace(";", ":"))
    tree.write(path, encoding="utf-8", xml_declaration=True)
