"""The library of pictures that is subscribed to: searching it, and fetching from it."""

from __future__ import annotations

import json
from collections.abc import Iterator
from contextlib import contextmanager
from typing import Any, Protocol
from urllib.parse import quote, urlencode

from jaskel.core.problem import Problem
from jaskel.jobs.service import Service
from jaskel.jobs.workshop import Workshop
from jaskel.media.probe import MediaInfo, probe, room_for
from jaskel.store.vault import Received

MOST_BYTES = 2_000_000_000
"""No picture or film that is fetched is larger."""


class PictureLibrary(Protocol):
    """What is asked of a library; an adapter for a real one offers the same."""

    def search(self, text: str) -> list[dict[str, Any]]:
        """Pictures and films by words or by the meaning of a sentence, the nearest first; of each ``id``, ``name`` (of its
        file), ``seen`` (what is seen in it), ``kind`` (``still`` or ``film``), ``size`` in bytes, ``width``, ``height`` and
        ``seconds``.
        """
        ...

    def preview(self, picture: str) -> bytes:
        """A small JPEG of one."""
        ...

    def file(self, picture: str) -> Any:
        """A context manager that gives its file as a stream."""
        ...


class HttpPictureLibrary:
    """A library that speaks the API of ``docs/picture-library.md``."""

    def __init__(self, address: str) -> None:
        self._library = Service("The library of pictures", "library", address)

    def search(self, text: str) -> list[dict[str, Any]]:
        with self._library.opened(f"/search?{urlencode({'text': text})}") as answer, self._library.understood():
            return list(json.load(answer)["pictures"])

    def preview(self, picture: str) -> bytes:
        with self._library.opened(f"/previews/{quote(picture, safe='')}") as answer:
            found: bytes = answer.read(5_000_000)
            return found

    @contextmanager
    def file(self, picture: str) -> Iterator[Any]:
        with self._library.opened(f"/files/{quote(picture, safe='')}") as answer:
            yield answer


def pictures_of(workshop: Workshop) -> PictureLibrary:
    """The library of the settings.

    Raises
    ------
    Problem
        ``no-library``.
    """
    address = workshop.settings.picture_library
    if not address:
        raise Problem("no-library", "No library of pictures is set. Set JASKEL_PICTURE_LIBRARY and start again.")
    return HttpPictureLibrary(address)


def fetched(workshop: Workshop, id: str, name: str, size: int) -> tuple[Received, MediaInfo]:
    """A picture or film of the library, in the vault.

    Raises
    ------
    Problem
        ``library-away``, or what is wrong with the file.
    """
    vault = workshop.home.vault
    room_for(vault.root, size, name)
    with pictures_of(workshop).file(id) as stream, vault.receive(stream, name, size) as received:
        info = probe(received.path, name)
        vault.keep(received)
    return received, info
