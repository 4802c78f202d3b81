"""``jaskel outline``: what of a recording can be told again: chapters, highlights, clips, titles, a summary."""

from __future__ import annotations

import argparse
import json
from collections.abc import Sequence
from pathlib import Path

from jaskel.captions import Heard, read_transcript
from jaskel.core.problem import Problem
from jaskel.core.reuse.highlights import Highlight
from jaskel.core.reuse.outline import Outline, Wanted, outline
from jaskel.core.timebase import Ticks, from_seconds, to_seconds
from jaskel.outputs import check_inputs, check_outputs, complete

USUAL = "12.5%"


def add_arguments(parser: argparse.ArgumentParser) -> None:
    """What the command takes."""
    parser.add_argument("media", type=Path, help="a recording")
    parser.add_argument("--out", type=Path, required=True, help="JSON file to write")
    told = f"how long the highlights are together, in seconds or as a share of the recording (default: {USUAL})"
    parser.add_argument("--highlights", default=USUAL, metavar="SECONDS|PERCENT", help=told.replace("%", "%%"))
    parser.add_argument("--clips", type=int, default=3, metavar="N", help="how many clips of 15 to 60 s (default: 3)")
    parser.add_argument("--transcript", type=Path, help="JSON of `jaskel transcribe`: nothing is recognised again")
    parser.add_argument("--language", default="auto", help="a code such as en or it (default: found from the sound)")
    parser.add_argument("--model", type=Path, help="folder with other recogniser weights (CTranslate2)")


def run(options: argparse.Namespace, heard: Heard) -> int:
    """Carry out the command.

    Raises
    ------
    Problem
        When an option or a file is not understood, or too little is said.
    """
    from jaskel.speech.meaning import meanings_in

    check_inputs(options.media, options.transcript)
    check_outputs([("--out", options.out, (".json",))], [options.media, options.transcript])
    share = _wish(options.highlights)
    if options.clips < 0:
        raise Problem("clips", f"There cannot be {options.clips} clips. Ask for 0 or more.")
    words, length, language = read_transcript(options.transcript) if options.transcript else heard(options)
    wished = share if isinstance(share, int) else round(share * length)
    found = outline(words, meanings_in(language), Wanted(wished, options.clips))
    with complete(options.out) as (new,):
        new.write_text(json.dumps(_told(found), indent=1, ensure_ascii=False) + "\n", encoding="utf-8")
    print(f"{len(found.chapters)} chapters, {len(found.highlights)} highlights, {len(found.clips)} clips")
    return 0


def _wish(text: str) -> Ticks | float:
    """A length in ticks, or a share of the whole."""
    try:
        number = float(text.removesuffix("%"))
    except ValueError:
        number = -1.0
    if not 0 < number < float("inf") or (text.endswith("%") and number > 100):
        raise Problem("highlights", f"“{text}” is no length. Give seconds, such as 90, or a share, such as {USUAL}.")
    return number / 100 if text.endswith("%") else from_seconds(number)


def _told(found: Outline) -> dict[str, object]:
    return {
        "chapters": [
            {"start": to_seconds(each.start), "end": to_seconds(each.end), "title": each.title} for each in found.chapters
        ],
        "highlights": _stretches(found, found.highlights),
        "clips": _stretches(found, found.clips),
        "titles": [{"tone": tone, "title": title} for tone, title in found.titles],
        "summary": [_stretch(found, at, at + 1) for at in found.summary],
        "keywords": list(found.keywords),
        "names": list(found.names),
    }


def _stretches(found: Outline, chosen: Sequence[Highlight]) -> list[dict[str, object]]:
    return [_stretch(found, each.first, each.last) | {"why": each.why} for each in chosen]


def _stretch(found: Outline, first: int, last: int) -> dict[str, object]:
    said = found.sentences[first:last]
    text = " ".join(each.text for each in said)
    return {"start": to_seconds(said[0].start), "end": to_seconds(said[-1].end), "text": text}
