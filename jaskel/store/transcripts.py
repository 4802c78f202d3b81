"""Transcripts in the database, part by part as they are recognised."""

from __future__ import annotations

from bisect import bisect_right
from collections.abc import Iterable
from threading import Lock
from typing import Any

from cachetools import LRUCache
from sqlalchemy import delete, func, select
from sqlalchemy.orm import Session

from jaskel.core.retype import Change, put_in
from jaskel.core.timebase import Ticks
from jaskel.core.transcript import Transcript, Word, word_to_json
from jaskel.store import spoken
from jaskel.store.models import Recording, TranscriptPart

CACHED = 32


class Transcripts:
    """Reads and extends transcripts; safe to use from several threads."""

    def __init__(self) -> None:
        self._cache: LRUCache[tuple[str, int], Transcript] = LRUCache(CACHED)
        self._lock = Lock()

    def of(self, session: Session, recording: Recording) -> Transcript:
        """All that is known of what is said in ``recording``; no words when it was not transcribed."""
        key = recording.id, recording.transcript_revision
        with self._lock:
            if key in self._cache:
                return self._cache[key]
        parts = session.scalars(
            select(TranscriptPart).where(TranscriptPart.recording_id == recording.id).order_by(TranscriptPart.start)
        )
        known = list(parts)
        words = tuple(Word(*word) for part in known for word in part.words)
        transcript = Transcript(recording.length, words, known[-1].end if known else 0)
        with self._lock:
            self._cache[key] = transcript
        return transcript

    def reached(self, session: Session, recording_id: str) -> Ticks:
        """How far the recording has been transcribed."""
        return session.scalar(select(func.max(TranscriptPart.end)).where(TranscriptPart.recording_id == recording_id)) or 0

    def extend(self, session: Session, recording: Recording, start: Ticks, end: Ticks, words: Iterable[Word]) -> None:
        """Add the part from ``start`` to ``end``."""
        rows = [word_to_json(word) for word in words]
        session.add(TranscriptPart(recording_id=recording.id, start=start, end=end, words=rows))
        spoken.index(session, recording.id, start, rows)
        recording.transcript_revision += 1

    def carry_out(self, session: Session, change: Change) -> None:
        """Mend the words of a recording; see :func:`jaskel.core.retype.put_in` for what is refused."""
        recording = session.get_one(Recording, change.recording)
        self.store(session, recording, put_in(self.of(session, recording), change))

    def store(self, session: Session, recording: Recording, transcript: Transcript) -> None:
        """Put other words in the place of a recording's; only parts whose words differ are written."""
        parts = session.scalars(
            select(TranscriptPart).where(TranscriptPart.recording_id == recording.id).order_by(TranscriptPart.start)
        ).all()
        starts = [part.start for part in parts]
        words: list[list[list[Any]]] = [[] for _ in parts]
        for word in transcript.words:
            words[max(0, bisect_right(starts, word.start) - 1)].append(word_to_json(word))
        for part, rows in zip(parts, words, strict=True):
            if part.words != rows:
                part.words = rows
                spoken.index(session, recording.id, part.start, rows)
        recording.transcript_revision += 1

    def clear(self, session: Session, recording: Recording) -> None:
        """Forget what was transcribed."""
        spoken.forget(session, recording.id)
        session.execute(delete(TranscriptPart).where(TranscriptPart.recording_id == recording.id))
        recording.transcript_revision += 1
