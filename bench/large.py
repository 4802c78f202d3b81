"""A film of ten minutes in 4K: how soon it is heard and seen, and what it takes."""

from __future__ import annotations

import subprocess
import sys
from collections.abc import Iterator
from fractions import Fraction
from pathlib import Path

import av
import cv2
import numpy as np
from skimage.data import coffee

import jaskel.demo
from bench.figure import Figure, timed
from jaskel.core.timebase import RATE
from jaskel.media.conform import conform
from jaskel.media.picture import make_key_copy, make_working_copy
from jaskel.media.probe import MediaInfo, probe

WIDTH, HEIGHT, SCENE, MINUTES = 3840, 2160, 10, 10
TALK = Path(jaskel.demo.__file__).parent / "media" / "interview.mp4"

WORK = """
import resource, sys
from fractions import Fraction
from pathlib import Path
from jaskel.core.edition import Edition, Piece
from jaskel.core.plan import Material, compile_plan
from jaskel.core.session import Picture, Session, Track
from jaskel.core.source import Recorded
from jaskel.core.timebase import RATE
from jaskel.media.graphics import Artist
from jaskel.media.picture import make_working_copy
from jaskel.media.probe import probe
from jaskel.media.render import Tags, film_pictures, write_film
from jaskel.media.sound import Shelf
film, folder = Path(sys.argv[1]), Path(sys.argv[2])
seen = probe(film, film.name).picture
make_working_copy(film, seen, 3 * RATE, folder / "light.mp4")
picture = Picture(seen.width, seen.height, Fraction(30))
material = Material({"a": Session((Track("a", 3 * RATE, picture=picture),))})
plan = compile_plan(Edition((Piece(Recorded("a"), 0, 3 * RATE),)), material)
shelf = Shelf(lambda _: folder / "heard.flac")
pictures = film_pictures(plan, lambda _: film, Artist("Bench", "Bench"))
write_film(folder / "film.mp4", pictures, shelf.read, lambda _: None, Tags("", "", ""))
print(resource.getrusage(resource.RUSAGE_SELF).ru_maxrss // 1000)
"""
"""A light copy and a film of three seconds, in a process of its own; it says the most memory it held, in MB."""


def figures(folder: Path) -> Iterator[Figure]:
    film, talk = folder / "large.mp4", folder / "talk.mp4"
    _make(folder / "scene.mp4", film, talk)
    told = {path: probe(path, path.name) for path in (film, talk)}
    heard = {path: timed(lambda path=path: _heard(path, told[path], folder)) for path in told}  # type: ignore[misc]
    slower = heard[film] / heard[talk]
    yield Figure("sound of a film of 10 min in 4K is read, to sound alone", f"{slower:.2f}", "≤ 1.5", slower <= 1.5)
    shown, seconds = told[film].picture, told[film].seconds
    assert shown and seconds
    first = timed(lambda: make_key_copy(film, shown, seconds, folder / "keys.mp4"))
    yield Figure("its key pictures are seen", f"{first:.1f} s", "≤ 10 s", first <= 10)
    whole = SCENE / timed(lambda: make_working_copy(film, shown, SCENE * RATE, folder / "light.mp4"))
    yield Figure("its light copy, to its length", f"{whole:.2f} ×", "≥ 1 ×", whole >= 1)
    for name, path, most in (("4K", film, 1500), ("1080p", _smaller(film, folder / "smaller.mp4"), 800)):
        held = _held(path, folder)
        yield Figure(f"memory of light copy and film in {name}", f"{held} MB", f"≤ {most} MB", held <= most)


def _make(scene: Path, film: Path, talk: Path) -> None:
    """A scene of ten seconds again and again, with as much of the demo's talk; and that talk alone."""
    _film(scene)
    with av.open(str(film), "w") as out, av.open(str(talk), "w") as alone:
        seen = av.open(str(scene))
        heard = av.open(str(TALK))
        picture = out.add_stream_from_template(seen.streams.video[0])
        sounds = [each.add_stream_from_template(heard.streams.audio[0]) for each in (out, alone)]
        seen.close()
        heard.close()
        for turn in range(MINUTES * 60 // SCENE):
            _again(scene, out, picture, turn * SCENE)
            for each, sound in zip((out, alone), sounds, strict=True):
                _again(TALK, each, sound, turn * SCENE)


def _film(path: Path) -> None:
    grey = cv2.cvtColor(coffee(), cv2.COLOR_RGB2GRAY)
    bright = cv2.resize(grey, (WIDTH + 300, HEIGHT + 300), interpolation=cv2.INTER_CUBIC)
    grain = np.random.default_rng(4).integers(0, 3, (HEIGHT, WIDTH), np.uint8)
    with av.open(str(path), "w") as out:
        options = {"b": "45M", "maxrate": "60M", "bufsize": "60M", "preset": "ultrafast", "g": "30"}
        stream = out.add_stream("libx264", rate=30, options=options)
        stream.width, stream.height, stream.pix_fmt = WIDTH, HEIGHT, "yuv420p"
        colour = np.full((HEIGHT // 2, WIDTH), 128, np.uint8)
        for number in range(30 * SCENE):
            at = number % 300
            seen = bright[at // 2 : at // 2 + HEIGHT, at : at + WIDTH] + np.roll(grain, 17 * number, 1)
            frame = av.VideoFrame.from_ndarray(np.vstack([seen, colour]), "yuv420p")
            frame.pts, frame.time_base = number, Fraction(1, 30)
            out.mux(stream.encode(frame))
        out.mux(stream.encode())


def _again(path: Path, out: av.container.OutputContainer, stream: av.stream.Stream, later: int) -> None:
    """Copy the packets of a scene behind what is there."""
    with av.open(str(path)) as file:
        source = next(each for each in file.streams if each.type == stream.type)
        for packet in file.demux(source):
            if packet.dts is None or packet.pts is None or packet.time_base is None or packet.pts < 0:
                continue
            if packet.pts * packet.time_base >= SCENE:
                break
            moved = round(Fraction(later) / packet.time_base)
            packet.dts, packet.pts, packet.stream = packet.dts + moved, packet.pts + moved, stream
            out.mux(packet)


def _heard(path: Path, info: MediaInfo, folder: Path) -> None:
    conform(path, info, folder / "heard.flac", folder / "heard.bin")


def _smaller(film: Path, out: Path) -> Path:
    with av.open(str(film)) as source, av.open(str(out), "w") as made:
        stream = made.add_stream("libx264", rate=30, options={"preset": "ultrafast", "crf": "23"})
        stream.width, stream.height, stream.pix_fmt = 1920, 1080, "yuv420p"
        for number, frame in enumerate(source.decode(video=0)):
            if number == 90:
                break
            small = frame.reformat(1920, 1080)
            small.pts, small.time_base = number, Fraction(1, 30)
            made.mux(stream.encode(small))
        made.mux(stream.encode())
    return out


def _held(film: Path, folder: Path) -> int:
    command = [sys.executable, "-c", WORK, str(film), str(folder)]
    return int(subprocess.run(command, capture_output=True, text=True, check=True).stdout)
