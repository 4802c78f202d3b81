"""``jaskel captions``: captions of a recording, or of a transcript that was written before, in the form the ending says."""

from __future__ import annotations

import argparse
import json
from collections.abc import Callable
from pathlib import Path

from jaskel.core.captions.check import checked
from jaskel.core.captions.cues import cues
from jaskel.core.captions.rules import USUAL, Rules
from jaskel.core.captions.words import ProgrammeWord
from jaskel.core.problem import Problem
from jaskel.core.timebase import Ticks, from_seconds
from jaskel.core.transcript import Word
from jaskel.outputs import check_outputs, complete

ENDINGS = (".srt", ".vtt", ".ttml", ".xml", ".stl", ".scc", ".txt", ".json")


def add_arguments(parser: argparse.ArgumentParser) -> None:
    """What the command takes."""
    from jaskel.media.captions.rates import FRAME_RATES

    parser.add_argument("media", type=Path, help="a recording")
    parser.add_argument("--out", type=Path, required=True, help=f"file to write: {', '.join(ENDINGS)}")
    parser.add_argument("--chars", type=int, default=USUAL.characters, metavar="N", help="characters on a line")
    parser.add_argument("--lines", type=int, default=USUAL.lines, metavar="N", help="lines at once, 1 to 3")
    parser.add_argument("--rate", type=float, default=USUAL.rate, metavar="CPS", help="characters a second at most")
    parser.add_argument("--hold", action="store_true", help="let each stay until the next begins")
    parser.add_argument("--transcript", type=Path, help="JSON of `jaskel transcribe`: nothing is recognised again")
    parser.add_argument("--script", type=Path, help="a text of what was meant to be said; its words lead")
    told = "name voices where they change; so many of them (default: as many as are heard)"
    parser.add_argument("--voices", nargs="?", const="auto", metavar="auto|N", help=told)
    parser.add_argument("--fps", choices=[*FRAME_RATES], default="25", help="frames a second of forms with timecode")
    parser.add_argument("--language", default="auto", help="a code such as en or it (default: found from the sound)")
    parser.add_argument("--model", type=Path, help="folder with other recogniser weights (CTranslate2)")


Heard = Callable[[argparse.Namespace], tuple[list[Word], Ticks, str]]
"""Recognises what is said: words, the length of the recording, and its language."""


def run(options: argparse.Namespace, heard: Heard) -> int:
    """Carry out the command.

    Raises
    ------
    Problem
        When an option or a file is not understood.
    """
    from jaskel.media.captions.about import About
    from jaskel.media.captions.files import form_of
    from jaskel.media.captions.rates import FRAME_RATES

    inputs = [options.media, options.transcript, options.script]
    check_outputs([("--out", options.out, ENDINGS)], inputs)
    try:
        rules = Rules(
            options.chars, options.lines, rate=options.rate, hold=options.hold,
            names="when it changes" if options.voices is not None else "never",
        )  # fmt: skip
    except ValueError as error:
        raise Problem("rules", f"These rules cannot be kept: {error}.") from error
    if options.transcript:
        words, length, language = read_transcript(options.transcript)
    else:
        words, length, language = heard(options)
    placed = [ProgrammeWord(word, word.start, word.end) for word in words]
    names = {word.voice: word.voice for word in words if word.voice}
    made = cues(placed, length, rules, names)
    about = About(language, names, options.media.stem, rate=FRAME_RATES[options.fps])
    with complete(options.out) as (new,):
        form_of(options.out).write(new, made, about)
    faults = [*checked(made, rules)]
    print(f"{len(made)} captions" + (f", {len({each.cue for each in faults})} to look at" if faults else ""))
    return 0


def read_transcript(path: Path) -> tuple[list[Word], Ticks, str]:
    """The words of a transcript that ``jaskel transcribe`` wrote, the length of its recording, and its language.

    Raises
    ------
    Problem
        ``no-transcript``.
    """
    try:
        body = json.loads(path.read_text(encoding="utf-8"))
        length = from_seconds(float(body["duration"]))
        words = [
            Word(
                str(word["text"]), start := from_seconds(float(word["start"])),
                max(start + 1, from_seconds(float(word["end"]))), float(word.get("confidence", 1.0)), word.get("speaker"),
            )
            for word in [*body["words"], *({**each, "text": f"[{each['text']}]"} for each in body.get("sounds", []))]
        ]  # fmt: skip
    except (OSError, ValueError, KeyError, TypeError, UnicodeDecodeError) as error:
        if isinstance(error, OSError):
            raise
        raise Problem(
            "no-transcript", f"“{path.name}” is no transcript that `jaskel transcribe` wrote. Make it anew, or leave it out."
        ) from error
    return sorted(words, key=lambda word: word.start), length, str(body.get("language", "en"))
