"""What breaks programs like this one, made up anew each time from a seed: files, texts, requests and command lines.

Each file is taken in by the jobs that do so, in processes whose memory is watched. What counts is what must not happen: an
error inside, a process over its bound, a file left behind.
"""

from __future__ import annotations

import contextlib
import io
import logging
import time
from collections.abc import Iterator
from pathlib import Path

from sqlalchemy import select

from bench.figure import Figure
from bench.hostile.calls import calls, stage
from bench.hostile.described import ask_all
from bench.hostile.media import files
from bench.hostile.requests import requests
from bench.hostile.texts import texts
from jaskel.cli import main
from jaskel.core.problem import Problem
from jaskel.jobs import apart
from jaskel.jobs.carry_out import MOST_MEMORY, too_much
from jaskel.media.text_files import LONGEST, read_text
from jaskel.settings import Settings
from jaskel.store.home import Home
from jaskel.store.models import Job
from jaskel.web.app import create_app

FILES, TEXTS, REQUESTS, EACH = 1_600, 400, 3_000, 6


def figures(folder: Path) -> Iterator[Figure]:
    """Heaps of what is hostile, and what became of them."""
    logging.disable(logging.CRITICAL)
    try:
        yield from _files(folder / "files")
        yield from _texts()
        yield from _requests(folder / "requests")
        yield from _calls(folder / "calls")
    finally:
        logging.disable(logging.NOTSET)


def _application(folder: Path):  # type: ignore[no-untyped-def]
    settings = Settings(folder)
    home = Home(settings)
    home.database.migrate()
    home.close()
    return create_app(settings)


def _files(folder: Path) -> Iterator[Figure]:
    folder.mkdir()
    app = _application(folder / "data")
    client, workshop = app.test_client(), app.extensions["jaskel"].workshop
    show = client.post("/api/shows", json={"name": "Ropewalk"}).json["id"]
    episode = client.post(f"/api/shows/{show}/episodes", json={"title": "Hostile"}).json["id"]
    apart.begin_processes()
    most, wrong, tried = 0, 0, 0
    really = apart.memory_of

    def looked_at(processes) -> int:  # type: ignore[no-untyped-def]
        nonlocal most
        found = really(processes)
        most = max(most, found)
        return found

    apart.memory_of = looked_at
    try:
        for path in files(folder / "made", FILES, seed=5):
            tried += 1
            url = f"/api/episodes/{episode}/recordings?name={path.name}&transcribe=false&placed=false"
            wrong += client.post(url, data=path.read_bytes()).status_code not in (201, 409, 422)
            while waiting := _waiting(workshop.home):
                apart.carry_out_apart(workshop, waiting)
    finally:
        apart.memory_of = really
    with workshop.home.database.read() as session:
        ended = list(session.scalars(select(Job)))
    wrong += sum(job.state not in ("done", "failed") or "inside Jaskel" in job.trouble for job in ended)
    stopped = sum(job.trouble == too_much(MOST_MEMORY) for job in ended)
    root = workshop.home.vault.root
    left = len([*(root / "incoming").iterdir(), *root.glob("**/.*.partial")])
    yield Figure(f"hostile files of {tried} that met an error inside", str(wrong), "0", wrong == 0)
    yield Figure("memory of the largest of their jobs", f"{most / 1e6:.0f} MB", "≤ 800 MB", most <= 1.05 * MOST_MEMORY)
    yield Figure("jobs of them that were stopped for their memory", str(stopped), "told", True)
    yield Figure("files they left behind", str(left), "0", left == 0)


def _waiting(home: Home) -> str | None:
    with home.database.read() as session:
        return session.scalar(select(Job.id).where(Job.state == "queued").order_by(Job.created).limit(1))


def _texts() -> Iterator[Figure]:
    wrong, slowest = 0, 0.0
    for name, content in texts(TEXTS, LONGEST // 4, seed=5):
        begun = time.perf_counter()
        try:
            read_text(content, name)
        except Problem:
            pass
        except Exception:
            wrong += 1
        slowest = max(slowest, time.perf_counter() - begun)
    yield Figure(f"hostile texts of {TEXTS} that met an error inside", str(wrong), "0", wrong == 0)
    yield Figure("the slowest of them, half a megabyte", f"{slowest:.1f} s", "≤ 10 s", slowest <= 10)


def _requests(folder: Path) -> Iterator[Figure]:
    app = _application(folder)
    client = app.test_client()
    show = client.post("/api/shows", json={"name": "Ropewalk"}).json["id"]
    episode = client.post(f"/api/shows/{show}/episodes", json={"title": "Hostile"}).json
    ids = {"show": show, "episode": episode["id"], "edition": episode["editions"][0]["id"]}
    wrong = 0
    for made in requests(app.api_doc, ids, REQUESTS, seed=5):
        wrong += client.open(made.path, method=made.method, data=made.body, headers=made.headers).status_code == 500
    yield Figure(f"made-up requests of {REQUESTS} that met an error inside", str(wrong), "0", wrong == 0)
    asked = ask_all(app, ids, EACH, number=5)
    wrong = len(asked.wrong)
    yield Figure(f"described requests of {asked.many} answered otherwise than described", str(wrong), "0", wrong == 0)


def _calls(folder: Path) -> Iterator[Figure]:
    folder.mkdir()
    stage(folder)
    before = {path: path.read_bytes() for path in folder.rglob("*") if path.is_file()}
    wanted, wrong = calls(folder), 0
    for call in wanted:
        told = io.StringIO()
        with contextlib.redirect_stderr(told):
            try:
                wrong += main(call) != 2 or "Traceback" in told.getvalue()
            except SystemExit as ended:
                wrong += ended.code != 2
            except Exception:
                wrong += 1
    changed = before != {path: path.read_bytes() for path in folder.rglob("*") if path.is_file()}
    yield Figure(f"bad command lines of {len(wanted)} not refused in a line", str(wrong), "0", wrong == 0)
    yield Figure("files that they changed or left", "some" if changed else "none", "none", not changed)
