"""Corrections made on a page, brought to the recordings whose words they mend."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from dataclasses import dataclass, replace

from sqlalchemy.orm import Session as DatabaseSession

from jaskel.core.edition import Edition
from jaskel.core.operations import Range, Retype
from jaskel.core.problem import Problem
from jaskel.core.retype import Change, changed_words, put_in, retype, with_edges, within
from jaskel.core.source import Recorded
from jaskel.core.timebase import Ticks
from jaskel.core.transcript import Transcript, Word
from jaskel.store.models import Recording, SessionRow
from jaskel.store.sessions import clock_of, conversation_of
from jaskel.store.transcripts import Transcripts


@dataclass(frozen=True)
class WordPlace:
    """A stretch of a recording, in its own ticks."""

    recording: Recording
    begin: Ticks
    end: Ticks


class Corrections:
    """Makes changes one after the other, each on the words that the ones before left."""

    def __init__(self, session: DatabaseSession, edition: Edition, transcripts: Transcripts) -> None:
        self._session, self._edition, self._transcripts = session, edition, transcripts
        self._known: dict[str, Transcript] = {}
        self._changes: list[Change] = []

    @property
    def operation(self) -> Retype:
        """All that was changed, as one operation."""
        return Retype(tuple(self._changes))

    def retype(self, laid: Range, text: str) -> None:
        """Give the words between two laid times another text."""
        place = self._place(laid)
        self._add(retype(place.recording.id, self._transcript(place.recording), place.begin, place.end, text))

    def give_voice(self, laid: Range, voice: str, *, onward: bool) -> None:
        """Say whose words these are; ``onward`` also all that the same voice says after them in the recording."""
        place = self._place(laid)
        transcript = self._transcript(place.recording)
        first, last = within(transcript, place.begin, place.end)
        if first == last:
            raise Problem("no-words", "There are no words here. Select the words whose voice is wrong.")
        spoken_by = transcript.words[first].voice
        end = transcript.duration if onward else place.end

        def given(word: Word) -> Word:
            return replace(word, voice=voice) if not onward or word.voice == spoken_by else word

        self._add(changed_words(place.recording.id, transcript, place.begin, end, given))

    def accept(self, laid: Range) -> None:
        """Say that unsure words are right as they are."""
        place = self._place(laid)
        self._change(place, lambda word: replace(word, confidence=1.0))

    def begin_passage(self, at: Ticks, begins: bool) -> None:
        """Let a passage begin with the word at ``at``, or not."""
        place = self._place((at, at + 1), touching=True)
        self._change(place, lambda word: replace(word, begins=begins))

    def set_edges(self, at: Ticks, begin: Ticks, end: Ticks) -> None:
        """Say that the word at laid ``at`` sounds from ``begin`` to ``end``; words beside it give way, or follow.

        Raises
        ------
        Problem
            ``no-room`` when a word beside it would be left with less than 20 ms.
        """
        place = self._place((at, at + 1), touching=True)
        new = self._place((begin, end))
        transcript = self._transcript(place.recording)
        self._add(with_edges(place.recording.id, transcript, (place.begin, place.end), new.begin, new.end))

    def _change(self, place: WordPlace, change: Callable[[Word], Word]) -> None:
        transcript = self._transcript(place.recording)
        self._add(changed_words(place.recording.id, transcript, place.begin, place.end, change))

    def _add(self, change: Change) -> None:
        self._known[change.recording] = put_in(self._known[change.recording], change)
        self._changes.append(change)

    def _transcript(self, recording: Recording) -> Transcript:
        if recording.id not in self._known:
            self._known[recording.id] = self._transcripts.of(self._session, recording)
        return self._known[recording.id]

    def _place(self, laid: Range, *, touching: bool = False) -> WordPlace:
        """Which recording's words lie between two laid times."""
        for source, start, end, at in self._edition.runs:
            if at <= laid[0] < at + end - start and isinstance(source, Recorded):
                begin, until = start + laid[0] - at, start + min(laid[1] - at, end - start)
                if laid[1] > at + end - start:
                    raise Problem("two-recordings", "That reaches over the end of a recording. Change each part by itself.")
                row = self._session.get(SessionRow, source.recording)
                if row is not None:
                    return self._in_session(row, begin, until, touching)
                recording = self._session.get_one(Recording, source.recording)
                return self._whole(WordPlace(recording, begin, until)) if touching else WordPlace(recording, begin, until)
        raise Problem("outside", "That lies beyond the end of the edition. Select again and repeat it.")

    def _in_session(self, row: SessionRow, begin: Ticks, end: Ticks, touching: bool) -> WordPlace:
        spine = conversation_of(self._session, row, self._transcripts)
        first, last = within(spine, begin, end)
        if touching:
            last = max(last, first + 1)
        words = spine.words[first:last]
        if len({word.voice for word in words}) > 1:
            raise Problem("two-voices", "These are words of more than one voice. Change one voice's words at a time.")
        tracks = [track for track in clock_of(row).tracks if track.sounds]
        for track, known in zip(tracks, [t for t in row.tracks if t.sounds], strict=True):
            if not words:
                return WordPlace(known.recording, track.to_recording(begin), track.to_recording(end))
            place = WordPlace(known.recording, track.to_recording(words[0].start), track.to_recording(words[-1].end))
            here = within(self._transcript(known.recording), place.begin, place.end)
            found = self._transcript(known.recording).words[slice(*here)]
            if [word.text for word in found] == [word.text for word in words] and (found[0].voice or track.voice) == words[
                0
            ].voice:
                return place
        return self._by_voice(row, words)

    def _by_voice(self, row: SessionRow, words: Sequence[Word]) -> WordPlace:
        """Words of one voice with another's between them: from the first to the last on that voice's track."""
        for track, known in zip(clock_of(row).tracks, row.tracks, strict=True):
            if track.sounds and track.voice == words[0].voice:
                return WordPlace(known.recording, track.to_recording(words[0].start), track.to_recording(words[-1].end))
        raise Problem("no-words", "These words cannot be told apart from those of another voice. Select fewer of them.")

    def _whole(self, place: WordPlace) -> WordPlace:
        """The word that sounds at the beginning of a place."""
        transcript = self._transcript(place.recording)
        for word in transcript.words:
            if word.end > place.begin:
                return WordPlace(place.recording, word.start, word.end)
        raise Problem("no-words", "There is no word here for a passage to begin with.")
