"""The power is lost at random while people edit, add files and export: what was acknowledged is there afterwards.

As :mod:`bench.kills`, but what server and worker had not synced is forgotten as well, of the database and of all files.
"""

from __future__ import annotations

import random
import time
from collections.abc import Iterator
from pathlib import Path

from bench.figure import Figure
from bench.forgetful import Power
from bench.kills import PAUSE, Crowd, Machine, Told, look

LOSSES = 200


def figures(folder: Path) -> Iterator[Figure]:
    """Two hundred losses of power."""
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
    """Lose the power so many times, let the rest be done, and look what is there; gives how many writes were forgotten, too."""
    power, told = Power(folder / "root", folder / "place"), Told()
    power.on()
    try:
        machine = Machine(power.place / "data")
        machine.start()
        crowd = Crowd(machine, told)
        try:
            crowd.begin()
            chance = random.Random(seed)
            for _ in range(losses):
                time.sleep(chance.uniform(*PAUSE))
                machine.kill("both")
                power.lose()
                power.on()
                machine.start()
            crowd.end()
            machine.settle()
        finally:
            crowd.end()
            machine.end()
        look(power.place / "data", told)
    finally:
        power.lose()
    return told, power.forgotten
