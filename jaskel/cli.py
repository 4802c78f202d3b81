"""The command line: ``jaskel serve`` and ``demo``, commands that work on files, and a few for developers."""

from __future__ import annotations

import argparse
import json
import logging
import os
import sys
import tempfile
from collections.abc import Iterator
from contextlib import contextmanager
from dataclasses import replace
from functools import partial
from pathlib import Path
from typing import TYPE_CHECKING

from jaskel import accounts, captions, export, keeping, outline, reframe, roughcut, sound, unpack
from jaskel.core.problem import Problem
from jaskel.outputs import check_inputs, check_outputs, complete
from jaskel.settings import STAND_IN, Settings

if TYPE_CHECKING:
    from jaskel.core.transcript import Word
    from jaskel.media.conform import Conformed
    from jaskel.speech.activity import Sound16k
    from jaskel.speech.recognise import Recogniser
    from jaskel.speech.transcribe import Mend


def main(arguments: list[str] | None = None) -> int:
    """Run a command; gives the exit code: 0, or 2 with a one-line reason on standard error."""
    parser = argparse.ArgumentParser(prog="jaskel", description="Transcribe, cut and export recorded speech.")
    commands = parser.add_subparsers(dest="command", required=True)

    serve = commands.add_parser("serve", help="start the server and its worker")
    serve.add_argument("--data", type=Path, help="folder for the database and media (default: JASKEL_DATA or ./data)")
    serve.add_argument("--team", action="store_true", help="ask for accounts: needed where other machines reach the server")
    serve.set_defaults(run=_serve)

    account = commands.add_parser("account", help="make the accounts of a team, and links to choose a password by")
    accounts.add_arguments(account)
    account.set_defaults(run=accounts.run)

    demo = commands.add_parser("demo", help="start with the demo show")
    demo.add_argument("--data", type=Path, help="folder for the demo's data (default: JASKEL_DATA or ./data/demo)")
    demo.add_argument("--prepare-only", action="store_true", help="make the demo's data and stop")
    demo.set_defaults(run=_demo)

    transcribe = commands.add_parser("transcribe", help="write the words of a recording with their times")
    transcribe.add_argument("media", type=Path)
    transcribe.add_argument("--out", type=Path, required=True, help="JSON file to write")
    transcribe.add_argument("--language", default="auto", help="a code such as en or it (default: found from the sound)")
    transcribe.add_argument("--model", type=Path, help="folder with other recogniser weights (CTranslate2)")
    transcribe.add_argument("--script", type=Path, help="a text of what was meant to be said; its words lead")
    transcribe.add_argument("--spellings", type=Path, help="names and terms, one a line: then what they are misheard as")
    transcribe.add_argument("--voices", metavar="auto|N", help="tell so many voices apart")
    transcribe.set_defaults(run=_transcribe)

    align = commands.add_parser("align", help="write the words of a text with the times at which they are said")
    align.add_argument("media", type=Path)
    align.add_argument("text", type=Path, help="plain text, Markdown, SubRip, WebVTT or TTML")
    align.add_argument("--out", type=Path, required=True, help="JSON file to write")
    align.add_argument("--language", default="auto", help="a code such as en or it (default: found from the sound)")
    align.add_argument("--model", type=Path, help="folder with other recogniser weights (CTranslate2)")
    align.set_defaults(run=_align)

    rough = commands.add_parser("roughcut", help="write a recording with fillers, long rests or retakes taken out")
    roughcut.add_arguments(rough)
    rough.set_defaults(run=roughcut.run)

    cleaned = commands.add_parser("sound", help="write the sound of a recording cleaned, and at a loudness")
    sound.add_arguments(cleaned)
    cleaned.set_defaults(run=sound.run)

    reframed = commands.add_parser("reframe", help="write a film in another shape, with the faces kept in")
    reframe.add_arguments(reframed)
    reframed.set_defaults(run=reframe.run)

    captioned = commands.add_parser("captions", help="write captions of a recording")
    captions.add_arguments(captioned)
    captioned.set_defaults(run=partial(captions.run, heard=_heard))

    exported = commands.add_parser("export", help="write the files of an edition for a destination")
    export.add_arguments(exported)
    exported.set_defaults(run=export.run)

    unpacked = commands.add_parser("unpack", help="bring in an episode that was written as one archive")
    unpack.add_arguments(unpacked)
    unpacked.set_defaults(run=unpack.run)

    outlined = commands.add_parser("outline", help="write what of a recording can be told again: chapters, highlights, clips")
    outline.add_arguments(outlined)
    outlined.set_defaults(run=partial(outline.run, heard=_heard), script=None, voices="auto")

    for name, about, add, run in (
        ("backup", "copy everything that is stored, also while it is in use", keeping.add_backup_arguments, keeping.run_backup),
        ("restore", "put a backup where there are no data", keeping.add_restore_arguments, keeping.run_restore),
        ("check", "look whether everything that is stored is whole", keeping.add_check_arguments, keeping.run_check),
        ("move", "copy everything from the file to a PostgreSQL, or back", keeping.add_move_arguments, keeping.run_move),
        ("put-aside", "move originals of episodes to another disk", keeping.add_aside_arguments, keeping.run_aside),
    ):
        command = commands.add_parser(name, help=about)
        add(command)
        command.set_defaults(run=run)

    worker = commands.add_parser("worker", help="run only a worker, on the data folder of JASKEL_DATA")
    worker.set_defaults(run=_worker)

    server = commands.add_parser("server", help="run only the server, on the data folder of JASKEL_DATA")
    server.set_defaults(run=_server)

    describe = commands.add_parser("describe", help="print the OpenAPI description of the API")
    describe.set_defaults(run=_describe)

    options = parser.parse_args(arguments)
    _begin_log()
    logging.getLogger("huey").setLevel(logging.WARNING)
    logging.getLogger("alembic").setLevel(logging.WARNING)
    logging.getLogger("faster_whisper").setLevel(logging.WARNING)
    try:
        return int(options.run(options) or 0)
    except Problem as problem:
        reason = problem.sentence
    except OSError as error:
        reason = f"{error.filename or 'A file'}: {error.strerror or error}."
    print(f"jaskel: {' '.join(reason.split())}", file=sys.stderr)  # one line, whatever a file is called
    return 2


