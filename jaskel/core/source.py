"""What a piece of an edition is a stretch of: something recorded, or something that is made when it is first heard or seen."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Any

from jaskel.core.timebase import Ticks


@dataclass(frozen=True, slots=True)
class Recorded:
    """A recording, or a session (see :mod:`jaskel.core.session`), whose tracks sound as one; by its id."""

    recording: str


@dataclass(frozen=True, slots=True)
class SaidAgain(Recorded):
    """A line said again, in a recording of its own: it is heard instead of ``start`` to ``end`` of ``home``.

    Attributes
    ----------
    home
        The recording or session in which the words were said that it takes the place of; their picture goes on above it.
    track
        The track of it whose voice says them: the line goes through the same channel strip.
    """

    home: str
    track: str
    start: Ticks
    end: Ticks


@dataclass(frozen=True, slots=True)
class RoomTone:
    """The room tone of a recording or session, as long as is wanted."""

    recording: str


@dataclass(frozen=True, slots=True)
class Silence:
    """Digital silence, as long as is wanted."""


@dataclass(frozen=True, slots=True)
class Card:
    """The episode's card, seen in silence as long as is wanted."""

    closing: bool = False


@dataclass(frozen=True, slots=True)
class Drawn:
    """A full picture of words, seen in silence as long as is wanted."""

    text: str


Source = Recorded | SaidAgain | RoomTone | Silence | Card | Drawn

SILENCE = Silence()
OPENING, CLOSING = Card(), Card(closing=True)


def recording_of(source: Source) -> str | None:
    """The recording or session a source is of; room tone is made from one, too. None where it is of none."""
    return source.recording if isinstance(source, Recorded | RoomTone) else None


def home_of(source: Source) -> str | None:
    """The same, and for a line said again where it belongs."""
    return source.home if isinstance(source, SaidAgain) else recording_of(source)


def source_to_json(source: Source) -> Any:
    """A source as a plain value, such as ``["recorded", "4f1c"]``."""
    match source:
        case SaidAgain(recording, home, track, start, end):
            return ["said again", recording, home, track, start, end]
        case Recorded(recording):
            return ["recorded", recording]
        case RoomTone(recording):
            return ["room tone", recording]
        case Card(closing):
            return ["card", "closing" if closing else "opening"]
        case Drawn(text):
            return ["drawn", text]
        case Silence():
            return ["silence"]


def source_from_json(value: Any) -> Source:
    """What :func:`source_to_json` wrote.

    Raises
    ------
    ValueError
        When it is none of the sources there are.
    """
    match value:
        case ["said again", str(recording), str(home), str(track), int(start), int(end)]:
            return SaidAgain(recording, home, track, start, end)
        case ["recorded", str(recording)]:
            return Recorded(recording)
        case ["room tone", str(recording)]:
            return RoomTone(recording)
        case ["card", which]:
            return CLOSING if which == "closing" else OPENING
        case ["drawn", str(text)]:
            return Drawn(text)
        case ["silence"]:
            return SILENCE
    raise ValueError(f"there is no source {value!r}")
