"""Fetching finished sessions from a remote recording host."""

from __future__ import annotations

import json
from collections.abc import Iterator
from contextlib import contextmanager
from typing import Any, BinaryIO, Protocol
from urllib.parse import quote

from jaskel.core.problem import Problem
from jaskel.jobs.prepare import start_reading, start_sync
from jaskel.jobs.progress import Progress
from jaskel.jobs.queue import send
from jaskel.jobs.service import Service
from jaskel.jobs.workshop import Workshop
from jaskel.media.probe import probe, room_for
from jaskel.store.models import Episode, Job, Recording
from jaskel.store.notices import post
from jaskel.store.sessions import find_session, new_session, new_voice


class RecordingHost(Protocol):
    """What is asked of a host; an adapter for a real one offers the same."""

    def sessions(self) -> list[dict[str, Any]]:
        """Finished sessions: ``id``, ``title``, ``recorded`` and ``takes``; of each take ``id``, ``number`` and ``files``; of
        each file ``id``, ``guest``, ``name`` and ``size`` in bytes.
        """
        ...

    def file(self, file_id: str) -> Any:
        """A context manager that gives the file's bytes as a stream."""
        ...


class HttpRecordingHost:
    """A host that speaks the API of ``docs/recording-host.md``."""

    def __init__(self, address: str) -> None:
        self._host = Service("The recording host", "host", address)

    def sessions(self) -> list[dict[str, Any]]:
        with self._host.opened("/sessions") as answer, self._host.understood():
            return list(json.load(answer)["sessions"])

    @contextmanager
    def file(self, file_id: str) -> Iterator[BinaryIO]:
        with self._host.opened(f"/files/{quote(file_id, safe='')}") as answer:
            yield answer


def host_of(workshop: Workshop) -> RecordingHost | None:
    """The host of the settings, if there is one."""
    address = workshop.settings.recording_host
    return HttpRecordingHost(address) if address else None


def fetch(workshop: Workshop, job: Job, progress: Progress) -> None:
    """Fetch the chosen files of a take; several become a session, and its guests its voices."""
    host = host_of(workshop)
    if host is None:
        raise Problem("no-host", "No recording host is set. Set JASKEL_RECORDING_HOST and start again.")
    done = 0
    for file in job.details["files"]:
        # What is here already is not fetched a second time when the job goes on after a restart.
        if file["id"] not in job.details.get("fetched", []):
            _fetch_one(workshop, host, job, file)
        done += file["size"]
        progress.report(done)
    _lay_together(workshop, job)


def _fetch_one(workshop: Workshop, host: RecordingHost, job: Job, file: dict[str, Any]) -> None:
    home = workshop.home
    room_for(home.vault.root, file["size"], file["name"])
    with host.file(file["id"]) as stream, home.vault.receive(stream, file["name"], file["size"]) as received:
        info = probe(received.path, file["name"])
        home.vault.keep(received)
    alone = len(job.details["files"]) == 1
    with home.database.write() as session:
        recording = Recording(
            episode_id=job.of_episode, name=file["name"], digest=received.digest, size=received.size, info=info.to_json(),
            placed=alone,
        )  # fmt: skip
        session.add(recording)
        session.flush()
        reading = start_reading(session, recording, guest=file["guest"])
        known = session.get_one(Job, job.id)
        pairs = [*known.details.get("recordings", []), [recording.id, file["guest"]]]
        known.details = {**known.details, "recordings": pairs, "fetched": [*known.details.get("fetched", []), file["id"]]}
        post(session, "recording", job.of_episode, id=recording.id)
    home.vault.claim(received.digest)
    for each in reading:
        send(home, each)


def _lay_together(workshop: Workshop, job: Job) -> None:
    home = workshop.home
    jobs: list[str] = []
    with home.database.write() as session:
        pairs = session.get_one(Job, job.id).details.get("recordings", [])
        if len(pairs) < 2:
            return
        episode = session.get_one(Episode, job.of_episode)
        row = new_session(session, episode, [session.get_one(Recording, name) for name, _ in pairs])
        known = {voice.name: voice for voice in episode.show.voices}
        for track, (_, guest) in zip(find_session(session, row.id).tracks, pairs, strict=True):
            voice = known.get(guest) or known.setdefault(guest, new_voice(session, episode.show_id, guest))
            track.voice_id = voice.id if track.sounds else None
        jobs = start_sync(session, row)
        post(session, "session", job.of_episode, id=row.id)
    for each in jobs:
        send(home, each)
