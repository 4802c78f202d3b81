"""``jaskel sound``: a recording cleaned, evened and brought to a loudness, from the command line."""

from __future__ import annotations

import argparse
import json
import sys
import tempfile
from collections.abc import Iterator
from contextlib import ExitStack
from functools import partial
from pathlib import Path

import numpy as np

from jaskel.core.problem import Problem
from jaskel.core.sound.chains import CHAINS, chain_called, noise_of, read_chain, to_json, with_noise
from jaskel.core.sound.processor import Chain, Noise
from jaskel.core.timebase import RATE, Ticks, clock
from jaskel.media.loudness import Loudness
from jaskel.outputs import check_inputs, check_outputs, complete

ENDINGS = (".wav", ".flac", ".mp3", ".m4a", ".ogg", ".opus")


def add_arguments(parser: argparse.ArgumentParser) -> None:
    """What the command takes."""
    parser.add_argument("media", type=Path)
    parser.add_argument("--out", type=Path, required=True, help=f"sound file to write: {', '.join(ENDINGS)}")
    parser.add_argument("--chain", metavar="NAME|FILE.json", help=f"processors: {', '.join(CHAINS)}, or a file of your own")
    parser.add_argument("--noise", type=int, metavar="0..100", help="how much of the noise and echo is taken out, in per cent")
    parser.add_argument("--loudness", type=float, metavar="LUFS", help="integrated loudness to reach, such as -16")
    parser.add_argument("--peak", type=float, default=-1.0, metavar="DBTP", help="true peak that is not exceeded (default: -1)")
    parser.add_argument("--report", type=Path, help="JSON file of what was measured before and after")


def run(options: argparse.Namespace) -> int:
    """Carry out the command.

    Raises
    ------
    Problem
        When an option is not understood, or the recording cannot be read.
    """
    from jaskel.media.conform import conform
    from jaskel.media.conformed import ConformedSound
    from jaskel.media.loudness import brought_to, measured, setting_for
    from jaskel.media.probe import probe, require_sound
    from jaskel.media.process import processed
    from jaskel.media.processors import hum_of

    chain = _chain(options)
    _check(options)
    with tempfile.TemporaryDirectory(prefix="jaskel-") as folder, ExitStack() as open_files:
        conformed = Path(folder) / "sound.flac"
        info = require_sound(probe(options.media, options.media.name), options.media.name)
        length = conform(options.media, info, conformed, Path(folder) / "peaks.bin").length
        file = open_files.enter_context(ConformedSound(conformed))
        before = measured(_blocks(file), file.channels)
        if options.loudness is not None and before.is_silent:
            raise Problem("silent", "This recording is silent, so it cannot be brought to a loudness.")
        wet = Path(folder) / "wet.f32"
        with wet.open("wb") as out:
            for block in processed(file, chain, _progress(length)):
                out.write(np.ascontiguousarray(block, np.float32).tobytes())
        print(file=sys.stderr)
        cleaned = np.memmap(wet, np.float32, "r").reshape(-1, file.channels)
        again = partial(_parts, cleaned)
        setting, after = setting_for(again, file.channels, options.loudness, options.peak)
        sound = brought_to(again(), file.channels, setting) if setting else again()
        with complete(options.out, options.report) as written:
            _write(written[0], options.out.suffix.lower(), sound, file.channels)
            if options.report:
                report = {
                    "duration": length / RATE,
                    "chain": to_json(chain),
                    "gain": round(setting.decibels if setting else 0.0, 2),
                    "hum": hum_of(file),
                    "before": _told(before),
                    "after": _told(after),
                }
                written[-1].write_text(json.dumps(report, indent=1) + "\n", encoding="utf-8")
    print(f"{_said(before)} became {_said(after)}", file=sys.stderr)
    return 0


def _check(options: argparse.Namespace) -> None:
    if options.loudness is not None and not -60 <= options.loudness <= -5:
        raise Problem("loudness", f"--loudness takes -60 to -5 LUFS, not {options.loudness:g}.")
    if not -20 <= options.peak <= 0:
        raise Problem("peak", f"--peak takes -20 to 0 dBTP, not {options.peak:g}.")
    check_inputs(options.media)
    check_outputs([("--out", options.out, ENDINGS), ("--report", options.report, ())], [options.media])


def _chain(options: argparse.Namespace) -> Chain:
    chain: Chain = ()
    if options.chain:
        if options.chain.lower().endswith(".json"):
            file = Path(options.chain)
            check_inputs(file)
            chain = read_chain(file.read_text(encoding="utf-8", errors="replace"))
        else:
            chain = chain_called(options.chain)
    if options.noise is None:
        return chain
    if not 0 <= options.noise <= 100:
        raise Problem("noise", f"--noise takes 0 to 100 per cent, not {options.noise}.")
    return (*chain, Noise(amount=options.noise)) if noise_of(chain) is None else with_noise(chain, options.noise)


def _parts(sound: np.ndarray) -> Iterator[np.ndarray]:
    for begin in range(0, len(sound), RATE):
        yield np.asarray(sound[begin : begin + RATE])


def _blocks(file) -> Iterator[np.ndarray]:  # type: ignore[no-untyped-def]
    for begin in range(0, file.length, RATE):
        yield file.read(begin, min(begin + RATE, file.length))


def _write(path: Path, ending: str, sound: Iterator[np.ndarray], channels: int) -> None:
    from jaskel.media.render import write_sound

    write_sound(path, ending, sound, channels)


def _progress(length: Ticks):  # type: ignore[no-untyped-def]
    """Says how far it has come, once in ten seconds of sound."""

    def say(at: Ticks) -> None:
        if at % (10 * RATE) == 0 or at == length:
            print(f"\r{clock(at)} of {clock(length)}", end="", file=sys.stderr, flush=True)

    return say


def _told(loudness: Loudness) -> dict[str, float | None]:
    """As JSON, which has no infinity."""

    def number(value: float) -> float | None:
        return round(value, 2) if np.isfinite(value) else None

    return {"loudness": number(loudness.integrated), "range": number(loudness.range), "peak": number(loudness.peak)}


def _said(loudness: Loudness) -> str:
    return "silence" if loudness.is_silent else f"{loudness.integrated:.1f} LUFS (peak {loudness.peak:.1f} dBTP)"