def _begin_log() -> None:
    """Lines for people, or with ``JASKEL_LOG=json`` an object each for programs."""
    handler = logging.StreamHandler()
    if os.environ.get("JASKEL_LOG") == "json":
        from pythonjsonlogger.json import JsonFormatter

        handler.setFormatter(JsonFormatter("%(asctime)s %(name)s %(levelname)s %(message)s"))
    else:
        handler.setFormatter(logging.Formatter("%(asctime)s %(name)s %(message)s"))
    logging.basicConfig(level=logging.INFO, handlers=[handler])


def _serve(options: argparse.Namespace) -> int:
    from jaskel.web.serve import serve

    settings = Settings.from_environment(options.data and options.data.resolve())
    return serve(replace(settings, team=True) if options.team else settings)


def _demo(options: argparse.Namespace) -> int:
    from jaskel.demo.prepare import prepare
    from jaskel.standins import picture_library, publishing_host, recording_host, shared_folder
    from jaskel.web.serve import in_use, serve

    folder = options.data or Path(os.environ.get("JASKEL_DATA") or "data/demo").expanduser()
    settings = Settings.from_environment(folder.resolve())
    here = f"http://{settings.host}:{settings.port}"
    settings = replace(
        settings,
        recording_host=settings.recording_host or here + recording_host.PREFIX,
        picture_library=settings.picture_library or here + picture_library.PREFIX,
        shared_folder=settings.shared_folder or here + shared_folder.PREFIX,
        publishing_host=settings.publishing_host or here + publishing_host.PREFIX,
        mail=settings.mail or STAND_IN,
    )
    with in_use(settings):  # of two starts, one would clear what the other makes
        say = partial(print, file=sys.stderr, flush=True)
        address = prepare(settings, say, all_jobs=options.prepare_only)
    return 0 if options.prepare_only else serve(settings, address)


def _worker(_options: argparse.Namespace) -> int:
    from jaskel.jobs.worker import run

    run(Settings.from_environment())
    return 0


def _server(_options: argparse.Namespace) -> int:
    from jaskel.web.server import run

    run(Settings.from_environment())
    return 0


def _describe(_options: argparse.Namespace) -> int:
    from jaskel.web.app import create_app

    with tempfile.TemporaryDirectory() as folder:
        app = create_app(Settings(Path(folder)))
        print(json.dumps(app.api_doc, indent=1, sort_keys=True))  # type: ignore[attr-defined]
    return 0


@contextmanager
def _listening(options: argparse.Namespace) -> Iterator[tuple[Sound16k, Conformed, Recogniser]]:
    """The sound of a file, and the recogniser for it."""
    from jaskel.media.conform import conform
    from jaskel.media.probe import probe, require_sound
    from jaskel.media.sound import Shelf
    from jaskel.speech.language import AUTO, spoken_in
    from jaskel.speech.weights import recogniser_for

    own = options.model or Settings.from_environment().model
    with tempfile.TemporaryDirectory(prefix="jaskel-") as folder:
        sound = Path(folder) / "sound.flac"
        info = require_sound(probe(options.media, options.media.name), options.media.name)
        done = conform(options.media, info, sound, Path(folder) / "peaks.bin")
        shelf = Shelf(lambda _: sound)
        listen = partial(shelf.mono_16k, "")
        if options.language == AUTO:
            options.language = spoken_in(listen, done.length, own=own).language
            print(f"language: {options.language}", file=sys.stderr)
        yield listen, done, recogniser_for(options.language, own)
        shelf.close()
    if done.missing:
        print(f"jaskel: the file breaks off {done.missing:.1f} s before its end", file=sys.stderr)


