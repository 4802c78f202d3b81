"""What a piece of an edition is a stretch of: something recorded, or something that is made when it is first heard or seen."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Any


@dataclass(frozen=True, slots=True)
class Recorded:
    """A recording, or a session (see :mod:`jaskel.core.session`), whose tracks sound as one; by its id."""

    recording: str


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


Source = Recorded | RoomTone | Silence | Card | Drawn

SILENCE = Silence()
OPENING, CLOSING = Card(), Card(closing=True)


def recording_of(source: Source) -> str | None:
    """The recording or session a source is of; room tone is made from one, too. None where it is of none."""
    return source.recording if isinstance(source, Recorded | RoomTone) else None


def source_to_json(source: Source) -> Any:
    """A source as a plain value, such as ``["recorded", "4f1c"]``."""
    match source:
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
