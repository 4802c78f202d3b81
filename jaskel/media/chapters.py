"""Chapters as files: JSON as podcast players read it, WebVTT, and lines of text."""

from __future__ import annotations

import json
from collections.abc import Sequence
from fractions import Fraction
from pathlib import Path

from av.container import OutputContainer

from jaskel.core.chapters import ProgrammeChapter
from jaskel.core.timebase import RATE, clock, to_seconds
from jaskel.media.captions.vtt import clock as vtt_clock
from jaskel.media.captions.vtt import escaped


def put_into(out: OutputContainer, chapters: Sequence[ProgrammeChapter]) -> None:
    """Write chapters into a sound file or film, before anything is muxed: ID3 frames in MP3, a track of text in MP4."""
    base = Fraction(1, 1000)
    if chapters:
        out.set_chapters(
            [
                {
                    "id": number,
                    "start": each.begin * 1000 // RATE,
                    "end": each.end * 1000 // RATE,
                    "time_base": base,
                    "metadata": {"title": each.title},
                }
                for number, each in enumerate(chapters)
            ]
        )


def write_json(path: Path, chapters: Sequence[ProgrammeChapter]) -> None:
    """The JSON chapters format of Podcasting 2.0, version 1.2."""
    told = [
        {"startTime": to_seconds(each.begin), "endTime": to_seconds(each.end), "title": each.title}
        # Breaks are no part of what is listed, but whoever puts advertising in finds them.
        | ({"toc": False} if each.is_break else {})
        for each in chapters
    ]
    path.write_text(json.dumps({"version": "1.2.0", "chapters": told}, indent=1, ensure_ascii=False) + "\n", encoding="utf-8")


def write_vtt(path: Path, chapters: Sequence[ProgrammeChapter]) -> None:
    """WebVTT with a cue for each chapter, for a track of the kind ``chapters``."""
    cues = (f"{vtt_clock(each.begin)} --> {vtt_clock(each.end)}\n{escaped(each.title)}\n" for each in chapters)
    path.write_text("\n".join(["WEBVTT\n", *cues]), encoding="utf-8")


def write_lines(path: Path, chapters: Sequence[ProgrammeChapter]) -> None:
    """A line for each chapter: when it begins, and its title."""
    path.write_text("".join(f"{clock(each.begin)} {each.title}\n" for each in chapters), encoding="utf-8")
