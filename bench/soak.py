"""A day of use in twenty minutes: people edit, note, add files and export without a pause, and all is restarted on the way.

What is held in memory, and how many files and threads there are, is looked at once all of it is warm, and at the end.
"""

from __future__ import annotations

import statistics
import time
from collections.abc import Iterator
from dataclasses import dataclass
from pathlib import Path

import psutil
from sqlalchemy import func, select

from bench.figure import Figure
from bench.kills import Crowd, Machine, Told, look
from jaskel.store.home import Home
from jaskel.store.models import LogEntry

MINUTES = 20.0
RESTARTS = 0.05, 0.1, 0.15
"""Shares of the time after which both processes are restarted; from the last on they stay."""

WARM = 0.35, 0.45
END = 0.9, 1.0
"""Between these shares of the time it is looked at what they hold."""

EVERY = 2.0
"""Seconds."""

MORE = 1.15
"""So many times as much may be held at the end: what was edited lies in memory, too."""

FEW = 8
"""So many more files and threads may be there for a moment."""


@dataclass(frozen=True)
class Held:
    """What a process holds at a share of the time."""

    share: float
    memory: int
    files: int
    threads: int


def figures(folder: Path, minutes: float = MINUTES) -> Iterator[Figure]:
    """Memory, files and threads of server and worker, and what a step of an edition takes in the database."""
    machine, told = Machine(folder / "soak"), Told()
    held: dict[str, list[Held]] = {"server": [], "worker": []}
    sizes: list[tuple[float, int, int]] = []
    machine.start()
    crowd = Crowd(machine, told, pause=0.4)
    try:
        crowd.begin()
        begun, restarts = time.monotonic(), list(RESTARTS)
        while (share := (time.monotonic() - begun) / (60 * minutes)) < 1:
            if restarts and share > restarts[0]:
                restarts.pop(0)
                machine.end()
                machine.start()
            for name, process in machine.processes.items():
                if process.pid and share > RESTARTS[-1]:
                    held[name].append(_held(share, psutil.Process(process.pid)))
            sizes.append((share, *_size(machine)))
            time.sleep(EVERY)
        crowd.end()
        machine.settle()
    finally:
        crowd.end()
        machine.end()
    look(machine.settings.data, told)
    lost = f"{len(told.lost)} {'; '.join(told.lost[:3])}".strip()
    yield Figure(f"{minutes:.0f} minutes: {told.acknowledged} changes, lost", lost, "0", not told.lost)
    yield Figure("faults found by jaskel check after them", str(len(told.faults)), "0", not told.faults)
    for name, known in held.items():
        warm, end = ([each for each in known if one <= each.share <= other] for one, other in (WARM, END))
        before, after = (statistics.median(each.memory for each in some) for some in (warm, end))
        grown = after / before
        yield Figure(f"memory of the {name} at the end", f"{after / 1e6:.0f} MB", "", True)
        yield Figure("as against when it was warm", f"{grown:.2f} ×", f"≤ {MORE}", grown <= MORE)
        files, threads = (max(getattr(each, what) for each in end) - max(getattr(each, what) for each in warm)
                          for what in ("files", "threads"))  # fmt: skip
        yield Figure(
            f"more open files and threads of the {name}", f"{files} and {threads}", f"≤ {FEW}", max(files, threads) <= FEW
        )
    first, last = _a_step(sizes, 0.15, 0.5), _a_step(sizes, 0.5, 1.0)
    yield Figure("a step takes in the database, late to early", f"{last / first:.2f} ×", "≤ 1.3", last / first <= 1.3)


def _held(share: float, process: psutil.Process) -> Held:
    with process.oneshot():
        return Held(share, process.memory_info().rss, process.num_fds(), process.num_threads())


def _size(machine: Machine) -> tuple[int, int]:
    """Bytes of the database, and steps that are in it."""
    home = Home(machine.settings)
    try:
        with home.database.read() as session:
            steps = session.scalar(select(func.count()).select_from(LogEntry)) or 0
    finally:
        home.close()
    file = machine.settings.database
    return sum(path.stat().st_size for path in file.parent.glob(f"{file.name}*")), steps


def _a_step(sizes: list[tuple[float, int, int]], since: float, until: float) -> float:
    """Bytes by which the database grew for each step between two shares of the time."""
    known = [each for each in sizes if since <= each[0] <= until]
    (_, before, few), (_, after, many) = known[0], known[-1]
    return max(1, after - before) / max(1, many - few)
