"""Finding who said what, over all transcripts: a full-text index with a row for each part of a transcript."""

from __future__ import annotations

import re
from collections.abc import Iterator, Sequence
from dataclasses import dataclass
from typing import Any

from sqlalchemy import select
from sqlalchemy.orm import Session

from jaskel.core.timebase import Ticks
from jaskel.store import full_text
from jaskel.store.models import Episode, Recording, Show, SpokenPart, TrackRow, TranscriptPart

AROUND = 6
MOST_HITS = 60


@dataclass(frozen=True)
class Said:
    """A place where words were found: ``at`` to ``end`` of a recording, with what was said before and after."""

    recording: Recording
    episode: Episode
    show: Show
    at: Ticks
    end: Ticks
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
    full_text.put(session, part.id, [str(word[0]) for word in words])


def forget(session: Session, recording_id: str) -> None:
    """Take a recording out of the index."""
    for part in session.scalars(select(SpokenPart).where(SpokenPart.recording_id == recording_id)):
        full_text.take_out(session, part.id)
        session.delete(part)


def plain(said: str) -> list[str]:
    """Words as they are compared: small letters and digits only."""
    return re.findall(r"[^\W_]+", said.casefold().replace("’", "").replace("'", ""))


def search(
    session: Session,
    wanted: str,
    shows: Sequence[str] | None = None,
    *,
    whole: bool = False,
    voice: str = "",
    most: int = MOST_HITS,
) -> list[Said]:
    """Places where these words follow one another, the newest episodes first.

    ``shows`` are those that are looked through, by default all. Unless ``whole``, the last word may be a beginning. ``voice``
    asks for what one voice says only.
    """
    words = re.findall(r"[^\W_]+", wanted.casefold())
    if not words:
        return []
    places = (
        select(SpokenPart.recording_id, SpokenPart.start)
        .join(Recording, Recording.id == SpokenPart.recording_id)
        .join(Episode)
        .join(Show)
        .where(SpokenPart.id.in_(full_text.parts_with(session, words, whole=whole)))
        .where(Episode.deleted.is_(None), Show.deleted.is_(None))
        .order_by(Episode.created.desc(), SpokenPart.recording_id, SpokenPart.start)
        .limit(most)
    )
    if shows is not None:
        places = places.where(Show.id.in_(shows))
    rows = session.execute(places).all()
    found: list[Said] = []
    for recording_id, start in rows:
        part = session.get_one(TranscriptPart, (recording_id, start))
        recording = session.get_one(Recording, recording_id)
        episode = recording.episode
        track = session.get(TrackRow, recording_id) if voice else None
        for first, last in _places(part.words, plain(wanted), whole):
            words_here = part.words[first:last]
            if voice and any((word[4] or (track.voice_id if track else None)) != voice for word in words_here):
                continue
            before, said, after = (_text(part.words, a, b) for a, b in _around(first, last))
            at, end = int(words_here[0][1]), int(words_here[-1][2])
            found.append(Said(recording, episode, episode.show, at, end, before, said, after))
    return found[:most]


def words_between(session: Session, recording_id: str, start: Ticks, end: Ticks) -> list[str]:
    """What is said from one tick of a recording to another; only the parts of its transcript there are read."""
    parts = session.scalars(
        select(TranscriptPart)
        .where(TranscriptPart.recording_id == recording_id, TranscriptPart.start < end, TranscriptPart.end > start)
        .order_by(TranscriptPart.start)
    )
    return [str(word[0]) for part in parts for word in part.words if start <= word[1] and word[2] <= end]


def _places(words: Sequence[Sequence[Any]], wanted: Sequence[str], whole: bool) -> Iterator[tuple[int, int]]:
    said = ["".join(plain(str(word[0]))) for word in words]
    count = len(wanted)
    for first in range(len(words) - count + 1):
        run = said[first : first + count]
        last = run[-1] == wanted[-1] if whole else run[-1].startswith(wanted[-1])
        if last and run[:-1] == list(wanted[:-1]):
            yield first, first + count


def _text(words: Sequence[Sequence[Any]], first: int, last: int) -> str:
    return " ".join(str(word[0]) for word in words[max(0, first) : last])


def _around(first: int, last: int) -> tuple[tuple[int, int], ...]:
    return (first - AROUND, first), (first, last), (last, last + AROUND)
