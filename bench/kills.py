"""Server and worker are killed at random while people edit, add files and export: what was acknowledged is there afterwards."""

from __future__ import annotations

import http.client
import io
import json
import multiprocessing
import os
import random
import signal
import socket
import threading
import time
import urllib.error
import urllib.request
from collections.abc import Callable, Iterator
from contextlib import closing, suppress
from dataclasses import dataclass, field
from multiprocessing.process import BaseProcess
from pathlib import Path
from typing import Any

import numpy as np
import soundfile
from sqlalchemy import select

from bench.figure import Figure
from bench.synced import LIST, lost
from jaskel.core.timebase import RATE
from jaskel.jobs import apart, worker
from jaskel.settings import Settings
from jaskel.store.check import check
from jaskel.store.home import Home
from jaskel.store.models import Episode, Export, Job, LogEntry, Recording
from jaskel.web import server

KILLS = 1_000
PAUSE = 0.3, 2.5
"""Seconds between two kills, at least and at most: in some the server answers nothing yet, in others jobs are half done."""

STILL_SECONDS = 120.0
"""When nothing has gone on for so long, nothing will any more."""

STOPPED = "stopped the worker"
"""What is told of a job during which the worker died too often: by chance, here."""

SECONDS_OF_SOUND = 20

_FORKS = multiprocessing.get_context("forkserver")
_FORKS.set_forkserver_preload(["jaskel.web.app", "jaskel.web.server", "jaskel.jobs.worker", "bench.synced", *apart.PRELOADED])


def figures(folder: Path) -> Iterator[Figure]:
    """A thousand kills."""
    told = run(folder / "data", KILLS, seed=1)
    lost, faults = (f"{len(each)} {'; '.join(each[:5])}".strip() for each in (told.lost, told.faults))
    yield Figure(f"{KILLS} kills: {told.acknowledged} acknowledged changes, lost", lost, "0", not told.lost)
    yield Figure("faults found by jaskel check after them", faults, "0", not told.faults)
    taken = f"{len(told.unsynced)} {'; '.join(told.unsynced[:5])}".strip()
    yield Figure("finished files that a power loss would have taken some of", taken, "0", not told.unsynced)


@dataclass
class Told:
    """What was acknowledged, and what of it was not there afterwards."""

    steps: list[str] = field(default_factory=list)
    notes: list[str] = field(default_factory=list)
    files: list[str] = field(default_factory=list)
    exports: list[str] = field(default_factory=list)
    lost: list[str] = field(default_factory=list)
    faults: list[str] = field(default_factory=list)
    unsynced: list[str] = field(default_factory=list)

    @property
    def acknowledged(self) -> int:
        return sum(map(len, (self.steps, self.notes, self.files, self.exports)))


def run(data: Path, kills: int, seed: int) -> Told:
    """Kill so many times, let what is left be done, and look whether everything is there."""
    data.parent.mkdir(parents=True, exist_ok=True)
    (data.parent / LIST).touch()
    return at_work(data, kills, seed, lambda machine, chance: machine.kill(chance.choice(("server", "worker", "both"))))


def at_work(
    data: Path, times: int, seed: int, strike: Callable[[Machine, random.Random], None], pause: tuple[float, float] = PAUSE
) -> Told:
    """Let people work, ``strike`` what serves them so many times, let the rest be done, and look if everything is there."""
    machine, told = Machine(data), Told()
    machine.start()
    crowd = Crowd(machine, told)
    try:
        crowd.begin()
        chance = random.Random(seed)
        for _ in range(times):
            time.sleep(chance.uniform(*pause))
            strike(machine, chance)
            machine.start()
        crowd.end()
        machine.settle()
    finally:
        crowd.end()
        machine.end()
    look(data, told)
    return told


