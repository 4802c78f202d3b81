"""Work on one part of a recording while the next ones are already begun."""

from __future__ import annotations

import multiprocessing
import os
from collections import deque
from collections.abc import Callable, Iterable, Iterator, Sequence
from concurrent.futures import Executor, Future, ProcessPoolExecutor, ThreadPoolExecutor
from contextlib import contextmanager
from threading import Thread
from typing import TypeVar

AHEAD = 2
"""So many groups are recognised at the same time, while the parts of a third are aligned."""

GROUP = 2
"""So many parts are recognised together. Four are hardly quicker beside another group, and take 300 MB more memory."""

PROCESSORS = os.cpu_count() or 2

Item = TypeVar("Item")
Result = TypeVar("Result")


def begun_ahead(work: Callable[[Item], Result], items: Iterable[Item], ahead: int = AHEAD) -> Iterator[tuple[Item, Result]]:
    """Each item with what ``work`` makes of it, in order; other threads work on the next ``ahead`` of them meanwhile.

    ``items`` are drawn in the thread of the caller. Whoever stops in between waits for what is being worked on, no longer.
    """
    with ThreadPoolExecutor(ahead) as pool:
        yield from _begun(pool, work, items, ahead)


def _begun(pool: Executor, work: Callable[[Item], Result], items: Iterable[Item], ahead: int) -> Iterator[tuple[Item, Result]]:
    begun: deque[tuple[Item, Future[Result]]] = deque()
    try:
        for item in items:
            begun.append((item, pool.submit(work, item)))
            if len(begun) > ahead:
                first, result = begun.popleft()
                yield first, result.result()
        while begun:
            first, result = begun.popleft()
            yield first, result.result()
    finally:
        for _, result in begun:
            result.cancel()


def grouped(items: Iterable[Item], most: int = GROUP) -> Iterator[Sequence[Item]]:
    """Items in groups of ``most``; the first ones are smaller, so that something is there soon."""
    group: list[Item] = []
    size = 1
    for item in items:
        group.append(item)
        if len(group) == size:
            yield group
            group, size = [], min(most, size * 2)
    if group:
        yield group


@contextmanager
def elsewhere(worthwhile: bool = True) -> Iterator[Callable[[Callable[[Item], Result], Iterable[Item]], Iterator[Result]]]:
    """A ``map`` whose work is done by other processes, one for each of the machine's processors, where that is worthwhile.

    For work that keeps the interpreter to itself, so that threads would wait for each other. Function, items and results travel
    between processes; at most two items for each process are on their way.
    """
    if not worthwhile:
        yield map
        return
    context = multiprocessing.get_context("spawn")
    with ProcessPoolExecutor(PROCESSORS, mp_context=context, initializer=_end_with_parent) as pool:
        yield lambda work, items: (result for _, result in _begun(pool, work, items, 2 * PROCESSORS))


def _end_with_parent() -> None:
    """Whoever was started to work for a process is of no use after its end, however that came."""

    def watch() -> None:
        if parent := multiprocessing.parent_process():
            parent.join()
        os._exit(1)

    Thread(target=watch, daemon=True).start()
