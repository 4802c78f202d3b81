"""The most memory that worker and server hold, each in a process of its own, for a recording of an hour."""

from __future__ import annotations

import subprocess
import sys
from collections.abc import Iterator
from pathlib import Path

from bench.figure import Figure

WORK = """
import sys
from pathlib import Path
import soundfile
from jaskel.core.edition import Edition, Piece
from jaskel.core.plan import Material, compile_plan
from jaskel.core.session import Picture, Session, Track
from jaskel.core.source import Recorded
from jaskel.demo.shipped import MEDIA
from jaskel.media.graphics import Artist
from jaskel.media.conform import conform
from jaskel.media.probe import probe
from jaskel.media.render import Tags, film_pictures, write_film
from jaskel.media.sound import Shelf
from jaskel.speech.weights import recogniser_for
from jaskel.speech.transcribe import transcribe
from fractions import Fraction
folder, times = Path(sys.argv[1]), int(sys.argv[2])
path = MEDIA / "interview.mp4"
info = probe(path, "interview")
done = conform(path, info, folder / "m.flac", folder / "m.peaks")
shelf = Shelf(lambda _: folder / "m.flac")
for part in transcribe(lambda a, b: shelf.mono_16k("", a, b), 90 * 48_000, recogniser_for("en")):
    pass
minute = Piece(Recorded("a"), 0, 60 * 48_000)
picture = Picture(info.picture.width, info.picture.height, Fraction(25))
material = Material({"a": Session((Track("a", done.length, picture=picture),))})
plan = compile_plan(Edition((minute,) * times), material)
film = film_pictures(plan, lambda _: path, Artist("Bench", "Bench"))
write_film(folder / "m.mp4", film, shelf.read, lambda _: None, Tags("", "", ""))
print(int(Path("/proc/self/status").read_text().split("VmHWM:")[1].split()[0]) * 1024)
"""


def figures(folder: Path) -> Iterator[Figure]:
    """The same work on one and on four minutes of picture: memory must not grow with length."""
    short, long = (_peak(folder, minutes) for minutes in (1, 4))
    yield Figure("memory of the worker, transcript and film", f"{long / 1e6:.0f} MB", "≤ 800 MB", long <= 800e6)
    yield Figure("the same for four times the length, to once", f"{long / short:.2f}", "≤ 1.1", long <= 1.1 * short)


def _peak(folder: Path, minutes: int) -> int:
    command = [sys.executable, "-c", WORK, str(folder), str(minutes)]
    return int(subprocess.run(command, check=True, capture_output=True, text=True).stdout)
