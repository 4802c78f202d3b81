"""Sessions and voices in the database."""

from __future__ import annotations

import re
from collections.abc import Mapping, Sequence
from fractions import Fraction

from sqlalchemy import func, select
from sqlalchemy.orm import Session as DatabaseSession

from jaskel.core.problem import Missing, Problem
from jaskel.core.session import Picture, Session, Track, conversation
from jaskel.core.transcript import Transcript
from jaskel.store.models import Episode, Recording, SessionRow, TrackRow, Voice
from jaskel.store.transcripts import Transcripts


def find_session(session: DatabaseSession, session_id: str) -> SessionRow:
    """The session with an id.

    Raises
    ------
    Missing
        When there is none.
    """
    row = session.get(SessionRow, session_id)
    if row is None:
        raise Missing("no-session", "This session is not there any more.")
    return row


def new_session(session: DatabaseSession, episode: Episode, recordings: Sequence[Recording]) -> SessionRow:
    """Lay recordings beside one another, to be synced.

    Raises
    ------
    Problem
        ``too-few``, or ``in-a-session`` when one belongs to another.
    """
    if len(recordings) < 2:
        raise Problem("too-few", "A session needs at least two recordings that were made at the same time. Choose one more.")
    for recording in recordings:
        if not recording.info.get("sound_codec"):
            raise Problem("no-sound", f"“{recording.name}” has no sound by which it could be synced. Leave it out.")
        if session.get(TrackRow, recording.id):
            raise Problem("in-a-session", f"“{recording.name}” belongs to a session already. Take it out of that one first.")
    row = SessionRow(episode_id=episode.id, name=f"Session {len(episode.sessions) + 1}", tracks=[])
    heard_alone = any(not recording.info.get("picture") for recording in recordings)
    for position, recording in enumerate(recordings):
        # A camera's own sound is worse than any microphone's: beside one it is only used for syncing.
        sounds = not (heard_alone and recording.info.get("picture"))
        row.tracks.append(TrackRow(recording_id=recording.id, position=position, sounds=sounds))
        recording.placed = False
    session.add(row)
    session.flush()
    return row


def clock_of(row: SessionRow) -> Session:
    """The session as the core knows it."""
    return Session(
        tuple(
            Track(
                track.recording_id, track.recording.length, track.offset, track.drift, voice_of(row, track), track.sounds,
                picture_of(track.recording),
            )
            for track in row.tracks
        )
    )  # fmt: skip


def voice_of(row: SessionRow, track: TrackRow) -> str | None:
    """Whose track it is. A camera that nobody has said it of shows the voice whose name its own has: “Camera on Orla”."""
    if track.voice_id or not track.recording.info.get("picture"):
        return track.voice_id
    named = {*re.findall(r"\w+", track.recording.name.casefold())}
    for other in row.tracks:
        first = other.voice.name.casefold().split()[:1] if other.voice else []
        if first and first[0] in named:
            return other.voice_id
    return None


def picture_of(recording: Recording) -> Picture | None:
    """What the pictures of a recording look like, None where it has none."""
    shown = recording.info.get("picture")
    return Picture(shown["width"], shown["height"], Fraction(shown["rate"])) if shown else None


def session_in(session: DatabaseSession, name: str) -> Session | None:
    """The tracks that play under the id of a recording or session; None where there is neither."""
    if row := session.get(SessionRow, name):
        return clock_of(row)
    if recording := session.get(Recording, name):
        return Session((Track(name, recording.length, picture=picture_of(recording)),))
    return None


def tracks_of(session: DatabaseSession, name: str) -> list[str]:
    """The ids of the recordings that are heard under the id of a recording or session."""
    row = session.get(SessionRow, name)
    return [track.recording_id for track in row.tracks if track.sounds] if row else [name]


AS_NOW: Mapping[str, Transcript] = {}


def conversation_of(
    session: DatabaseSession, row: SessionRow, transcripts: Transcripts, other: Mapping[str, Transcript] = AS_NOW
) -> Transcript:
    """What was said in a session; where tracks have ``other`` words, with those."""
    known: Mapping[str, Transcript] = {
        track.recording_id: other.get(track.recording_id) or transcripts.of(session, track.recording)
        for track in row.tracks
        if track.sounds
    }
    return conversation(clock_of(row), known)


def transcripts_in(
    session: DatabaseSession, names: Sequence[str], transcripts: Transcripts, other: Mapping[str, Transcript] = AS_NOW
) -> dict[str, Transcript]:
    """The transcripts of recordings and sessions; where recordings have ``other`` words, with those."""
    found: dict[str, Transcript] = {}
    for name in names:
        if row := session.get(SessionRow, name):
            found[name] = conversation_of(session, row, transcripts, other)
        elif recording := session.get(Recording, name):
            found[name] = other.get(name) or transcripts.of(session, recording)
    return found


def words_name(session: DatabaseSession, names: Sequence[str]) -> str:
    """A name for the words of recordings and sessions, which changes whenever they may have changed."""
    parts = []
    for name in names:
        if row := session.get(SessionRow, name):
            parts.append(f"{name}.{words_revision(row)}")
        elif recording := session.get(Recording, name):
            parts.append(f"{name}.{recording.transcript_revision}")
    return "-".join(parts)


def sound_name(session: DatabaseSession, names: Sequence[str]) -> str:
    """A name for how sessions among recordings sound, empty where there is none."""
    rows = (session.get(SessionRow, name) for name in names)
    return "-".join(f"{row.id}.{row.revision}" for row in rows if row)


def words_revision(row: SessionRow) -> str:
    """Changes whenever what :func:`conversation_of` gives may change."""
    heard = [track for track in row.tracks if track.sounds]
    said = (f"{track.recording.transcript_revision}{track.voice_id or ''}" for track in heard)
    seen = (voice_of(row, track) or "" for track in row.tracks if not track.sounds)
    return "-".join([str(row.revision), *said, *seen])


def new_voice(session: DatabaseSession, show_id: str, name: str = "") -> Voice:
    """A further voice of a show."""
    number = (session.scalar(select(func.max(Voice.number)).where(Voice.show_id == show_id)) or 0) + 1
    voice = Voice(show_id=show_id, number=number, name=name)
    session.add(voice)
    session.flush()
    return voice


def shown_name(voice: Voice) -> str:
    """What a voice is called."""
    return voice.name or f"Voice {voice.number}"
