"""``jaskel reframe``: a film in another shape with the faces kept in, from the command line."""

from __future__ import annotations

import argparse
import json
import sys
import tempfile
from collections.abc import Callable, Iterator
from dataclasses import replace
from pathlib import Path
from typing import TYPE_CHECKING

from jaskel.core.edition import Edition, Piece
from jaskel.core.marks.mark import NO_MARKS
from jaskel.core.marks.shot import set_punch_in
from jaskel.core.plan import Material, Plan, Scene, compile_plan
from jaskel.core.problem import Problem
from jaskel.core.session import Picture, Session, Track
from jaskel.core.source import Recorded
from jaskel.core.timebase import RATE, Ticks, clock
from jaskel.outputs import check_inputs, check_outputs, complete

if TYPE_CHECKING:
    from jaskel.core.picture.faces import Faces
    from jaskel.media.probe import PictureInfo

NAME = "recording"
SHAPES = ("wide", "square", "upright", "tall")
REPORTED: Ticks = RATE // 2
"""The report says so often what is seen."""


def add_arguments(parser: argparse.ArgumentParser) -> None:
    """What the command takes."""
    parser.add_argument("media", type=Path)
    parser.add_argument("--out", type=Path, required=True, help="film to write: .mp4")
    parser.add_argument("--shape", choices=SHAPES, required=True, help="16:9, 1:1, 9:16 or 4:5")
    parser.add_argument("--punch-in", type=int, default=0, metavar="PERCENT", help="closer by so many per cent (0 to 200)")
    parser.add_argument("--report", type=Path, help="JSON file of what part of the picture is seen when")


def run(options: argparse.Namespace) -> int:
    """Carry out the command.

    Raises
    ------
    Problem
        When an option is not understood, or the file has no moving picture that can be read.
    """
    from jaskel.media.conform import conform
    from jaskel.media.faces import follow_faces
    from jaskel.media.graphics import Artist
    from jaskel.media.probe import probe
    from jaskel.media.render import Tags, film_pictures, write_film
    from jaskel.media.sound import Shelf

    if not 0 <= options.punch_in <= 200:
        raise Problem("punch-in", f"--punch-in takes 0 to 200 per cent, not {options.punch_in}.")
    check_inputs(options.media)
    check_outputs([("--out", options.out, (".mp4",)), ("--report", options.report, ())], [options.media])
    with tempfile.TemporaryDirectory(prefix="jaskel-") as folder:
        info = probe(options.media, options.media.name)
        if info.picture is None or info.still:
            raise Problem("no-film", f"{options.media.name} has no moving picture. Choose a film.")
        sound = Path(folder) / "sound.flac"
        if info.sound_codec:
            length = conform(options.media, info, sound, Path(folder) / "peaks.bin").length
        else:
            length = round((info.seconds or 0) * RATE)
        if not length:
            raise Problem("no-length", f"{options.media.name} does not say how long it is, and has no sound. Save it anew.")
        faces = follow_faces(options.media, length, _progress(length, "looked through"))
        plan = _plan(options, info.picture, length, faces, sounds=bool(info.sound_codec))
        shelf = Shelf(lambda _: sound)
        with complete(options.out, options.report) as written:
            artist = Artist(options.media.stem, "")
            tags = Tags(options.media.stem, "", options.media.stem)
            film = film_pictures(plan, lambda _: options.media, artist)
            write_film(written[0], film, shelf.read, _progress(length, "written"), tags)
            if options.report:
                written[-1].write_text(json.dumps(_report(plan, info.picture, faces), indent=1) + "\n", encoding="utf-8")
        shelf.close()
    found = f"{len(faces.faces)} face{'' if len(faces.faces) == 1 else 's'}" if faces.faces else "no face: the middle is seen"
    print(f"\r{clock(length)} in {plan.frame.width} × {plan.frame.height}, {found}", file=sys.stderr)
    return 0


def _plan(options: argparse.Namespace, shown: PictureInfo, length: Ticks, faces: Faces, *, sounds: bool) -> Plan:
    picture = Picture(shown.width, shown.height, shown.frame_rate)
    marks = NO_MARKS.changed(set_punch_in(NO_MARKS, [(NAME, 0, length)], options.punch_in))
    edition = replace(Edition.of([Piece(Recorded(NAME), 0, length)]), shape=options.shape, marks=marks)
    track = Track(NAME, length, sounds=sounds, picture=picture)
    return compile_plan(edition, Material({NAME: Session((track,))}, faces={NAME: faces}))


def _report(plan: Plan, shown: PictureInfo, faces: Faces) -> dict[str, object]:
    return {
        "duration": plan.length / RATE,
        "width": plan.frame.width,
        "height": plan.frame.height,
        "faces": len(faces.faces),
        "crops": [*_crops(plan, shown)],
    }


def _crops(plan: Plan, shown: PictureInfo) -> Iterator[dict[str, float]]:
    """What part of the picture is seen, in pixels of the film that was read."""
    for at in range(0, plan.length, REPORTED):
        layer = plan.layer_at(at)
        if layer and isinstance(layer.shown, Scene):
            crop = layer.shown.views[0].crop(at - layer.begin)
            sides = {"x": crop.x * shown.width, "y": crop.y * shown.height}
            sides |= {"width": crop.width * shown.width, "height": crop.height * shown.height}
            yield {"at": at / RATE, **{name: round(value, 1) for name, value in sides.items()}}


def _progress(length: Ticks, what: str) -> Callable[[Ticks], None]:
    last = -1

    def report(at: Ticks) -> None:
        nonlocal last
        percent = min(100, 100 * at // max(1, length))
        if percent != last:
            last = percent
            print(f"\r{percent} % {what} ", end="", file=sys.stderr, flush=True)

    return report
