"""What is told of an export while it runs, and the last listen of a long episode."""

from __future__ import annotations

import time
from collections.abc import Iterator
from pathlib import Path
from threading import Thread

import numpy as np
import soundfile

from bench.figure import Figure, timed
from bench.long_episode import long_episode
from jaskel.core.timebase import RATE
from jaskel.demo.shipped import MEDIA
from jaskel.jobs.carry_out import carry_out
from jaskel.jobs.queue import TELLING, seconds_left
from jaskel.jobs.workshop import Workshop
from jaskel.settings import Settings
from jaskel.store.home import Home
from jaskel.store.models import Job
from jaskel.web.app import create_app

LOOK_SECONDS = 0.25
OFF = 0.2
"""The share of the whole by which what is told may be off once a tenth is done."""


def figures(folder: Path) -> Iterator[Figure]:
    yield from _time_left(folder / "left")
    yield from _last_listen(folder / "long")


FILMS, SOUNDS = ("wide", "square", "archive"), ("podcast", "broadcast", "proof")
"""Destinations whose work is unlike: loudness or none, pictures that are large, drawn over or hardly encoded, several files."""

OFTEN = 2
"""So often one of the demo's tracks is heard where only sound goes out: of a few minutes that is made in no time."""


def _time_left(folder: Path) -> Iterator[Figure]:
    """How long exports still take, asked again and again while they are written."""
    settings = Settings(folder)
    home = Home(settings)
    home.database.migrate()
    home.close()
    app = create_app(settings)
    client, workshop = app.test_client(), app.extensions["jaskel"].workshop
    show = client.post("/api/shows", json={"name": "Bench"}).json["id"]
    heard = folder / "heard.flac"
    sound, rate = soundfile.read(MEDIA / "interview-orla.ogg")
    soundfile.write(heard, np.concatenate([sound] * OFTEN), rate)
    for path, destinations in ((MEDIA / "mending-a-sail.mp4", FILMS), (heard, SOUNDS)):
        episode = client.post(f"/api/shows/{show}/episodes", json={"title": path.stem}).json
        url = f"/api/episodes/{episode['id']}/recordings?name={path.name}&transcribe=false"
        assert client.post(url, data=path.read_bytes()).status_code == 201
        for job in client.get(f"/api/episodes/{episode['id']}").json["jobs"]:
            carry_out(workshop, job["id"])
        for destination in destinations:
            for when in ("at first", "again"):
                exports = f"/api/editions/{episode['editions'][0]['id']}/exports"
                job = client.post(exports, json={"destination": destination}).json["id"]
                yield _told_of(workshop, f"{destination}, {when}", job)


def _told_of(workshop: Workshop, which: str, job: str) -> Figure:
    """By how much what is told of an export is off at worst, as a share of all it took."""
    told: list[tuple[float, int]] = []
    writing = Thread(target=carry_out, args=(workshop, job))
    begun = time.monotonic()
    writing.start()
    while writing.is_alive():
        with workshop.home.database.read() as session:
            left = seconds_left(session.get_one(Job, job))
        if left is not None:
            told.append((time.monotonic() - begun, left))
        time.sleep(LOOK_SECONDS)
    whole = time.monotonic() - begun
    worst = max((abs(at + left - whole) / whole for at, left in told), default=1.0)
    name = f"time left of an export, {which}, told {len(told)} times after {TELLING:.0%}, off at worst"
    return Figure(name, f"{worst:.0%}", f"≤ {OFF:.0%}", worst <= OFF)


def _last_listen(folder: Path) -> Iterator[Figure]:
    """Three hours with 2,000 cuts."""
    settings, _, edition = long_episode(folder)
    client = create_app(settings).test_client()
    found: dict = {}

    def look() -> None:
        found.update(client.get(f"/api/editions/{edition}/last-listen").json)

    seconds = timed(look, 1)
    length = found["length"] / RATE
    yield Figure(f"last listen of three hours, {len(found['places'])} places", f"{length:.0f} s", "≤ 180 s", 0 < length <= 180)
    yield Figure("finding them", f"{seconds:.1f} s", "≤ 5 s", seconds <= 5)
