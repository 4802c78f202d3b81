"""What an hour of recordings costs in hours of one processor, and from that, on paper, what a thousand hours a day need.

Costs are those of the processor, not of the clock, so that they hold for machines with more of them; each is of one minute.
"""

from __future__ import annotations

import time
from collections.abc import Callable, Iterator
from fractions import Fraction
from pathlib import Path

from bench.figure import Figure
from jaskel.core.edition import Edition, Piece
from jaskel.core.plan import Material, compile_plan
from jaskel.core.session import Picture, Session, Track
from jaskel.core.source import Recorded
from jaskel.core.timebase import RATE
from jaskel.demo.shipped import MEDIA
from jaskel.media.conform import conform
from jaskel.media.graphics import Artist
from jaskel.media.picture import make_working_copy
from jaskel.media.probe import probe
from jaskel.media.render import Tags, film_pictures, write_film, write_mp3
from jaskel.media.sound import Shelf
from jaskel.speech.transcribe import transcribe
from jaskel.speech.weights import recogniser_for

MINUTE = 60 * RATE
HOURS, BUSY = 1_000, 0.7
"""Hours of recordings a day, and how busy processors can be that nobody waits for long."""

TAGS = Tags("Bench", "Bench", "Bench")


def figures(folder: Path) -> Iterator[Figure]:
    """Reading, transcribing and exporting, with and without a picture."""
    path = MEDIA / "interview.mp4"
    info = probe(path, path.name)
    assert info.picture and info.seconds
    reading = _cost(lambda: conform(path, info, folder / "s.flac", folder / "s.peaks"), info.seconds)
    shelf = Shelf(lambda _: folder / "s.flac")
    recogniser = recogniser_for("en")
    hearing = _cost(lambda: [*transcribe(lambda a, b: shelf.mono_16k("", a, b), MINUTE, recogniser)], 60)
    picture = info.picture
    copying = _cost(lambda: make_working_copy(path, picture, MINUTE, folder / "c.mp4"), 60)
    shown = Picture(picture.width, picture.height, Fraction(25))
    material = Material({"a": Session((Track("a", 2 * MINUTE, picture=shown),))})
    plan = compile_plan(Edition((Piece(Recorded("a"), 0, MINUTE),)), material)
    sound = _cost(lambda: write_mp3(folder / "a.mp3", plan, shelf.read, lambda _: None, TAGS), 60)
    film = film_pictures(plan, lambda _: path, Artist("Bench", "Bench"), quality="small")
    filmed = _cost(lambda: write_film(folder / "a.mp4", film, shelf.read, lambda _: None, TAGS), 60)
    for name, cost in (
        ("reading", reading), ("transcribing", hearing), ("a light copy of its picture", copying),
        ("exporting its sound", sound), (f"exporting {picture.width}×{picture.height}, all encoded", filmed),
    ):  # fmt: skip
        yield Figure(f"{name}, processor time to its length", f"{cost:.3f} ×", "", True)
    for name, cost in (("of sound", reading + hearing + sound), ("of film", reading + hearing + copying + filmed)):
        processors = HOURS * cost / 24 / BUSY
        yield Figure(f"{HOURS:,} hours {name} a day, on paper", f"{processors:.0f} processors", "", True)


def _cost(work: Callable[[], object], seconds: float) -> float:
    """Seconds of processor time for each second of media."""
    begun = time.process_time()
    work()
    return (time.process_time() - begun) / seconds
