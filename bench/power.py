"""The power is lost at random while people edit, add files and export: what was acknowledged is there afterwards.

As :mod:`bench.kills`, but what server and worker had not synced is forgotten as well, of the database and of all files.
"""

from __future__ import annotations

import random
from collections.abc import Iterator
from pathlib import Path

from bench.figure import Figure
from bench.forgetful import Power
from bench.kills import Machine, Told, at_work

LOSSES = 100
PAUSE = 2.0, 9.0
"""Seconds between two, at least and at most: everything starts anew after each, and jobs are to be half done at some."""


def figures(folder: Path) -> Iterator[Figure]:
    """A hundred losses of power."""
    try:
        told, writes = run(folder, LOSSES, seed=1)
    except OSError as error:
        yield Figure("losses of power", "not measured", str(error), True)
        return
    missing, faults = (f"{len(each)} {'; '.join(each[:5])}".strip() for each in (told.lost, told.faults))
    yield Figure(f"{LOSSES} losses of power: writes that were forgotten", str(writes), "", writes > 0)
    yield Figure(f"of {told.acknowledged} acknowledged changes, lost", missing, "0", not told.lost)
    yield Figure("faults found by jaskel check after them", faults, "0", not told.faults)


def run(folder: Path, losses: int, seed: int) -> tuple[Told, int]:
    """Lose the power so many times, and look what is there; gives how many writes were forgotten, too."""
    power = Power(folder / "root", folder / "place")

    def lose(machine: Machine, _chance: random.Random) -> None:
        machine.kill("both")
        power.lose()
        power.on()

    power.on()
    try:
        told = at_work(power.place / "data", losses, seed, lose, PAUSE)
    finally:
        power.lose()
    return told, power.forgotten
