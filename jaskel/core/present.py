"""Who is here: people who have an edition open, and where on its page they are."""

from __future__ import annotations

from dataclasses import dataclass
from threading import Lock

from jaskel.core.timebase import Ticks

GONE_AFTER = 15.0
"""Seconds without a word after which somebody has left."""


@dataclass(frozen=True)
class Seen:
    """Somebody at a place; ``when`` by the monotonic clock."""

    name: str
    at: Ticks
    when: float


class Presence:
    """Who was seen in which edition, in memory alone; safe to use from several threads."""

    def __init__(self) -> None:
        self._seen: dict[str, dict[str, Seen]] = {}
        self._lock = Lock()

    def here(self, edition: str, person: str, name: str, at: Ticks, now: float) -> list[Seen]:
        """Somebody is at a place now; gives the others, by name. Of several windows of one person the last counts."""
        with self._lock:
            known = {who: seen for who, seen in self._seen.get(edition, {}).items() if now - seen.when < GONE_AFTER}
            known[person] = Seen(name, at, now)
            self._seen = {**{e: people for e, people in self._seen.items() if e != edition and people}, edition: known}
            return sorted((seen for who, seen in known.items() if who != person), key=lambda seen: seen.name)


def initials(name: str) -> str:
    """The first letters of the first and the last part of a name.

    >>> initials("Orla Quist"), initials("teo"), initials("Ann de la Rue (guest)")
    ('OQ', 'T', 'AR')
    """
    parts = [part for part in name.split() if part[0].isalnum()]
    return "".join(part[0] for part in dict.fromkeys((*parts[:1], *parts[-1:]))).upper()
