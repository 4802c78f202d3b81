"""Captions as files: SubRip by pysubs2, TTML, SMPTE-TT and SCC by ttconv, and forms that no kept library writes."""

from __future__ import annotations

import json
from collections.abc import Callable, Sequence
from dataclasses import dataclass
from pathlib import Path

import pysubs2

from jaskel.core.captions.cues import Cue
from jaskel.core.problem import Problem
from jaskel.core.timebase import RATE, clock, to_seconds
from jaskel.media.captions import scc, stl, ttml
from jaskel.media.captions.about import About
from jaskel.media.captions.rates import FrameRate
from jaskel.media.captions.vtt import write_vtt

Write = Callable[[Path, Sequence[Cue], About], None]


def _srt(path: Path, cues: Sequence[Cue], _about: About) -> None:
    file = pysubs2.SSAFile()
    for cue in cues:
        # Round the start down and the end down too, so that cues that touch still touch and none overlap.
        file.append(pysubs2.SSAEvent(cue.start * 1000 // RATE, cue.end * 1000 // RATE, "\\N".join(cue.lines)))
    path.write_text(file.to_string("srt"), encoding="utf-8")


def _ttml(path: Path, cues: Sequence[Cue], about: About) -> None:
    ttml.write_imsc(path, cues, about)


def _smpte(path: Path, cues: Sequence[Cue], about: About) -> None:
    ttml.write_smpte(path, cues, about, about.rate)


def _stl(path: Path, cues: Sequence[Cue], about: About) -> None:
    stl.write_stl(path, cues, about, about.rate_in(stl.RATES))


def _scc(path: Path, cues: Sequence[Cue], about: About) -> None:
    rate = about.rate_in(scc.RATES)
    path.write_text(scc.written(_sent(cues, rate), rate, about.channel), encoding="ascii")


def _sent(cues: Sequence[Cue], rate: FrameRate) -> list[scc.Sent]:
    return scc.sent([(rate.frame_at(cue.start), rate.frame_at(cue.end), cue.lines) for cue in cues])


def _text(path: Path, cues: Sequence[Cue], _about: About) -> None:
    """Each caption after the time at which it begins."""
    path.write_text("".join(f"{clock(cue.start, 1)}  {cue.text}\n" for cue in cues), encoding="utf-8")


def _json(path: Path, cues: Sequence[Cue], about: About) -> None:
    """Everything: cues with their lines and voices, and every word with its times in seconds."""
    body = {
        "language": about.language,
        "title": about.title,
        "step": about.revision,
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


@dataclass(frozen=True)
class CaptionForm:
    """A form of caption files: its name, what more there is to know of it, the ending of its files, and what writes it."""

    label: str
    about: str
    ending: str
    write: Write


CAPTION_FORMS: dict[str, CaptionForm] = {
    "srt": CaptionForm("SubRip", "captions in programme time", "srt", _srt),
    "vtt": CaptionForm("WebVTT", "with voices, places and the times of words where they are wanted", "vtt", write_vtt),
    "ttml": CaptionForm("TTML", "the text profile of IMSC 1.1", "ttml", _ttml),
    "smpte": CaptionForm("SMPTE-TT", "with the timecode of a frame rate", "xml", _smpte),
    "stl": CaptionForm("EBU STL", "at 25 or 29.97 frames a second", "stl", _stl),
    "scc": CaptionForm("SCC", "captions of line 21 (CEA-608)", "scc", _scc),
    "timed": CaptionForm("Text with times", "each caption after its time", "txt", _text),
    "json": CaptionForm("JSON", "captions, voices, and every word with its times", "json", _json),
}
"""Every form, by its key."""

BY_ENDING = {form.ending: form for form in CAPTION_FORMS.values()}


def lost_in(form: str, cues: Sequence[Cue], about: About) -> list[str]:
    """What a form cannot hold of captions, each in a sentence; empty where it holds all of them."""
    told: list[str] = []
    letters = "".join(line for cue in cues for line in cue.lines)
    coloured = any(cue.tint is not None for cue in cues)
    placed = any((cue.look.across, cue.look.down) != ("centre", "bottom") or cue.look.x or cue.look.y for cue in cues)
    if coloured and form not in ("ttml", "smpte"):
        told.append("The colours of voices are not written.")
    if placed and form in ("srt", "scc", "timed", "json"):
        told.append("Captions stand at the bottom: their places are not written.")
    if placed and form == "vtt" and not about.placed:
        told.append("Places are not written unless you ask for them.")
    if form == "stl":
        rate = about.rate_in(stl.RATES)
        if rate != about.rate:
            told.append(f"It has no {about.rate.name} frames a second: it is written at {rate.name}.")
        if letters and (gone := stl.missing(letters, stl.table_for(letters))):
            told.append(f"It has no {_few(gone)}: they become “?”.")
    if form == "scc":
        told += _lost_in_scc(cues, about, letters)
    return told


def _lost_in_scc(cues: Sequence[Cue], about: About, letters: str) -> list[str]:
    told = []
    rate = about.rate_in(scc.RATES)
    if rate != about.rate:
        told.append(f"It has no {about.rate.name} frames a second: it is written at {rate.name}.")
    if changed := {letter for letter in letters if scc.plain(letter) != letter}:
        told.append(f"It has no {_few(changed)}: the nearest letters stand for them, or none.")
    wide = sum(any(len(scc.plain(line)) > scc.COLUMNS for line in cue.lines) for cue in cues)
    if wide:
        told.append(f"{_captions(wide)} broken anew: a row has {scc.COLUMNS} columns.")
    kept = [cue for cue in cues if scc.plain(cue.text).strip()]
    late = sum(sent.start > rate.frame_at(cue.start) + 1 for sent, cue in zip(_sent(kept, rate), kept, strict=True))
    if late:
        told.append(f"{_captions(late)} seen later than said: the line carries two letters a frame.")
    if len(kept) < len(cues):
        told.append(f"{_captions(len(cues) - len(kept))} left out: line 21 has none of their letters.")
    return told


def _captions(count: int) -> str:
    return "One caption is" if count == 1 else f"{count:,} captions are"


def _few(letters: set[str]) -> str:
    shown = sorted(letters)
    return " ".join(f"“{letter}”" for letter in shown[:8]) + (f" and {len(shown) - 8} more" if len(shown) > 8 else "")


def form_of(path: Path) -> CaptionForm:
    """The form that the ending of a file stands for.

    Raises
    ------
    Problem
        ``no-form``.
    """
    form = BY_ENDING.get(path.suffix.lower().lstrip("."))
    if form is None:
        raise Problem(
            "no-form", f"“{path.suffix}” is no form of captions. Take one of {', '.join(f'.{each}' for each in BY_ENDING)}."
        )
    return form
