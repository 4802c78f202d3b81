"""``jaskel roughcut``: a recording tidied in one go, for who trusts it; with a report of everything that was taken out."""

from __future__ import annotations

import argparse
import json
import sys
from collections.abc import Sequence
from dataclasses import dataclass
from functools import partial
from itertools import pairwise
from pathlib import Path
from typing import TYPE_CHECKING

from jaskel.core.edition import Edition, Piece
from jaskel.core.marks.anchor import Meeting
from jaskel.core.marks.splice import Splice, set_splices
from jaskel.core.operations import SetMarks, Strike, apply
from jaskel.core.plan import Feed, Material, Plan, compile_plan
from jaskel.core.problem import Problem
from jaskel.core.session import Picture, Session, Track
from jaskel.core.source import Recorded
from jaskel.core.tidy.cut import ranges_of
from jaskel.core.tidy.fillers import FILLERS
from jaskel.core.tidy.find import find
from jaskel.core.tidy.finding import Finding, Kind
from jaskel.core.tidy.heard import NOTHING, Heard, strung
from jaskel.core.tidy.settings import Threshold, TidySettings
from jaskel.core.timebase import Ticks, clock, from_seconds, to_seconds
from jaskel.core.transcript import Transcript, Word
from jaskel.outputs import check_inputs, check_outputs, complete

if TYPE_CHECKING:
    from jaskel.media.probe import MediaInfo
    from jaskel.media.sound import Shelf
    from jaskel.speech.recognise import Recogniser
    from jaskel.speech.transcribe import Sound16k

PROGRAMME, CAPTIONS, TRANSCRIPT = (".wav", ".mp3", ".mp4"), (".srt", ".vtt"), (".txt",)
TIMELINE = (".otio", ".edl", ".aaf")
NAME = "recording"
SOURCE = Recorded(NAME)


def add_arguments(parser: argparse.ArgumentParser) -> None:
    """What the command takes."""
    parser.add_argument("media", type=Path)
    parser.add_argument("--out", type=Path, required=True, help="file to write: .wav, .mp3 or .mp4")
    parser.add_argument("--fillers", metavar="um,uh | all", help="which fillers go; all: also those that were not recognised")
    parser.add_argument("--rests", metavar="LONGER:BECOMES", help="rests longer than so many seconds become so long")
    parser.add_argument("--retakes", action="store_true", help="take out attempts that were given up")
    parser.add_argument("--script", type=Path, help="a text of what was meant to be said; its words lead")
    parser.add_argument("--captions", type=Path, help="captions of the result: .srt or .vtt")
    parser.add_argument("--transcript", type=Path, help="transcript of the result: .txt")
    parser.add_argument("--timeline", type=Path, help="timeline of the result for finishing elsewhere: .otio, .edl or .aaf")
    parser.add_argument("--report", type=Path, help="JSON file with everything that was found")
    parser.add_argument("--language", default="auto", help="a code such as en or it (default: found from the sound)")
    parser.add_argument("--model", type=Path, help="folder with other recogniser weights (CTranslate2)")


