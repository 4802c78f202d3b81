"""What is told of an export while it runs, and the last listen of a long episode."""

from __future__ import annotations

import time
from collections.abc import Iterator
from pathlib import Path
from threading import Thread

from bench.figure import Figure, timed
from bench.long_episode import long_episode
from jaskel.core.timebase import RATE
from jaskel.demo.prepare import MEDIA
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


EXPORTED = ("wide", "square", "podcast", "archive")
"""Destinations whose work is unlike: loudness or none, pictures that are large, drawn over or hardly encoded, several files."""


def _time_left(folder: Path) -> Iterator[Figure]:
    """How long exports of the demo's piece to camera still take, asked again and again while they are written."""
    settings = Settings(folder)
    home = Home(settings)
    home.database.migrate()
    home.close()
    app = create_app(settings)
    client, workshop = app.test_client(), app.extensions["jaskel"].workshop
    show = client.post("/api/shows", json={"name": "Bench"}).json["id"]
    episode = client.post(f"/api/shows/{show}/episodes", json={"title": "Bench"}).json
    with (MEDIA / "mending-a-sail.mp4").open("rb") as film:
        url = f"/api/episodes/{episode['id']}/recordings?name=a.mp4&transcribe=false"
        assert client.post(url, data=film.read()).status_code == 201
    for job in client.get(f"/api/episodes/{episode['id']}").json["jobs"]:
        carry_out(workshop, job["id"])
    for destination in EXPORTED:
        path = f"/api/editions/{episode['editions'][0]['id']}/exports"
        yield _told_of(workshop, destination, client.post(path, json={"destination": destination}).json["id"])


def _told_of(workshop: Workshop, destination: str, job: str) -> Figure:
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
    name = f"time left of an export, {destination}, told {len(told)} times after {TELLING:.0%}, off at worst"
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
