"""Transcripts in the database, part by part as they are recognised."""

from __future__ import annotations

from collections import OrderedDict
from collections.abc import Iterable
from threading import Lock

from sqlalchemy import delete, func, select
from sqlalchemy.orm import Session

from jaskel.core.timebase import Ticks
from jaskel.core.transcript import Transcript, Word
from jaskel.store.models import Recording, TranscriptPart

CACHED = 32


class Transcripts:
    """Reads and extends transcripts; safe to use from several threads."""

    def __init__(self) -> None:
        self._cache: OrderedDict[tuple[str, int], Transcript] = OrderedDict()
        self._lock = Lock()

    def of(self, session: Session, recording: Recording) -> Transcript:
        """All that is known of what is said in ``recording``; no words when it was not transcribed."""
        key = recording.id, recording.transcript_revision
        with self._lock:
            if key in self._cache:
                self._cache.move_to_end(key)
                return self._cache[key]
        parts = session.scalars(
            select(TranscriptPart).where(TranscriptPart.recording_id == recording.id).order_by(TranscriptPart.start)
        )
        known = list(parts)
        words = tuple(Word(*word) for part in known for word in part.words)
        transcript = Transcript(recording.length, words, known[-1].end if known else 0)
        with self._lock:
            self._cache[key] = transcript
            while len(self._cache) > CACHED:
                self._cache.popitem(last=False)
        return transcript

    def reached(self, session: Session, recording_id: str) -> Ticks:
        """How far the recording has been transcribed."""
        return session.scalar(select(func.max(TranscriptPart.end)).where(TranscriptPart.recording_id == recording_id)) or 0

    def extend(self, session: Session, recording: Recording, start: Ticks, end: Ticks, words: Iterable[Word]) -> None:
        """Add the part from ``start`` to ``end``."""
        rows = [[word.text, word.start, word.end, round(word.confidence, 4), word.voice] for word in words]
        session.add(TranscriptPart(recording_id=recording.id, start=start, end=end, words=rows))
        recording.transcript_revision += 1

    def clear(self, session: Session, recording: Recording) -> None:
        """Forget what was transcribed."""
        session.execute(delete(TranscriptPart).where(TranscriptPart.recording_id == recording.id))
        recording.transcript_revision += 1