def run(options: argparse.Namespace) -> int:
    """Carry out the command.

    Raises
    ------
    Problem
        When an option is not understood, or the recording cannot be read.
    """
    import tempfile

    from jaskel.media.conform import conform
    from jaskel.media.probe import probe, require_sound
    from jaskel.media.sound import Shelf
    from jaskel.settings import Settings
    from jaskel.speech.language import AUTO, spoken_in
    from jaskel.speech.weights import recogniser_for

    inputs = options.media, options.script
    outputs = options.out, options.captions, options.transcript, options.timeline, options.report
    check_inputs(*inputs)
    names = (
        ("--out", PROGRAMME),
        ("--captions", CAPTIONS),
        ("--transcript", TRANSCRIPT),
        ("--timeline", TIMELINE),
        ("--report", ()),
    )
    check_outputs([(name, path, endings) for (name, endings), path in zip(names, outputs, strict=True)], inputs)
    rests = _rests(options.rests) if options.rests else None
    script = _script(options.script) if options.script else []
    own = options.model or Settings.from_environment().model
    with tempfile.TemporaryDirectory(prefix="jaskel-") as folder:
        sound = Path(folder) / "sound.flac"
        info = require_sound(probe(options.media, options.media.name), options.media.name)
        length = conform(options.media, info, sound, Path(folder) / "peaks.bin").length
        shelf = Shelf(lambda _: sound)
        listen = partial(shelf.mono_16k, NAME)
        language = spoken_in(listen, length, own=own).language if options.language == AUTO else options.language
        words, shown = _words(recogniser_for(language, own), language, script, listen, length)
        heard = _heard(shelf, length) if options.fillers or rests else NOTHING
        findings = findings_of(words, heard, options.fillers, rests, retaken=options.retakes, script=script)
        edition = cut(findings, words, heard, shelf, length)
        plan = compile_plan(edition, _material(info, length, shown))
        if not plan.length:
            raise Problem("nothing-kept", "Nothing would be left of this recording.")
        with complete(*outputs) as written:
            given = iter(written)
            new = Written(*(next(given) if path else None for path in outputs))
            _write(options, new, plan, shelf)
            if new.report:
                _report(new.report, findings, length, plan.length)
        shelf.close()
    print(f"{clock(length)} became {clock(plan.length)}: {len(findings)} findings", file=sys.stderr)
    return 0


def _material(info: MediaInfo, length: Ticks, words: Sequence[Word]) -> Material:
    """The one recording there is, with what is seen and said in it."""
    shown = info.picture
    picture = Picture(shown.width, shown.height, shown.frame_rate) if shown else None
    return Material({NAME: Session((Track(NAME, length, picture=picture),))}, {NAME: Transcript(length, tuple(words))})


@dataclass(frozen=True)
class Written:
    """Where the outputs are written until all of them are complete; None for those that were not asked for."""

    out: Path | None
    captions: Path | None
    transcript: Path | None
    timeline: Path | None
    report: Path | None


def _rests(text: str) -> Threshold:
    try:
        longer, becomes = (from_seconds(float(part)) for part in text.split(":"))
    except (ValueError, OverflowError) as error:
        raise Problem("rests", "--rests takes two numbers of seconds, such as 1.0:0.5.") from error
    if not 0 <= becomes <= longer:
        raise Problem("rests", "With --rests LONGER:BECOMES, rests cannot become longer than those that are shortened.")
    return Threshold(longer, becomes)


def _script(path: Path) -> list[str]:
    from jaskel.media.text_files import read_text

    return [word.text for word in read_text(path.read_bytes(), path.name).words]


def _words(
    recogniser: Recogniser, language: str, script: Sequence[str], sound: Sound16k, length: Ticks
) -> tuple[Sequence[Word], Sequence[Word]]:
    """The words as they were recognised, and as the script has them where there is one.

    Findings are looked for in the first: what is said twice is misheard alike, but only one of the two stands in the script.
    """
    from jaskel.speech.script import fit_text, transcript_of
    from jaskel.speech.transcribe import check_language, transcribe

    words: list[Word] = []
    for part in transcribe(sound, length, recogniser, language):
        words += part.words
        print(f"\r{clock(part.end)} of {clock(length)}", end="", file=sys.stderr, flush=True)
    print(file=sys.stderr)
    check_language(words, language)
    if not script:
        return words, words
    spoken = [word for word in words if not word.is_sound]
    fitted = fit_text(sound, length, script, recogniser, language, known=spoken)
    return words, transcript_of(fitted, length).words


def findings_of(
    words: Sequence[Word],
    heard: Heard,
    wanted: str | None,
    rests: Threshold | None,
    *,
    retaken: bool,
    script: Sequence[str] = (),
) -> list[Finding]:
    """What was asked for, in order of time. What lies within an attempt that goes is not listed by itself.

    Of several takes the one nearest to the ``script`` stays.
    """
    kinds: set[Kind] = set()
    fillers = FILLERS
    if wanted == "all":
        kinds |= {"filler", "doubled", "voice without words"}
    elif wanted:
        kinds.add("filler")
        fillers = frozenset(each.strip().casefold() for each in wanted.split(",") if each.strip())
    if retaken:
        kinds.add("retake")
    if rests:
        kinds.add("long rest")
    return find(words, heard, TidySettings(fillers=fillers, rests=rests), kinds, script=script)