class Machine:
    """A server and a worker on a data folder."""

    def __init__(self, data: Path) -> None:
        with socket.socket() as free:
            free.bind(("127.0.0.1", 0))
            self.settings = Settings(data, port=free.getsockname()[1])
        self.processes: dict[str, BaseProcess] = {}
        data.mkdir(parents=True, exist_ok=True)
        with closing(Home(self.settings)) as home:
            home.database.migrate()

    def start(self) -> None:
        """Start what does not run."""
        for name, do in (("server", _serve), ("worker", _work)):
            process = self.processes.get(name)
            if process is None or not process.is_alive():
                self.processes[name] = _FORKS.Process(target=do, args=(self.settings,))
                self.processes[name].start()

    def kill(self, which: str) -> None:
        """End the server, the worker, or both, without a word."""
        for name in ("server", "worker") if which == "both" else (which,):
            self.processes[name].kill()
            self.processes[name].join()

    def settle(self) -> None:
        """Wait until nothing is left to be done; what ended the worker too often is tried once more, as people are told to."""
        before: list[tuple[str, str, int]] | None = None
        deadline, again = 0.0, set[str]()
        with closing(Home(self.settings)) as home:
            while True:
                with home.database.read() as session:
                    jobs = [
                        *session.scalars(select(Job).where(Job.state.in_(("queued", "running", "failed"))).order_by(Job.id))
                    ]
                    left = [(job.id, job.state, job.done) for job in jobs if job.state != "failed" or STOPPED in job.trouble]
                if left != before:
                    before, deadline = left, time.monotonic() + STILL_SECONDS
                if not left or time.monotonic() > deadline:
                    return
                for each in {job for job, state, _ in left if state == "failed"} - again:
                    with suppress(OSError):
                        self.ask("POST", f"/api/jobs/{each}/retry")
                        again.add(each)
                time.sleep(0.5)

    def end(self) -> None:
        for process in self.processes.values():
            if process.pid and process.is_alive():
                os.kill(process.pid, signal.SIGTERM)
            process.join(20)

    def ask(self, method: str, path: str, body: bytes = b"", kind: str = "application/json") -> Any:
        """What the server answers.

        Raises
        ------
        OSError
            Where it does not, or refuses.
        """
        address = f"{self.settings.address}{path}"
        request = urllib.request.Request(address, body or None, {"Content-Type": kind}, method=method)
        try:
            with urllib.request.urlopen(request, timeout=10) as answer:
                return json.loads(answer.read() or b"null")
        except http.client.HTTPException as error:  # the server was killed in the middle of its answer
            raise ConnectionError(str(error)) from error


def _quiet(settings: Settings) -> None:
    """What is said of what was broken off goes into a file beside the data."""
    log = os.open(settings.data.with_name("log"), os.O_WRONLY | os.O_CREAT | os.O_APPEND)
    os.dup2(log, 1)
    os.dup2(log, 2)


def _serve(settings: Settings) -> None:
    _quiet(settings)
    server.run(settings)


def _work(settings: Settings) -> None:
    _quiet(settings)
    worker.begin_processes = lambda: None
    worker.run(settings)


