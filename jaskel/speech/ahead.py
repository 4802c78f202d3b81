"""Work on one part of a recording while the next ones are already begun."""

from __future__ import annotations

from collections import deque
from collections.abc import Callable, Iterable, Iterator
from concurrent.futures import Future, ThreadPoolExecutor
from typing import TypeVar

AHEAD = 2
"""Two parts are recognised in four fifths of the time that they take one after the other, while a third is aligned."""


Item = TypeVar("Item")
Result = TypeVar("Result")


def begun_ahead(work: Callable[[Item], Result], items: Iterable[Item], ahead: int = AHEAD) -> Iterator[tuple[Item, Result]]:
    """Each item with what ``work`` makes of it, in order; other threads work on the next ``ahead`` of them meanwhile.

    ``items`` are drawn in the thread of the caller. Whoever stops in between waits for what is being worked on, no longer.
    """
    begun: deque[tuple[Item, Future[Result]]] = deque()
    with ThreadPoolExecutor(ahead) as pool:
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