def _heard(shelf: Shelf, length: Ticks) -> Heard:
    from jaskel.speech.activity import hear

    return strung(hear(lambda a, b: shelf.mono_16k(NAME, a, b), length))


def cut(findings: Sequence[Finding], words: Sequence[Word], heard: Heard, shelf: Shelf, length: Ticks) -> Edition:
    """The edition with findings taken out, its splices settled."""
    from jaskel.media.joins import best_join

    edition = Edition.of([Piece(SOURCE, 0, length)])
    ranges = ranges_of(findings, words, heard)
    if not ranges:
        return edition
    edition = apply(edition, Strike(ranges, "roughcut"))[0]
    settled = []
    for before, after in pairwise(edition.kept_runs):
        taken_out = after.start - before.end
        join = best_join(
            lambda _, a, b: shelf.read(Feed(NAME), a, b), SOURCE, before.end, SOURCE, after.start, edition.crossfade, taken_out
        )
        splice = Splice(join.crossfade, before=join.before, after=join.after, settled=True)
        settled.append((Meeting(SOURCE, before.end, SOURCE, after.start), splice))
    return apply(edition, SetMarks.of(set_splices(edition.marks, settled)))[0] if settled else edition


def _write(options: argparse.Namespace, new: Written, plan: Plan, shelf: Shelf) -> None:
    """The programme, and its captions and transcript where they were asked for, each in the form its ending says."""
    from jaskel.media.forms import FORMS, Making
    from jaskel.media.graphics import Artist
    from jaskel.media.render import Tags

    title = options.out.stem
    making = Making(plan, shelf.read, lambda _: options.media, Artist(title, ""), Tags(title, title, title), {})
    wanted = (options.out, new.out), (options.captions, new.captions), (options.transcript, new.transcript)
    for named, path in wanted:
        if path:
            FORMS[named.suffix.lower().lstrip(".")].write(path, making)
    if new.timeline:
        _timeline(options, new.timeline, plan)


def _timeline(options: argparse.Namespace, path: Path, plan: Plan) -> None:
    """The timeline in the form its ending says; picture and sound are cut alike, so one list of cuts says both."""
    from jaskel.media.aaf import write_aaf
    from jaskel.media.edl import edl_of
    from jaskel.media.probe import probe
    from jaskel.media.timeline import Filed, timeline_of, write_otio

    media: Path = options.media.resolve()
    info = probe(media, media.name)
    files = {NAME: Filed(media.name, info.begins, info.tracks, info.cues)}
    timeline = timeline_of(plan, options.out.stem, files, place=lambda _: media.as_uri())
    match options.timeline.suffix.lower():
        case ".otio":
            write_otio(path, timeline)
        case ".aaf":
            write_aaf(path, timeline)
        case _:
            kind = "B" if len(timeline.tracks) > 1 else ""
            path.write_text(edl_of(timeline.tracks[0], timeline.name, kind), encoding="utf-8")


def _told(finding: Finding) -> list[tuple[Ticks, Ticks, str]]:
    """What goes of a finding, with its words: of several takes each by itself."""
    if not finding.takes:
        return [(finding.start, finding.end, finding.text)]
    return [(take.start, take.end, take.text) for number, take in enumerate(finding.takes) if number != finding.pick]


def _report(path: Path, findings: Sequence[Finding], before: Ticks, after: Ticks) -> None:
    listed = [
        {
            "kind": each.kind,
            "start": round(to_seconds(start), 4),
            "end": round(to_seconds(end), 4),
            "text": text,
            "action": each.action,
        }
        for each in findings
        for start, end, text in _told(each)
    ]
    body = {"before": round(to_seconds(before), 4), "after": round(to_seconds(after), 4), "findings": listed}
    path.write_text(json.dumps(body, ensure_ascii=False, indent=1) + "\n", encoding="utf-8")
