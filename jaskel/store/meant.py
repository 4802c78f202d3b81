"""Finding what was said by what it means, over all transcripts.

Each stretch that is said has a row in two files: what it means, in whole numbers of eight bits, and where it is. They are
mapped into memory and only ever grow; rows of what reads otherwise by now are passed over, and all is made anew when most are
such.
The table ``meant`` says which rows are those of a recording. The files can be deleted at any time and are made again.
"""

from __future__ import annotations

import hashlib
from collections.abc import Sequence
from dataclasses import dataclass
from pathlib import Path

import numpy as np
from sqlalchemy import delete, select
from sqlalchemy.orm import Session

from jaskel.core.reuse.stretches import SAME_PLACE, SaidStretch
from jaskel.core.timebase import Ticks
from jaskel.store.models import Episode, Meant, Recording, Show

SIZE = 384

PLACE = np.dtype([("recording", "S12"), ("start", "<i8"), ("end", "<i8"), ("length", "<f4"), ("text", "<u8")])
"""Where a row is said, how long its direction is in whole numbers, and the digest of its text."""

AT_ONCE = 16_384
"""Rows that are compared at once: they fit into the cache of a processor."""

LOOKED_AT = 400
"""So many of the nearest are looked at for those that still stand."""


@dataclass(frozen=True)
class Near:
    """A stretch of a recording that means something like what is looked for; ``alike`` is at most 1."""

    recording: str
    start: Ticks
    end: Ticks
    alike: float


class MeantFiles:
    """The two files."""

    def __init__(self, folder: Path) -> None:
        self._vectors, self._places = folder / "vectors.i8", folder / "places.bin"

    def __len__(self) -> int:
        try:
            return min(self._vectors.stat().st_size // SIZE, self._places.stat().st_size // PLACE.itemsize)
        except FileNotFoundError:
            return 0

    @property
    def vectors(self) -> np.ndarray:
        """Shape (rows, 384), mapped."""
        count = len(self)
        return np.memmap(self._vectors, np.int8, "r", shape=(count, SIZE)) if count else np.zeros((0, SIZE), np.int8)

    @property
    def places(self) -> np.ndarray:
        """Rows of :data:`PLACE`, mapped."""
        count = len(self)
        return np.memmap(self._places, PLACE, "r", shape=(count,)) if count else np.zeros(0, PLACE)

    def append(self, vectors: np.ndarray, places: np.ndarray) -> int:
        """Add rows; gives the number of the first. What was written by half before is written over."""
        first = len(self)
        self._vectors.parent.mkdir(parents=True, exist_ok=True)
        for path, rows, width in ((self._vectors, vectors, SIZE), (self._places, places, PLACE.itemsize)):
            with path.open("r+b" if path.exists() else "w+b") as file:
                file.truncate(first * width)
                file.seek(first * width)
                file.write(rows.tobytes())
        return first

    def clear(self) -> None:
        self._vectors.unlink(missing_ok=True)
        self._places.unlink(missing_ok=True)

    def near(self, wanted: np.ndarray, count: int = LOOKED_AT) -> list[tuple[int, float]]:
        """The rows nearest to a direction of length 1, and how alike they are; the nearest first."""
        vectors, lengths = self.vectors, self.places["length"]
        if not len(vectors):
            return []
        alike = np.empty(len(vectors), np.float32)
        asked = wanted.astype(np.float32)
        for begin in range(0, len(vectors), AT_ONCE):
            some = slice(begin, begin + AT_ONCE)
            alike[some] = vectors[some].astype(np.float32) @ asked
        alike /= lengths
        best = np.argpartition(-alike, min(count, len(alike) - 1))[:count]
        return [(int(row), float(alike[row])) for row in best[np.argsort(-alike[best])]]


def rows_of(recording: str, said: Sequence[SaidStretch], meanings: np.ndarray) -> tuple[np.ndarray, np.ndarray]:
    """What is kept of some stretches; ``meanings`` are directions, shape (stretches, 384)."""
    # Directions alone count, so that the longest part of each may take up the whole byte.
    most = np.maximum(np.abs(meanings).max(axis=1, keepdims=True), 1e-9)
    vectors = np.round(meanings / most * 127).astype(np.int8)
    places = np.zeros(len(said), PLACE)
    places["recording"] = recording.encode()
    places["start"], places["end"] = [each.start for each in said], [each.end for each in said]
    places["length"] = np.maximum(np.linalg.norm(vectors.astype(np.float32), axis=1), 1e-9)
    places["text"] = [digest_of(each.text) for each in said]
    return vectors, places


def digest_of(text: str) -> int:
    return int.from_bytes(hashlib.blake2b(text.encode(), digest_size=8).digest(), "big")


def missing(session: Session, language: str) -> list[str]:
    """The recordings in a language that are not indexed as they read now, the newest first."""
    known = {row.recording_id: row.revision for row in session.scalars(select(Meant))}
    rows = session.execute(
        select(Recording.id, Recording.transcript_revision)
        .where(Recording.transcript_state == "done", Recording.language == language, Recording.kind == "speech")
        .order_by(Recording.created.desc())
    )
    return [recording for recording, revision in rows if known.get(recording) != revision]


def search(
    session: Session, files: MeantFiles, wanted: np.ndarray, shows: Sequence[str] | None, most: int, least: float
) -> list[Near]:
    """What means most nearly what is wanted, in some shows or (None) in all, at least ``least`` alike; the nearest first."""
    asked = (
        select(Meant.recording_id, Meant.first, Meant.count)
        .join(Recording, Recording.id == Meant.recording_id)
        .join(Episode, Episode.id == Recording.episode_id)
        .join(Show, Show.id == Episode.show_id)
        .where(Episode.deleted.is_(None), Show.deleted.is_(None))
    )
    if shows is not None:
        asked = asked.where(Show.id.in_(shows))
    stand = {recording.encode(): (first, first + count) for recording, first, count in session.execute(asked)}
    places = files.places
    found: list[Near] = []
    for row, alike in files.near(wanted):
        if alike < least or len(found) == most:
            break
        place = places[row]
        first, last = stand.get(bytes(place["recording"]), (0, 0))
        near = Near(place["recording"].decode(), int(place["start"]), int(place["end"]), alike)
        if first <= row < last and not any(_beside(near, other) for other in found):
            found.append(near)
    return found


def _beside(one: Near, other: Near) -> bool:
    apart = max(one.start, other.start) - min(one.end, other.end)
    return one.recording == other.recording and apart < SAME_PLACE


def note(session: Session, recording: str, revision: int, first: int, count: int) -> None:
    """Say which rows are those of a recording now."""
    session.merge(Meant(recording_id=recording, revision=revision, first=first, count=count))


def forget_all(session: Session) -> None:
    session.execute(delete(Meant))
