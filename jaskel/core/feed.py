"""The feed of a show, as players of podcasts read it: what is in it, before it is written as RSS."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, field
from datetime import datetime
from uuid import UUID, uuid5

from jaskel.core.timebase import Ticks

GUIDS = UUID("ead4c236-bf58-58c6-a2c6-a6b28d128cb6")
"""The namespace in which the podcast namespace makes the GUIDs of feeds from their addresses."""

SOUNDS = {
    "mp3": "audio/mpeg", "m4a": "audio/mp4", "opus": "audio/ogg", "flac": "audio/flac", "wav": "audio/wav", "bwf": "audio/wav",
    "mp4": "video/mp4", "av1": "video/mp4", "mov": "video/quicktime", "mkv": "video/x-matroska", "webm": "video/webm",
}  # fmt: skip
"""Media types of what is listened to, by forms of export."""

TRANSCRIPTS = {"vtt": "text/vtt", "srt": "application/x-subrip", "article html": "text/html", "txt": "text/plain"}
"""Media types of transcripts, by forms of export; the first of them have times."""

TIMED = frozenset({"vtt", "srt"})

CHAPTERS = "application/json+chapters"


@dataclass(frozen=True)
class FeedFile:
    """A file at its address, of so many bytes; ``timed`` where a transcript has times."""

    address: str
    type: str
    size: int = 0
    timed: bool = False


@dataclass(frozen=True)
class Person:
    """Somebody who speaks, a ``host`` or a ``guest``."""

    name: str
    role: str = "guest"


@dataclass(frozen=True)
class FeedEpisode:
    """An episode as it was published; ``season`` and ``number`` are 0 where it has none."""

    id: str
    title: str
    summary: str
    published: datetime
    length: Ticks
    media: FeedFile
    transcripts: tuple[FeedFile, ...] = ()
    chapters: FeedFile | None = None
    persons: tuple[Person, ...] = ()
    season: int = 0
    number: int = 0


@dataclass(frozen=True)
class Feed:
    """A show at its address."""

    title: str
    about: str
    address: str
    site: str
    author: str
    language: str
    episodes: tuple[FeedEpisode, ...] = field(default=())

    @property
    def guid(self) -> UUID:
        """The same wherever the feed goes later, made from its first address without its scheme.

        >>> str(Feed("", "", "https://feeds.example.org/tide/", "", "", "en").guid)
        '12622ecb-cea0-5518-b0ec-a5d5ae26cdd3'
        """
        return uuid5(GUIDS, self.address.split("://", 1)[-1].rstrip("/"))


def persons_of(voices: Sequence[tuple[str, str]]) -> tuple[Person, ...]:
    """Who speaks, by the names and roles of voices: who hosts is said by the role.

    >>> [each.role for each in persons_of([("Orla Venn", "Host"), ("Teo Marsh", "Boatbuilder"), ("", "")])]
    ['host', 'guest']
    """
    return tuple(Person(name[:128], "host" if _hosts(role) else "guest") for name, role in voices if name)


def _hosts(role: str) -> bool:
    return any(word in role.casefold() for word in ("host", "presenter", "moderator"))