def _transcribe(options: argparse.Namespace) -> int:
    options.voices = _voices(options.voices)
    _check(options, options.script, options.spellings)
    words, done = _recognised(options)
    _write(options.out, done, options.language, [(word, word.voice) for word in words])
    return 0


def _heard(options: argparse.Namespace) -> tuple[list[Word], int, str]:
    options.voices, options.spellings = _voices(options.voices), None
    _check(options, options.script)
    words, done = _recognised(options)
    return words, done.length, options.language


def _recognised(options: argparse.Namespace) -> tuple[list[Word], Conformed]:
    """What is said in a file, as the options have it."""
    from jaskel.core.timebase import clock
    from jaskel.media.text_files import read_text
    from jaskel.speech.script import fit_text, transcript_of
    from jaskel.speech.together import spoken_over, together
    from jaskel.speech.transcribe import as_heard, check_language, transcribe
    from jaskel.speech.voices import voices_of

    script = read_text(options.script.read_bytes(), options.script.name) if options.script else None
    mend = _mending(options.spellings) if options.spellings else as_heard
    with _listening(options) as (sound, done, recogniser):
        words: list[Word] = []
        for part in transcribe(sound, done.length, recogniser, options.language, mend=mend):
            words += part.words
            print(f"\r{clock(part.end)} of {clock(done.length)}", end="", file=sys.stderr, flush=True)
        print(file=sys.stderr)
        check_language(words, options.language)
        if script:
            words = [word for word in words if not word.is_sound]
            said = [word.text for word in script.words]
            fitted = fit_text(sound, done.length, said, recogniser, options.language, known=words)
            words = list(transcript_of(fitted, done.length).words)
        if options.voices is not None:
            told = voices_of(sound, words, options.voices or None)
            at_once = together(sound, done.length) if len(set(told)) > 1 else []
            words = spoken_over(words, at_once)
            words = [replace(word, voice=f"Voice {number + 1}") for word, number in zip(words, told, strict=True)]
    return words, done


def _voices(text: str | None) -> int | None:
    """How many voices are asked for; 0 for as many as are found, None for not telling them apart."""
    if text is None or text == "auto":
        return None if text is None else 0
    if text not in ("1", "2", "3", "4", "5", "6"):
        raise Problem("voices", "--voices takes auto, or a number from 1 to 6.")
    return int(text)


def _check(options: argparse.Namespace, *texts: Path | None) -> None:
    """Refuse what could not be read or written, before anything is done."""
    check_inputs(options.media, *texts)
    check_outputs([("--out", options.out, ())], [options.media, *texts])


def _mending(spellings: Path) -> Mend:
    """House spellings from a file: ``Tarn Hythe: turn hide, tarnhyth`` on a line."""
    from jaskel.core.spellings import Spelling
    from jaskel.media.text_files import decoded
    from jaskel.speech.house import house, mended

    text = decoded(spellings.read_bytes(), spellings.name)
    lines = (line.partition(":") for line in text.splitlines() if line.strip())
    known = house([Spelling(term.strip(), tuple(h.strip() for h in heard.split(",") if h.strip())) for term, _, heard in lines])
    return lambda words, again: mended(words, known, again)


def _align(options: argparse.Namespace) -> int:
    from jaskel.media.text_files import read_text
    from jaskel.speech.script import fit_text

    _check(options, options.text)
    brought = read_text(options.text.read_bytes(), options.text.name)
    with _listening(options) as (sound, done, recogniser):
        said = [word.text for word in brought.words]
        script = fit_text(sound, done.length, said, recogniser, options.language)
    more = {
        "unspoken": [" ".join(said[a:b]) for a, b in script.unspoken],
        "besides": [_shown(word, None) for word in script.besides],
    }
    _write(options.out, done, options.language, [(word, brought.words[index].voice) for index, word in script.words], more)
    return 0


def _shown(word: Word, speaker: str | None) -> dict[str, object]:
    from jaskel.core.timebase import to_seconds

    return {
        "text": word.text,
        "start": round(to_seconds(word.start), 4),
        "end": round(to_seconds(word.end), 4),
        "confidence": round(word.confidence, 4),
        "speaker": speaker,
        **({"over": True} if word.over else {}),
    }


def _write(
    out: Path, done: Conformed, language: str, words: list[tuple[Word, str | None]], more: dict[str, object] | None = None
) -> None:
    """The JSON file that was asked for."""
    from jaskel.core.sounds import sound_in
    from jaskel.core.timebase import to_seconds

    body = {
        "duration": to_seconds(done.length),
        "language": language,
        "words": [_shown(word, speaker) for word, speaker in words if not word.is_sound],
        "sounds": [{**_shown(word, speaker), "text": sound_in(word.text)} for word, speaker in words if word.is_sound],
        **(more or {}),
    }
    with complete(out) as (new,):
        new.write_text(json.dumps(body, ensure_ascii=False, indent=1) + "\n", encoding="utf-8")


if __name__ == "__main__":
    sys.exit(main())
