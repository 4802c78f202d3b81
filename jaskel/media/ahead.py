"""Work that is done while the result before it is used."""

from __future__ import annotations

from collections.abc import Generator, Iterator
from concurrent.futures import ThreadPoolExecutor
from typing import TypeVar

T = TypeVar("T")


def one_ahead(items: Iterator[T]) -> Generator[T, None, None]:
    """The same items, each made in a thread of its own while the one before is used. None of them is None.

    Errors come where the item would have. Close it where not all are taken.
    """
    with ThreadPoolExecutor(1) as aside:
        coming = aside.submit(next, items, None)
        while (item := coming.result()) is not None:
            coming = aside.submit(next, items, None)
            yield item
