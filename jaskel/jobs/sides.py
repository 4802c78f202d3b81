"""Two voices on left and right of one file, parted into tracks of a session."""

from __future__ import annotations

from collections.abc import Iterator
from pathlib import Path
from tempfile import TemporaryDirectory

import numpy as np
from sqlalchemy.orm import Session

from jaskel.core.problem import Problem
from jaskel.core.timebase import RATE
from jaskel.jobs.join import take_off_page
from jaskel.jobs.progress import Progress
from jaskel.jobs.queue import add_job, send
from jaskel.jobs.workshop import Workshop
from jaskel.media.analysis import turned
from jaskel.media.conformed import ConformedSound, NewConformedSound
from jaskel.media.probe import probe, room_for
from jaskel.store.models import Episode, Job, Recording, TrackRow
from jaskel.store.notices import post
from jaskel.store.sessions import new_session

SIDES = ("left", "right")

ALIKE = 0.95
"""Where left and right are so much alike, they are one voice heard on both sides."""


def part_sides(workshop: Workshop, job: Job, progress: Progress) -> None:
    """Make a recording of each side, and lay both beside one another as a session, to be looked at and joined.

    Raises
    ------
    Problem
        ``one-side``.
    """
    home = workshop.home
    with home.database.read() as session:
        recording = session.get_one(Recording, job.subject)
    conformed = home.vault.sound(recording.digest)
    room_for(home.vault.root, 2 * conformed.stat().st_size, recording.name)
    jobs: list[str] = []
    with TemporaryDirectory(dir=home.vault.root / "incoming") as folder:
        files = [Path(folder) / f"{Path(recording.name).stem}, {side}.flac" for side in SIDES]
        _write(conformed, files, recording.name, progress)
        received = [home.vault.adopt(file) for file in files]
        infos = [probe(file, file.name) for file in files]
    with home.database.write() as session:
        episode = session.get_one(Episode, job.of_episode)
        made = []
        for file, known, info in zip(files, received, infos, strict=True):
            new = Recording(
                episode_id=episode.id, name=file.name, digest=known.digest, size=known.size, info=info.to_json(), placed=False,
                language=recording.language, length=recording.length,
            )  # fmt: skip
            session.add(new)
            session.flush()
            made.append(new)
            jobs.append(add_job(session, "prepare", episode.id, new.id, recording.length, transcribe=False).id)
        _together(session, episode, made)
        # The session stands for it from now on.
        take_off_page(home, session, recording)
        session.get_one(Recording, recording.id).placed = False
        post(session, "recording", episode.id)
    for each in received:
        home.vault.claim(each.digest)
    for id in jobs:
        send(home, id)


def _together(session: Session, episode: Episode, made: list[Recording]) -> None:
    row = new_session(session, episode, made)
    # Nothing has to be compared: both begin where the file does.
    row.state, row.length = "proposed", made[0].length
    for track in row.tracks:
        track.sure = 1.0


def _write(conformed: Path, files: list[Path], name: str, progress: Progress) -> None:
    """Write both sides; the right one turned over where its microphone was the other way round."""
    sign = -1 if _turned(conformed, progress) else 1
    power, both = 0.0, 0.0
    with ConformedSound(conformed) as sound:
        if sound.channels != 2:
            raise Problem("one-side", f"“{name}” has one channel only, so there is nothing to part.")
        with NewConformedSound(files[0], 1) as left, NewConformedSound(files[1], 1) as right:
            for begin in range(0, sound.length, 5 * RATE):
                block = sound.read(begin, begin + 5 * RATE)
                power += float((block.astype(np.float64) ** 2).sum())
                both += 2 * float((block[:, 0].astype(np.float64) * block[:, 1]).sum())
                left.write(np.clip(block[:, :1], -1, 1))
                right.write(np.clip(sign * block[:, 1:], -1, 1))
                progress(begin)
    if power == 0 or abs(both) / power > ALIKE:
        raise Problem("one-side", f"Left and right of “{name}” are the same voice, so there is nothing to part.")


def _turned(conformed: Path, progress: Progress) -> bool:
    def blocks() -> Iterator[tuple[np.ndarray, np.ndarray]]:
        for begin in range(0, sound.length, 20 * RATE):
            block = sound.read(begin, min(begin + 5 * RATE, sound.length))
            progress(0)
            yield block[:, 0], block[:, 1]

    with ConformedSound(conformed) as sound:
        return sound.channels == 2 and turned(blocks())


def may_be_parted(session: Session, recording: Recording) -> bool:
    """Whether a recording has two sides that could be tracks."""
    return recording.info.get("channels") == 2 and recording.state == "ready" and session.get(TrackRow, recording.id) is None
