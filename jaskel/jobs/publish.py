"""Publishing: the files of an export go to the host, then the feed of the show that names them."""

from __future__ import annotations

import json
import re
from collections.abc import Iterator
from pathlib import Path
from typing import Any
from urllib.parse import quote

from sqlalchemy import select

from jaskel.core.feed import SOUNDS, TRANSCRIPTS
from jaskel.core.problem import Problem
from jaskel.jobs.progress import Progress
from jaskel.jobs.service import Service
from jaskel.jobs.workshop import Workshop
from jaskel.media.feed import feed_xml
from jaskel.store.models import Episode, Export, Job, Publication, Show
from jaskel.store.notices import post
from jaskel.store.publications import feed_of

SECONDS = 60
"""A host that does not answer for so long is given up."""

CHUNK = 1 << 20

SENT = {*SOUNDS, *TRANSCRIPTS, "chapters"}
"""Forms that a feed names."""


class PublishingHost:
    """A host that speaks the API of ``docs/publishing-host.md``."""

    def __init__(self, address: str) -> None:
        self._host = Service("The publishing host", "host", address, SECONDS)

    def put(self, show: str, name: str, body: Iterator[bytes], size: int) -> str:
        """Send a file; gives the address at which players find it."""
        sent = self._host.opened(_place(show, name), "PUT", body, {"Content-Length": str(size)})
        with sent as answer, self._host.understood():
            return str(json.load(answer)["address"])

    def remove(self, show: str, name: str) -> None:
        """Let it let go of a file; one that is not there does no harm."""
        with self._host.opened(_place(show, name), "DELETE"):
            pass


def _place(show: str, name: str) -> str:
    return f"/shows/{quote(show, safe='')}/{quote(name, safe='')}"


def host_of(workshop: Workshop) -> PublishingHost:
    """The host of the settings.

    Raises
    ------
    Problem
        ``no-host``.
    """
    address = workshop.settings.publishing_host
    if not address:
        raise Problem("no-host", "No publishing host is set. Set JASKEL_PUBLISHING_HOST and start again.")
    return PublishingHost(address)


def publish(workshop: Workshop, job: Job, progress: Progress) -> None:
    """Send the files of an export, take the episode into the feed of its show, and send that. Again, it is replaced."""
    home, host = workshop.home, host_of(workshop)
    with home.database.read() as session:
        show = session.get_one(Episode, job.of_episode).show_id
        known = select(Export).where(Export.job_id == job.details["export"], Export.deleted.is_(None)).order_by(Export.id)
        exports = [each for each in session.scalars(known) if each.form in SENT]
    if not any(each.form in SOUNDS for each in exports):
        raise Problem("nothing-to-hear", "There is no sound or film among these files any more. Export it again.")
    with home.database.write() as session:
        session.get_one(Job, job.id).total = sum(each.size for each in exports)
    files: list[list[Any]] = []
    done = 0
    for each in exports:
        name = _name(job.of_episode, each.file_name)
        address = host.put(show, name, _read(home.vault.export(each.id), progress, done), each.size)
        files.append([each.form, name, address, each.size])
        done += each.size
    length = next(each.length for each in exports if each.form in SOUNDS)
    told = {name: job.details[name] for name in ("title", "summary", "season", "number", "persons")}
    with home.database.write() as session:
        row = session.scalar(select(Publication).where(Publication.episode_id == job.of_episode))
        before = {each[1] for each in row.files} if row else set()
        row = row or Publication(episode_id=job.of_episode)
        for key, value in (told | {"files": files, "length": length}).items():
            setattr(row, key, value)
        session.add(row)
        post(session, "published", job.of_episode)
    send_feed(workshop, show)
    for name in before - {each[1] for each in files}:
        host.remove(show, name)


def withdraw(workshop: Workshop, job: Job, _progress: Progress) -> None:
    """Take an episode out of the feed of its show, and its files off the host."""
    home, host = workshop.home, host_of(workshop)
    with home.database.write() as session:
        show = session.get_one(Episode, job.of_episode).show_id
        row = session.scalar(select(Publication).where(Publication.episode_id == job.of_episode))
        known = session.get_one(Job, job.id)
        # Once the row is gone, only the job knows what is still on the host: it may have to try again.
        names = [each[1] for each in row.files] if row else known.details.get("names", [])
        known.details = {**known.details, "names": names}
        if row:
            session.delete(row)
        post(session, "published", job.of_episode)
    send_feed(workshop, show)
    for name in names:
        host.remove(show, name)


def send_feed(workshop: Workshop, show_id: str) -> None:
    """Send the feed of a show as it is now."""
    with workshop.home.database.read() as session:
        feed = feed_of(session, session.get_one(Show, show_id), workshop.settings.publishing_host)
    content = feed_xml(feed)
    host_of(workshop).put(show_id, "feed.xml", iter([content]), len(content))


def _name(episode: str, name: str) -> str:
    """Names on the host: what the host's API allows, and no two episodes' alike."""
    plain = re.sub(r"[^\w .,'()-]", "", name, flags=re.ASCII).strip(" .")
    return f"{episode} {plain[-150:]}"


def _read(path: Path, progress: Progress, before: int) -> Iterator[bytes]:
    with path.open("rb") as file:
        while chunk := file.read(CHUNK):
            yield chunk
            before += len(chunk)
            progress(before)
