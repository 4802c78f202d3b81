"""A service that the settings name, asked by HTTP, and what is told of it where that goes wrong."""

from __future__ import annotations

from collections.abc import Iterable, Iterator, Mapping
from contextlib import contextmanager
from dataclasses import dataclass
from types import MappingProxyType
from typing import Any
from urllib.error import URLError
from urllib.request import Request, urlopen

from jaskel.core.problem import Problem

NO_HEADERS: Mapping[str, str] = MappingProxyType({})


@dataclass(frozen=True)
class Service:
    """``name`` is what it is called in sentences, ``code`` what codes of its problems begin with.

    One that does not answer for so many ``seconds`` is given up.
    """

    name: str
    code: str
    address: str
    seconds: float = 20

    @contextmanager
    def opened(
        self, path: str, method: str = "GET", body: Iterable[bytes] | None = None, headers: Mapping[str, str] = NO_HEADERS
    ) -> Iterator[Any]:
        """Its answer, as a stream.

        Raises
        ------
        Problem
            Its code and ``-away``.
        """
        try:
            asked = Request(self.address.rstrip("/") + path, data=body, method=method, headers=dict(headers))  # type: ignore[arg-type]
            answer = urlopen(asked, timeout=self.seconds)
        except (URLError, OSError, ValueError) as error:
            raise Problem(
                f"{self.code}-away", f"{self.name} does not answer. Does it run, and is its address right?"
            ) from error
        with answer:
            yield answer

    @contextmanager
    def understood(self) -> Iterator[None]:
        """While its answer is read.

        Raises
        ------
        Problem
            Its code and ``-strange``.
        """
        try:
            yield
        except (ValueError, KeyError, TypeError) as error:
            raise Problem(f"{self.code}-strange", f"{self.name} answers in a way that is not understood.") from error
