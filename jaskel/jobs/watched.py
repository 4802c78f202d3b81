"""A folder that is watched: what is laid in it becomes an episode, or a recording of one, and stays where it was laid.

Its folders are shows, theirs episodes. A file in the folder of a show is an episode by itself, named after it.
"""

from __future__ import annotations

import json
import logging
from collections.abc import Iterator
from pathlib import Path

from sqlalchemy import select
from sqlalchemy.orm import Session

from jaskel.core.problem import Problem
from jaskel.jobs.prepare import note_recording
from jaskel.jobs.queue import send
from jaskel.media.probe import probe, room_for
from jaskel.store import library
from jaskel.store.home import Home
from jaskel.store.models import Episode, Show

State = tuple[int, int]
"""Bytes of a file, and when it was changed last, in nanoseconds."""

MOST = 5_000
"""Files that are looked at."""

log = logging.getLogger("jaskel.watched")


class Watched:
    """The folder of the settings; :meth:`look` is called again and again, by one process."""

    def __init__(self, home: Home, folder: Path) -> None:
        self._home, self._folder = home, folder
        self._note = home.settings.data / "watched.json"
        self._before: dict[str, State] = {}

    def look(self) -> list[str]:
        """Take in what has come to rest: what is as it was the time before. Gives the names of files that were taken in."""
        now = {str(path.relative_to(self._folder)): path for path in self._files()}
        states = {name: _state(path) for name, path in now.items()}
        known, taken = self._known(), []
        for name, path in now.items():
            if states[name] == self._before.get(name) and known.get(name) != [*states[name]]:
                self._take(path)
                known[name] = [*states[name]]
                self._remember(known)
                taken.append(name)
        self._before = states
        return taken

    def _files(self) -> Iterator[Path]:
        """Files that lie in the folder of a show, or of an episode in it; hidden ones and links are left alone."""
        found = 0
        for path in sorted(self._folder.glob("*/**/*")):
            parts = path.relative_to(self._folder).parts
            hidden = any(part.startswith(".") for part in parts)
            if not hidden and len(parts) in (2, 3) and path.is_file() and not path.is_symlink() and found < MOST:
                found += 1
                yield path

    def _take(self, path: Path) -> None:
        show, *title, name = path.relative_to(self._folder).parts
        try:
            info = probe(path, name)
            room_for(self._home.vault.root, path.stat().st_size, name)
            received = self._home.vault.adopt(path)
        except (Problem, OSError) as error:
            log.warning("%s was not taken in: %s", path, error)
            return
        with self._home.database.write() as session:
            episode = _episode(session, show, title[0] if title else path.stem)
            jobs = note_recording(session, episode.id, name, received, info)
        self._home.vault.claim(received.digest)
        for job in jobs:
            send(self._home, job)

    def _known(self) -> dict[str, list[int]]:
        try:
            return dict(json.loads(self._note.read_text(encoding="utf-8")))
        except (OSError, ValueError):
            return {}

    def _remember(self, known: dict[str, list[int]]) -> None:
        new = self._note.with_suffix(".new")
        new.write_text(json.dumps(known, ensure_ascii=False), encoding="utf-8")
        new.replace(self._note)


def _state(path: Path) -> State:
    try:
        told = path.stat()
    except OSError:
        return 0, 0
    return told.st_size, told.st_mtime_ns


def _episode(session: Session, show_name: str, title: str) -> Episode:
    """The episode of that title in the show of that name, made where it is not there."""
    show = session.scalar(select(Show).where(Show.name == show_name, Show.deleted.is_(None)).order_by(Show.created).limit(1))
    show = show or library.new_show(session, show_name)
    wanted = select(Episode).where(Episode.show_id == show.id, Episode.title == title, Episode.deleted.is_(None))
    return session.scalar(wanted.limit(1)) or library.new_episode(session, show, title)
