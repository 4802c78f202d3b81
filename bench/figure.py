"""One measurement, and how time is taken."""

from __future__ import annotations

import time
from collections.abc import Callable
from dataclasses import dataclass


@dataclass(frozen=True)
class Figure:
    """One measurement; ``reach`` is what it should be, and ``good`` whether it is."""

    name: str
    value: str
    reach: str
    good: bool


def timed(work: Callable[[], object], times: int = 1) -> float:
    """The least seconds ``work`` took."""
    taken = []
    for _ in range(times):
        begun = time.perf_counter()
        work()
        taken.append(time.perf_counter() - begun)
    return min(taken)
