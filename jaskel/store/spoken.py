"""Finding who said what, over all transcripts: SQLite's full-text index with a row for each part of a transcript."""

from __future__ import annotations

import re
from collections.abc import Iterator, Sequence
from dataclasses import dataclass
from typing import Any

from sqlalchemy import select, text
from sqlalchemy.orm import Session

from jaskel.core.timebase import Ticks
from jaskel.store.models import Episode, Recording, Show, SpokenPart, TranscriptPart

AROUND = 6
MOST_HITS = 60


@dataclass(frozen=True)
class Said:
    """A place where words were found: at ``at`` of a recording, with what was said before and after."""

    recording: Recording
    episode: Episode
    show: Show
    at: Ticks
    before: str
    words: str
    after: str


def index(session: Session, recording_id: str, start: Ticks, words: Sequence[Sequence[Any]]) -> None:
    """Make a part of a transcript findable by its words as they are now."""
    part = session.scalar(select(SpokenPart).where(SpokenPart.recording_id == recording_id, SpokenPart.start == start))
    if part is None:
        part = SpokenPart(recording_id=recording_id, start=start)
        session.add(part)
        session.flush()
    session.execute(text("DELETE FROM spoken WHERE rowid = :id"), {"id": part.id})
    said = " ".join(str(word[0]) for word in words)
    session.execute(text("INSERT INTO spoken (rowid, words) VALUES (:id, :words)"), {"id": part.id, "words": said})


def forget(session: Session, recording_id: str) -> None:
    """Take a recording out of the index."""
    for part in session.scalars(select(SpokenPart).where(SpokenPart.recording_id == recording_id)):
        session.execute(text("DELETE FROM spoken WHERE rowid = :id"), {"id": part.id})
        session.delete(part)


def plain(said: str) -> list[str]:
    """Words as they are compared: small letters and digits only."""
    return re.findall(r"[^\W_]+", said.casefold().replace("’", "").replace("'", ""))


def search(session: Session, wanted: str, show_id: str = "") -> list[Said]:
    """Places where these words follow one another, the newest episodes first; the last word may be a beginning."""
    words = re.findall(r"[^\W_]+", wanted.casefold())
    if not words:
        return []
    phrase = f'"{" ".join(words)}"*'
    rows = session.execute(
        text(
            "SELECT spoken_parts.recording_id, spoken_parts.start FROM spoken"
            " JOIN spoken_parts ON spoken_parts.id = spoken.rowid"
            " JOIN recordings ON recordings.id = spoken_parts.recording_id JOIN episodes ON episodes.id = recordings.episode_id"
            " JOIN shows ON shows.id = episodes.show_id"
            " WHERE spoken MATCH :phrase AND episodes.deleted IS NULL AND shows.deleted IS NULL"
            " AND (:show = '' OR shows.id = :show)"
            " ORDER BY episodes.created DESC, spoken_parts.recording_id, spoken_parts.start LIMIT :most"
        ),
        {"phrase": phrase, "show": show_id, "most": MOST_HITS},
    )
    found: list[Said] = []
    for recording_id, start in rows:
        part = session.get_one(TranscriptPart, (recording_id, start))
        recording = session.get_one(Recording, recording_id)
        episode = recording.episode
        for at, before, said, after in _places(part.words, plain(wanted)):
            found.append(Said(recording, episode, episode.show, at, before, said, after))
    return found[:MOST_HITS]


def _places(words: Sequence[Sequence[Any]], wanted: Sequence[str]) -> Iterator[tuple[Ticks, str, str, str]]:
    said = ["".join(plain(str(word[0]))) for word in words]
    count = len(wanted)
    for first in range(len(words) - count + 1):
        run = said[first : first + count]
        if run[:-1] == list(wanted[:-1]) and run[-1].startswith(wanted[-1]):
            shown = [" ".join(str(word[0]) for word in words[max(0, a) : b]) for a, b in _around(first, count)]
            yield int(words[first][1]), shown[0], shown[1], shown[2]


def _around(first: int, count: int) -> tuple[tuple[int, int], ...]:
    return (first - AROUND, first), (first, first + count), (first + count, first + count + AROUND)
