"""Shows and their episodes."""

from __future__ import annotations

from collections.abc import Mapping
from typing import Any, TypeVar

from sqlalchemy import inspect, select
from sqlalchemy.orm import Session

from jaskel.core.marks.splice import CROSSFADE
from jaskel.core.operations.legacy import TONE
from jaskel.store import spoken
from jaskel.store.models import (
    Base,
    EditionRow,
    Episode,
    LogEntry,
    MaterialEntry,
    Recording,
    Refusal,
    Show,
    Snapshot,
    TranscriptPart,
)

FIRST_EDITION = "Programme"


def new_show(session: Session, name: str, about: str = "") -> Show:
    """Make a show."""
    show = Show(name=name, about=about, episodes=[])
    session.add(show)
    session.flush()
    return show


def new_episode(session: Session, show: Show, title: str) -> Episode:
    """Make an episode with an empty edition."""
    episode = Episode(
        title=title, show=show, recordings=[], every_edition=[EditionRow(name=FIRST_EDITION, crossfade=CROSSFADE)]
    )
    session.add(episode)
    session.flush()
    return episode


def duplicate(session: Session, episode: Episode, title: str, *, template: bool) -> Episode:
    """A second episode: with all recordings, words, editions and their history, or as a ``template`` without any of them.

    Originals lie in the vault once, however many episodes use them. What was under way is written down as it stands;
    :func:`jaskel.jobs.prepare.resume` goes on with it.
    """
    copy = Episode(title=title, show=episode.show, folder=episode.folder, recordings=[], every_edition=[])
    session.add(copy)
    session.flush()
    if template:
        for edition in episode.editions:
            session.add(EditionRow(name=edition.name, crossfade=edition.crossfade, episode_id=copy.id))
        session.flush()
        session.expire(copy)
        return copy
    names: dict[str, str] = {}
    for recording in episode.recordings:
        twin = _twin(session, recording, episode_id=copy.id)
        names[recording.id] = twin.id
        for part in session.scalars(select(TranscriptPart).where(TranscriptPart.recording_id == recording.id)):
            session.add(TranscriptPart(recording_id=twin.id, start=part.start, end=part.end, words=part.words))
            spoken.index(session, twin.id, part.start, part.words)
    for row in episode.sessions:
        twin_session = _twin(session, row, episode_id=copy.id)
        names[row.id] = twin_session.id
        for track in row.tracks:
            _twin(session, track, recording_id=names[track.recording_id], session_id=twin_session.id)
    for twin in session.scalars(select(Recording).where(Recording.episode_id == copy.id)):
        twin.pickup = _renamed(twin.pickup, names)
    copy.marks, copy.marks_revision = _renamed(episode.marks, names), episode.marks_revision
    for step in session.scalars(select(MaterialEntry).where(MaterialEntry.episode_id == episode.id)):
        _twin(session, step, episode_id=copy.id, renamed=names)
    for edition in episode.editions:
        twin_edition = _twin(session, edition, episode_id=copy.id)
        for table in (LogEntry, Snapshot):
            for entry in session.scalars(select(table).where(table.edition_id == edition.id)):
                _twin(session, entry, edition_id=twin_edition.id, renamed=names)
        for refusal in session.scalars(select(Refusal).where(Refusal.edition_id == edition.id)):
            _twin(session, refusal, edition_id=twin_edition.id, recording=names.get(refusal.recording, refusal.recording))
    session.flush()
    session.expire(copy)
    return copy


Row = TypeVar("Row", bound=Base)


def _twin(session: Session, row: Row, *, renamed: Mapping[str, str] | None = None, **changed: str) -> Row:
    """A copy of a row with some columns changed, and ids within its JSON columns ``renamed``."""
    mapper = inspect(type(row)).mapper
    values = {column.key: getattr(row, column.key) for column in mapper.column_attrs if column.key != "id"}
    for name, value in values.items():
        if renamed and isinstance(value, dict | list):
            values[name] = _renamed(value, renamed)
    twin = type(row)(**{**values, **changed})
    session.add(twin)
    session.flush()
    return twin


def _renamed(value: Any, names: Mapping[str, str]) -> Any:
    match value:
        case dict():
            return {key: _renamed(each, names) for key, each in value.items()}
        case list():
            return [_renamed(each, names) for each in value]
        case str():
            # In the first form of the log, room tone was a recording's id with a word before it.
            recording = value.removeprefix(TONE)
            return value.removesuffix(recording) + names.get(recording, recording)
    return value
