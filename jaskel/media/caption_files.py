"""Captions as files: SubRip and WebVTT by pysubs2, TTML (the text profile of IMSC 1.1) by ttconv, plain text and JSON."""

from __future__ import annotations

import json
from collections.abc import Callable, Mapping, Sequence
from dataclasses import dataclass, field
from fractions import Fraction
from pathlib import Path

import pysubs2

from jaskel.core.captions.cues import Cue
from jaskel.core.timebase import RATE, clock, to_seconds


@dataclass(frozen=True)
class About:
    """What a file says besides its cues: the language (BCP 47), the names of voices, what it belongs to."""

    language: str = "en"
    voices: Mapping[str, str] = field(default_factory=dict)
    title: str = ""


Write = Callable[[Path, Sequence[Cue], About], None]


def _subtitles(form: str) -> Write:
    def write(path: Path, cues: Sequence[Cue], _about: About) -> None:
        file = pysubs2.SSAFile()
        for cue in cues:
            # Round the start down and the end down too, so that cues that touch still touch and none overlap.
            file.append(pysubs2.SSAEvent(cue.start * 1000 // RATE, cue.end * 1000 // RATE, "\\N".join(cue.lines)))
        path.write_text(file.to_string(form), encoding="utf-8")

    return write


def _ttml(path: Path, cues: Sequence[Cue], about: About) -> None:
    """Lines centred at the bottom, within the middle four fifths of the picture."""
    from ttconv import model
    from ttconv import style_properties as style
    from ttconv.imsc import writer

    document = model.ContentDocument()
    document.set_lang(about.language)
    region = model.Region("bottom", document)
    percent = style.LengthType.Units.pct
    eighty, ten = style.LengthType(80, percent), style.LengthType(10, percent)
    region.set_style(style.StyleProperties.Extent, style.ExtentType(eighty, eighty))
    region.set_style(style.StyleProperties.Origin, style.CoordinateType(ten, ten))
    region.set_style(style.StyleProperties.DisplayAlign, style.DisplayAlignType.after)
    region.set_style(style.StyleProperties.TextAlign, style.TextAlignType.center)
    document.put_region(region)
    body, part = model.Body(document), model.Div(document)
    body.set_region(region)
    document.set_body(body)
    body.push_child(part)
    for cue in cues:
        shown = model.P(document)
        shown.set_begin(Fraction(cue.start, RATE))
        shown.set_end(Fraction(cue.end, RATE))
        for number, line in enumerate(cue.lines):
            if number:
                shown.push_child(model.Br(document))
            span = model.Span(document)
            span.push_child(model.Text(document, line))
            shown.push_child(span)
        part.push_child(shown)
    tree = writer.from_model(document)
    tree.getroot().set("{http://www.w3.org/ns/ttml#parameter}contentProfiles", IMSC_TEXT)
    tree.write(path, encoding="utf-8", xml_declaration=True)


IMSC_TEXT = "http://www.w3.org/ns/ttml/profile/imsc1.1/text"
"""The text profile of IMSC 1.1."""


def _text(path: Path, cues: Sequence[Cue], _about: About) -> None:
    """Each caption after the time at which it begins."""
    path.write_text("".join(f"{clock(cue.start, 1)}  {cue.text}\n" for cue in cues), encoding="utf-8")


def _json(path: Path, cues: Sequence[Cue], about: About) -> None:
    """Everything: cues with their lines and voices, and every word with its times in seconds."""
    body = {
        "language": about.language,
        "title": about.title,
        "cues": [
            {
                "start": round(to_seconds(cue.start), 4),
                "end": round(to_seconds(cue.end), 4),
                "lines": [*cue.lines],
                "voice": about.voices.get(cue.voice or "", cue.voice),
                "words": [
                    {"text": item.word.text, "start": round(to_seconds(item.start), 4), "end": round(to_seconds(item.end), 4)}
                    for item in cue.words
                ],
            }
            for cue in cues
        ],
    }
    path.write_text(json.dumps(body, ensure_ascii=False, indent=1) + "\n", encoding="utf-8")


WRITERS: dict[str, Write] = {
    "srt": _subtitles("srt"),
    "vtt": _subtitles("vtt"),
    "ttml": _ttml,
    "txt": _text,
    "json": _json,
}
"""What writes captions, by the ending of the file."""
