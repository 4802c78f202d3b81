"""The command line: ``jaskel serve``, ``jaskel demo``, ``jaskel transcribe`` and a few for developers."""

from __future__ import annotations

import argparse
import json
import logging
import sys
import tempfile
from pathlib import Path

from jaskel.core.problem import Problem
from jaskel.settings import Settings


def main(arguments: list[str] | None = None) -> int:
    """Run a command; gives the exit code: 0, or 2 with a one-line reason on standard error."""
    parser = argparse.ArgumentParser(prog="jaskel", description="Transcribe, cut and export recorded speech.")
    commands = parser.add_subparsers(dest="command", required=True)

    serve = commands.add_parser("serve", help="start the server and its worker")
    serve.add_argument("--data", type=Path, help="folder for the database and media (default: JASKEL_DATA or ./data)")
    serve.set_defaults(run=_serve)

    demo = commands.add_parser("demo", help="start with the demo show")
    demo.add_argument("--data", type=Path, help="folder for the demo's data (default: ./data/demo)")
    demo.add_argument("--prepare-only", action="store_true", help="make the demo's data and stop")
    demo.set_defaults(run=_demo)

    transcribe = commands.add_parser("transcribe", help="write the words of a recording with their times")
    transcribe.add_argument("media", type=Path)
    transcribe.add_argument("--out", type=Path, required=True, help="JSON file to write")
    transcribe.add_argument("--language", default="en")
    transcribe.add_argument("--model", type=Path, help="folder with other recogniser weights (CTranslate2)")
    transcribe.set_defaults(run=_transcribe)

    worker = commands.add_parser("worker", help="run only a worker, on the data folder of JASKEL_DATA")
    worker.set_defaults(run=_worker)

    describe = commands.add_parser("describe", help="print the OpenAPI description of the API")
    describe.set_defaults(run=_describe)

    options = parser.parse_args(arguments)
    logging.basicConfig(level=logging.INFO, format="%(asctime)s %(name)s %(message)s")
    logging.getLogger("huey").setLevel(logging.WARNING)
    logging.getLogger("alembic").setLevel(logging.WARNING)
    logging.getLogger("faster_whisper").setLevel(logging.WARNING)
    try:
        return int(options.run(options) or 0)
    except Problem as problem:
        print(f"jaskel: {problem.sentence}", file=sys.stderr)
        return 2
    except FileNotFoundError as error:
        print(f"jaskel: there is no file {error.filename}", file=sys.stderr)
        return 2


def _serve(options: argparse.Namespace) -> int:
    from jaskel.web.serve import serve

    return serve(Settings.from_environment(options.data and options.data.resolve()))


def _demo(options: argparse.Namespace) -> int:
    from jaskel.demo.prepare import prepare
    from jaskel.web.serve import serve

    settings = Settings.from_environment((options.data or Path("data/demo")).resolve())
    address = prepare(settings, lambda text: print(text, file=sys.stderr, flush=True))
    return 0 if options.prepare_only else serve(settings, address)


def _worker(_options: argparse.Namespace) -> int:
    from jaskel.jobs.worker import run

    run(Settings.from_environment())
    return 0


def _describe(_options: argparse.Namespace) -> int:
    from jaskel.web.app import create_app

    with tempfile.TemporaryDirectory() as folder:
        app = create_app(Settings(Path(folder)))
        print(json.dumps(app.api_doc, indent=1, sort_keys=True))  # type: ignore[attr-defined]
    return 0


def _transcribe(options: argparse.Namespace) -> int:
    from jaskel.core.timebase import clock, to_seconds
    from jaskel.core.transcript import Word
    from jaskel.media.conform import conform
    from jaskel.media.probe import probe
    from jaskel.media.sound import Shelf, alone
    from jaskel.speech.recognise import packaged_weights, whisper
    from jaskel.speech.transcribe import check_language, transcribe

    model = options.model or Settings.from_environment().model or packaged_weights()
    with tempfile.TemporaryDirectory(prefix="jaskel-") as folder:
        sound = Path(folder) / "sound.flac"
        info = probe(options.media, options.media.name)
        done = conform(options.media, info, sound, Path(folder) / "peaks.bin")
        shelf = Shelf(lambda _: alone(sound))
        words: list[Word] = []
        for part in transcribe(lambda a, b: shelf.mono_16k("", a, b), done.length, whisper(model), options.language):
            words += part.words
            print(f"\r{clock(part.end)} of {clock(done.length)}", end="", file=sys.stderr, flush=True)
        print(file=sys.stderr)
        shelf.close()
    check_language(words)
    body = {
        "duration": to_seconds(done.length),
        "language": options.language,
        "words": [
            {
                "text": word.text,
                "start": round(to_seconds(word.start), 4),
                "end": round(to_seconds(word.end), 4),
                "confidence": round(word.confidence, 4),
                "speaker": word.voice,
            }
            for word in words
        ],
    }
    if done.missing:
        print(f"jaskel: the file breaks off {done.missing:.1f} s before its end", file=sys.stderr)
    partial = options.out.with_name(f".{options.out.name}.partial")
    partial.write_text(json.dumps(body, ensure_ascii=False, indent=1) + "\n", encoding="utf-8")
    partial.replace(options.out)
    return 0


if __name__ == "__main__":
    sys.exit(main())