class Crowd:
    """People at work: each notes what was acknowledged to them, and begins again where nobody answered."""

    def __init__(self, machine: Machine, told: Told, pause: float = 0.05) -> None:
        self._machine, self._told, self._pause = machine, told, pause
        self._ends = threading.Event()
        self._threads = [
            threading.Thread(target=self._repeat, args=(do,)) for do in (self._strike, self._note, self._add, self._export)
        ]
        self._number = 0
        self._chance = random.Random(2)

    def begin(self) -> None:
        show = self._until(lambda: self._post("/api/shows", {"name": "Bench", "about": ""}))
        made = self._until(lambda: self._post(f"/api/shows/{show['id']}/episodes", {"title": "Kills"}))
        self._episode, self._edition = made["id"], made["editions"][0]["id"]
        self._told.files.append(self._until(self._sent))
        self._until(lambda: self._head()["recorded_time"] > RATE)
        for each in self._threads:
            each.start()

    def end(self) -> None:
        self._ends.set()
        for each in self._threads:
            if each.is_alive():
                each.join()

    def _until(self, do: Callable[[], Any]) -> Any:
        deadline = time.monotonic() + 60
        while time.monotonic() < deadline:
            with suppress(OSError):
                if answer := do():
                    return answer
            time.sleep(0.1)
        raise AssertionError("nothing came about")

    def _repeat(self, do: Callable[[], None]) -> None:
        while not self._ends.is_set():
            with suppress(OSError, ValueError):
                do()
            time.sleep(self._pause)

    def _post(self, path: str, body: Any) -> Any:
        return self._machine.ask("POST", path, json.dumps(body).encode())

    def _head(self) -> Any:
        return self._machine.ask("GET", f"/api/editions/{self._edition}")

    def _named(self, kind: str) -> str:
        self._number += 1
        return f"{kind} {self._number}"

    def _strike(self) -> None:
        head, who = self._head(), self._named("step")
        at = self._chance.randrange(0, max(1, head["recorded_time"] - RATE))
        operation = {"kind": "strike", "ranges": [{"begin": at, "end": at + 9_000}], "reason": "by hand"}
        body = {"revision": head["revision"], "operation": operation, "who": who}
        self._post(f"/api/editions/{self._edition}/operations", body)
        self._told.steps.append(who)

    def _note(self) -> None:
        text = self._named("note")
        self._post(f"/api/episodes/{self._episode}/notes", {"edition": self._edition, "laid": 0, "text": text})
        self._told.notes.append(text)
        time.sleep(0.3)

    def _sent(self) -> str:
        """Add a file; gives the id of its recording."""
        sound = io.BytesIO()
        hertz = self._chance.uniform(100, 2000)
        tone = 0.3 * np.sin(2 * np.pi * hertz * np.arange(SECONDS_OF_SOUND * RATE) / RATE)
        soundfile.write(sound, tone, RATE, format="WAV")
        content = sound.getvalue()
        name = self._named("file").replace(" ", "-")
        path = f"/api/episodes/{self._episode}/recordings?name={name}.wav&transcribe=false"
        return str(self._machine.ask("POST", path, content, "application/octet-stream")["id"])

    def _add(self) -> None:
        self._told.files.append(self._sent())
        time.sleep(3)

    def _export(self) -> None:
        job = self._post(f"/api/editions/{self._edition}/exports", {"form": self._chance.choice(("wav", "txt", "mp3"))})
        self._told.exports.append(job["id"])
        time.sleep(max(1.5, 10 * self._pause))


def look(data: Path, told: Told) -> None:
    """Hold what was acknowledged against what is stored."""
    with closing(Home(Settings(data))) as home:
        home.sweep()
        with home.database.read() as session:
            steps = {*session.scalars(select(LogEntry.who))}
            recordings = {each.id: each for each in session.scalars(select(Recording))}
            notes = json.dumps([each.marks for each in session.scalars(select(Episode))])
            jobs = {each.id: each for each in session.scalars(select(Job))}
            exports = {each.job_id: each for each in session.scalars(select(Export))}
        told.lost += [each for each in told.steps if each not in steps]
        told.lost += [each for each in told.notes if f'"{each}"' not in notes]
        for each in told.files:
            recording = recordings.get(each)
            if recording is None or not home.vault.intact(recording.digest, recording.size) or recording.state != "ready":
                told.lost.append(f"file {each}: {recording.state + recording.trouble if recording else 'not there'}")
        for each in told.exports:
            if each not in jobs or jobs[each].state != "done" or each not in exports:
                how = f"{jobs[each].state} {jobs[each].trouble}" if each in jobs else "not there"
                told.lost.append(f"export {each}: {how}")
        told.faults += [each.told for each in check(home)]
        told.faults += [str(path) for path in home.vault.root.rglob("*.partial")]
        if (data.parent / LIST).exists():
            told.unsynced += [str(path.relative_to(data)) for path in lost(data)]
