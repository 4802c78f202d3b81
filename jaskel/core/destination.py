"""Where an episode goes: what an export is for, and what shape, size, loudness and company that place wants.

Ten are described here by their shape and purpose; shows make their own (see :mod:`jaskel.store.destinations`).
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, replace
from fractions import Fraction
from typing import Literal

from jaskel.core.edition import Edition, Piece
from jaskel.core.marks.loudness import loudness_of, set_loudness
from jaskel.core.plan import Plan, compile_plan
from jaskel.core.plan.material import Material
from jaskel.core.plan.picture import Outlet
from jaskel.core.shape import PictureShape
from jaskel.core.source import CLOSING, OPENING
from jaskel.core.timebase import RATE, Ticks, clock, frame_count

Quality = Literal["small", "good", "best"]
DestinationCaptions = Literal["none", "burned in", "track", "both"]
NAMES = "{show} - {episode} - {destination}"
"""How files are named; the parts in braces are put in. What comes beside the file has its own ending."""


@dataclass(frozen=True)
class Destination:
    """What an export is for.

    Attributes
    ----------
    form, beside
        The form of the file itself, and of those that go along with it, by their keys in :mod:`jaskel.media.forms`.
    shape, short, rate
        Of the picture: its shape (None for the edition's own), pixels of its shorter side (0 as recorded), and pictures a
        second (0 as recorded).
    quality, bits
        How finely pictures are encoded, and bits a second of compressed sound.
    loudness, peak, mono
        In LUFS (None for the edition's own) and dBTP; whether the sound has one channel.
    longest
        In seconds; 0 for any length.
    captions
        How a film has them.
    cards, chapters, cover
        Whether opening and closing cards, chapters, and a cover go along.
    names
        How files are named, see :data:`NAMES`.
    """

    key: str
    name: str
    about: str = ""
    form: str = "mp4"
    beside: tuple[str, ...] = ()
    shape: PictureShape | None = None
    short: int = 0
    rate: Fraction = Fraction(0)
    quality: Quality = "good"
    bits: int = 192_000
    loudness: float | None = None
    peak: float = -1.0
    mono: bool = False
    longest: int = 0
    captions: DestinationCaptions = "none"
    cards: bool = True
    chapters: bool = True
    cover: bool = True
    names: str = NAMES

    @property
    def film_captions(self) -> frozenset[Literal["burned in", "track"]]:
        """The same as forms of film have it."""
        return _FILM_CAPTIONS[self.captions]

    @property
    def forms(self) -> tuple[str, ...]:
        """The forms of all its files."""
        return (self.form, *self.beside)


_FILM_CAPTIONS: dict[DestinationCaptions, frozenset[Literal["burned in", "track"]]] = {
    "none": frozenset(),
    "burned in": frozenset({"burned in"}),
    "track": frozenset({"track"}),
    "both": frozenset({"burned in", "track"}),
}

BUILT_IN: tuple[Destination, ...] = (
    Destination(
        "podcast", "Podcast feed", "MP3 with its transcript and chapters beside it",
        form="mp3", beside=("vtt", "chapters"), bits=128_000, loudness=-16.0,
    ),
    Destination(
        "chapters", "Podcast with chapters", "AAC with the chapters inside",
        form="m4a", beside=("vtt",), bits=128_000, loudness=-16.0,
    ),
    Destination(
        "wide", "Wide film", "1080 lines, captions that can be turned on",
        shape="wide", short=1080, loudness=-14.0, captions="track", beside=("srt",),
    ),
    Destination(
        "square", "Square", "1080 by 1080, captions in the picture",
        shape="square", short=1080, loudness=-14.0, captions="burned in",
    ),
    Destination(
        "upright 60", "Upright, up to 60 s", "1080 by 1920, captions in the picture",
        shape="upright", short=1080, loudness=-14.0, captions="burned in", longest=60, chapters=False,
    ),
    Destination(
        "upright 180", "Upright, up to 3 min", "1080 by 1920, captions in the picture",
        shape="upright", short=1080, loudness=-14.0, captions="burned in", longest=180, chapters=False,
    ),
    Destination(
        "broadcast", "Audio for broadcast", "Broadcast WAV of 24 bit at -23 LUFS",
        form="bwf", beside=("pdf",), loudness=-23.0,
    ),
    Destination(
        "archive", "Archive", "the finest film, its sound without loss, and all there is in words",
        form="mkv", beside=("flac", "captions", "md", "chapters", "otio"), quality="best", bits=320_000, captions="track",
    ),
    Destination(
        "web", "Transcript for the web", "a page to read, captions and plain text",
        form="article html", beside=("vtt", "txt"),
    ),
    Destination(
        "proof", "Proof for a colleague", "one page with the sound, the words that follow it, and the chapters",
        form="proof", bits=96_000, names="{show} - {episode} - proof, step {step}",
    ),
)  # fmt: skip


def fitted(edition: Edition, destination: Destination) -> Edition:
    """An edition as a destination wants it: in its shape, at its loudness, with cards or without."""
    known = loudness_of(edition.marks)
    wanted = destination.loudness, destination.peak, destination.mono
    marks = edition.marks
    if wanted[0] is not None and (known is None or (known.target, known.peak, known.mono) != wanted):
        marks = marks.changed(set_loudness(marks, wanted[0], wanted[1], mono=wanted[2]))
    pieces = edition.pieces if destination.cards else tuple(map(_without_card, edition.pieces))
    return replace(edition, pieces=pieces, marks=marks, shape=destination.shape or edition.shape)


def _without_card(piece: Piece) -> Piece:
    return replace(piece, kept=False) if piece.source in (OPENING, CLOSING) else piece


def fitted_plan(edition: Edition, material: Material, destination: Destination) -> Plan:
    """The plan of an edition for a destination."""
    plan = compile_plan(fitted(edition, destination), material)
    return replace(plan, outlet=Outlet(destination.short, destination.rate))


def too_long(plan: Plan, destination: Destination) -> Ticks:
    """By how much a programme is too long: its sound by a sample, its pictures by a picture."""
    limit = destination.longest * RATE
    if not limit:
        return 0
    rate = plan.frame.rate
    pictures = frame_count(plan.length, rate) - int(destination.longest * rate)
    return max(0, plan.length - limit, round(pictures * RATE / rate) if destination.form in FILMS else 0)


def told_length(length: Ticks) -> str:
    """A length in words, as finely as it takes to see that it is more than nothing.

    >>> told_length(90 * 48_000), told_length(48_000), told_length(100)
    ('1:30', '1.0 s', '0.002 s')
    """
    seconds = length / RATE
    if seconds >= 60:
        return clock(length)
    return f"{seconds:.1f} s" if seconds >= 0.1 else f"{max(seconds, 0.001):.3f} s"


FILMS = frozenset({"mp4", "mkv", "mov", "webm", "av1"})
"""Forms that have pictures."""


def by_key(key: str, own: Sequence[Destination] = ()) -> Destination | None:
    """A destination of a show: one of its own, or one of those there always are."""
    return next((each for each in (*own, *BUILT_IN) if each.key == key), None)
