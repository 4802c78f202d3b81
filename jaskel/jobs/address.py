"""Fetching media by address: what comes is kept as it comes, and goes on where it broke off."""

from __future__ import annotations

import re
from errno import ENOSPC
from http.client import HTTPException, HTTPResponse
from pathlib import Path
from urllib.parse import unquote, urlsplit

from jaskel.core.problem import Problem
from jaskel.jobs.prepare import note_recording
from jaskel.jobs.progress import Progress
from jaskel.jobs.queue import send
from jaskel.jobs.reach import reached
from jaskel.jobs.shared_folder import SharedFolder
from jaskel.jobs.workshop import Workshop
from jaskel.media.probe import probe, room_for
from jaskel.store.models import Job

KIND = "fetch address"
CHUNK = 1 << 18
MOST = 200_000_000_000
"""Bytes."""

TRIES = 4
"""How often a transfer that breaks off goes on by itself before a person has to say so."""

NAMED = re.compile(r"""filename\*?=(?:UTF-8'')?"?([^";]+)"?""", re.IGNORECASE)


def fetch_address(workshop: Workshop, job: Job, progress: Progress) -> None:
    """Fetch a file and make a recording of it. Tried again, it goes on where it was."""
    home = workshop.home
    place = home.vault.upload(f"fetch-{job.id}")
    name = str(job.details.get("name") or "")
    for attempt in range(TRIES):
        try:
            name = _fetch(workshop, job, place, name, progress)
            break
        except Problem as problem:
            if problem.code != "refused" or not place.exists():
                raise
            place.unlink()  # its sender gives no more of it from there on: it is another file by now, or is whole
        except (OSError, HTTPException) as error:
            if isinstance(error, OSError) and error.errno == ENOSPC:
                raise Problem("disk-full", "The disk became full. Make room and try again: it goes on where it was.") from error
            if attempt + 1 == TRIES:
                raise Problem("broke-off", "The transfer breaks off again and again. Tried again, it goes on.") from error
    try:
        info = probe(place, name)
        received = home.vault.adopt(place)
    except Problem:
        place.unlink(missing_ok=True)
        raise
    with home.database.write() as session:
        jobs = note_recording(session, job.of_episode, name, received, info)
    home.vault.claim(received.digest)
    place.unlink(missing_ok=True)
    for each in jobs:
        send(home, each)


def _fetch(workshop: Workshop, job: Job, place: Path, name: str, progress: Progress) -> str:
    """Fetch what is missing; gives the name of the file."""
    there = place.stat().st_size if place.exists() else 0
    headers = {"Range": f"bytes={there}-"} if there else {}
    address, allowed = job.details["address"], workshop.settings.reach
    if job.details.get("shared"):
        folder = SharedFolder(workshop.settings)
        address, allowed, headers = folder.address_of(address), folder.allowed, headers | folder.headers
    with reached(address, allowed, headers=headers) as (answer, address):
        name = name or _name(answer, address)
        goes_on = there > 0 and answer.status == 206
        if answer.headers.get_content_type() == "text/html":
            raise Problem("a-page", "There is a page at this address, not a file. Give the address of the file itself.")
        begin = there if goes_on else 0
        rest = answer.headers.get("Content-Length")
        total = begin + int(rest) if rest and rest.isdigit() else 0
        if total > MOST:
            raise Problem("too-large", f"“{name}” has {total / 1e9:.0f} GB, which is more than is fetched.")
        room_for(workshop.home.vault.root, total - begin if total else 1, name)
        with workshop.home.database.write() as session:
            known = session.get_one(Job, job.id)
            known.total, known.details = total, {**known.details, "name": name}
        with place.open("r+b" if goes_on else "wb") as file:
            file.seek(begin)
            while chunk := answer.read(CHUNK):
                begin += len(chunk)
                if begin > MOST:
                    raise Problem("too-large", f"“{name}” goes on for more than is fetched.")
                file.write(chunk)
                progress(begin)
        if total and begin < total:
            raise ConnectionError("broke off")
    return name


def _name(answer: HTTPResponse, address: str) -> str:
    """What the file is called: by its sender, or by the end of its address."""
    told = NAMED.search(answer.headers.get("Content-Disposition", ""))
    name = unquote(told[1] if told else urlsplit(address).path.rsplit("/", 1)[-1])
    plain = "".join(letter for letter in Path(name.replace("\\", "/")).name if letter.isprintable()).strip(" .")
    return plain[:150] or "fetched"
