"""Room on the disk: what each episode takes, and clearing what can be made again."""

from __future__ import annotations

import shutil
from collections.abc import Iterator
from dataclasses import dataclass
from pathlib import Path

from sqlalchemy import String, cast, or_, select
from sqlalchemy.orm import Session

from jaskel.core.problem import Problem
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


def clear(session: Session, vault: Vault, episode: Episode) -> int:
    """Delete what can be made again of an episode, where no other one needs it; gives the bytes that are free now.

    Raises
    ------
    Problem
        ``at-work`` while something is done to it.
    """
    if session.scalar(select(Job.id).where(Job.episode_id == episode.id, Job.state.in_(("queued", "running"))).limit(1)):
        raise Problem("at-work", f"Something is being done to “{episode.title}”. Clear it once that is done.")
    free = 0
    for recording in episode.recordings:
        if not _is_whole(vault, recording) or _is_needed_elsewhere(session, recording):
            continue
        found = list(_heavy(vault, recording.digest))
        if not found:
            continue
        free += sum(map(_size, found))
        # Noted before anything is gone: what is cleared in part is made again as a whole.
        recording.state, recording.has_working_copy, recording.has_key_copy = CLEARED, False, False
        session.flush()
        for path in found:
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
