"""Room on the disk: what each episode takes, and clearing what can be made again."""

from __future__ import annotations

import shutil
from collections.abc import Iterator
from dataclasses import dataclass
from pathlib import Path

from sqlalchemy import String, cast, or_, select
from sqlalchemy.orm import Session

from jaskel.core.problem import Problem
from jaskel.store.database import Database
from jaskel.store.models import EditionRow, Episode, Export, Job, LogEntry, Recording
from jaskel.store.vault import Vault

HEAVY = ("*.flac", "*.mp4", "*.npy")
"""What is cleared of what was derived from an original: sound and films. The rest is small, and lists show it."""

CLEARED = "cleared"
"""The state of a recording of which that is gone; it is made again when the episode is opened."""


@dataclass(frozen=True)
class Room:
    """Bytes of an episode: its originals, what was made from them and how much of that can be cleared, and finished exports."""

    originals: int
    made: int
    clearable: int
    exports: int


def room_of(session: Session, vault: Vault, episode: Episode) -> Room:
    """What an episode takes. An original that another episode has, too, counts in both."""
    digests = {each.digest: each.size for each in episode.recordings}
    exports = select(Export.size).join(EditionRow).where(EditionRow.episode_id == episode.id)
    return Room(
        sum(digests.values()),
        sum(_size(path) for digest in digests for path in vault.derived(digest).rglob("*")),
        sum(_size(path) for each in episode.recordings if _is_whole(vault, each) for path in _heavy(vault, each.digest)),
        sum(session.scalars(exports)),
    )


def _heavy(vault: Vault, digest: str) -> Iterator[Path]:
    for pattern in HEAVY:
        yield from vault.derived(digest).rglob(pattern)


def _size(path: Path) -> int:
    try:
        return path.stat().st_size if path.is_file() else 0
    except FileNotFoundError:
        return 0


def _is_whole(vault: Vault, recording: Recording) -> bool:
    return recording.state == "ready" and recording.kind != "pickup" and vault.intact(recording.digest, recording.size)


def clear(database: Database, vault: Vault, episode_id: str) -> int:
    """Delete what can be made again of an episode, where no other one needs it; gives the bytes that are free now.

    That it is cleared is stored before anything is gone: what breaks off in between is made again as a whole.

    Raises
    ------
    Problem
        ``at-work`` while something is done to it.
    """
    with database.write() as session:
        episode = session.get_one(Episode, episode_id)
        active = Job.episode_id == episode.id, Job.state.in_(("queued", "running"))
        if session.scalar(select(Job.id).where(*active).limit(1)):
            raise Problem("at-work", f"Something is being done to “{episode.title}”. Clear it once that is done.")
        for recording in episode.recordings:
            heavy = next(_heavy(vault, recording.digest), None)
            if heavy and _is_whole(vault, recording) and not _is_needed_elsewhere(session, recording):
                recording.state, recording.has_working_copy, recording.has_key_copy = CLEARED, False, False
    free = 0
    with database.write() as session:  # holds the lock, so that nobody begins to make it again meanwhile
        for recording in session.get_one(Episode, episode_id).recordings:
            if recording.state != CLEARED:
                continue
            for path in list(_heavy(vault, recording.digest)):
                free += _size(path)
                path.unlink(missing_ok=True)
            shutil.rmtree(vault.derived(recording.digest) / "turned", ignore_errors=True)
    return free


def _is_needed_elsewhere(session: Session, recording: Recording) -> bool:
    """Whether another episode has the same file, or has had something of this one pasted."""
    same = select(Recording.id).where(Recording.digest == recording.digest, Recording.episode_id != recording.episode_id)
    if session.scalar(same.limit(1)):
        return True
    names = {recording.id, *(each.id for each in recording.episode.sessions)}
    steps = (
        select(LogEntry.edition_id)
        .join(EditionRow, EditionRow.id == LogEntry.edition_id)
        .where(EditionRow.episode_id != recording.episode_id)
        .where(or_(*(cast(LogEntry.operation, String).contains(name) for name in names)))
    )
    return session.scalar(steps.limit(1)) is not None
