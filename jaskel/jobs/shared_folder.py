"""A folder that a team shares in the cloud, by WebDAV (RFC 4918): what lies in it is listed, and fetched by its address."""

from __future__ import annotations

from base64 import b64encode
from dataclasses import dataclass
from http.client import HTTPException
from urllib.parse import quote, unquote, urljoin, urlsplit, urlunsplit
from xml.etree.ElementTree import Element, ParseError

from defusedxml.common import DefusedXmlException
from defusedxml.ElementTree import fromstring

from jaskel.core.problem import Problem
from jaskel.jobs.reach import reached
from jaskel.settings import Settings

DAV = "{DAV:}"
LARGEST, MOST = 5_000_000, 2_000
"""Bytes of an answer, and entries of a folder, that are read."""

ASKED = b"""<?xml version="1.0"?>
<propfind xmlns="DAV:"><prop><resourcetype/><getcontentlength/></prop></propfind>"""


@dataclass(frozen=True)
class Entry:
    """What lies in a folder: ``path`` from the shared folder on, and bytes; a folder has none."""

    path: str
    size: int
    is_folder: bool

    @property
    def name(self) -> str:
        return self.path.rstrip("/").rsplit("/", 1)[-1]


class SharedFolder:
    """The folder of the settings.

    Raises
    ------
    Problem
        ``no-shared-folder`` where none is set.
    """

    def __init__(self, settings: Settings) -> None:
        if not settings.shared_folder:
            raise Problem("no-shared-folder", "No shared folder is set. Set JASKEL_SHARED_FOLDER and start again.")
        parts = urlsplit(settings.shared_folder)
        host = parts.hostname or ""
        port = f":{parts.port}" if parts.port else ""
        self._root = urlunsplit((parts.scheme, f"{host}{port}", parts.path.rstrip("/") + "/", "", ""))
        # Whoever set it knows where it is.
        self.allowed = (*settings.reach, host)
        told = f"{unquote(parts.username)}:{unquote(parts.password or '')}" if parts.username else ""
        self.headers = {"Authorization": "Basic " + b64encode(told.encode()).decode()} if told else {}

    def address_of(self, path: str) -> str:
        """Where something in it lies.

        Raises
        ------
        Problem
            ``no-file`` for a path that leads out of it.
        """
        parts = path.strip("/").split("/") if path.strip("/") else []
        if any(part in ("", ".", "..") for part in parts):
            raise Problem("no-file", "This does not lie in the shared folder. Choose a file that is listed.")
        return self._root + "/".join(quote(part) for part in parts)

    def listed(self, path: str = "") -> list[Entry]:
        """What lies in a folder of it, folders first.

        Raises
        ------
        Problem
            ``folder-strange``, or why it cannot be reached.
        """
        address = self.address_of(path).rstrip("/") + "/"
        headers = {"Depth": "1", "Content-Type": "application/xml", **self.headers}
        with reached(address, self.allowed, method="PROPFIND", headers=headers, body=ASKED) as (answer, _):
            try:
                content = answer.read(LARGEST + 1)
            except (OSError, HTTPException) as error:
                raise Problem("no-answer", "The shared folder breaks off while it answers. Try again later.") from error
        try:
            if len(content) > LARGEST:
                raise ValueError("too long")
            found = [self._entry(address, each) for each in fromstring(content).iter(f"{DAV}response")]
        except (ValueError, ParseError, DefusedXmlException) as error:
            raise Problem("folder-strange", "The shared folder answers in a way that is not understood.") from error
        here = urlsplit(address).path
        inside = [each for each in found if each and self.address_of(each.path).rstrip("/") + "/" != urljoin(address, here)]
        return sorted(inside[:MOST], key=lambda each: (not each.is_folder, each.name.casefold()))

    def _entry(self, address: str, response: Element) -> Entry | None:
        path = urlsplit(urljoin(address, response.findtext(f"{DAV}href", ""))).path
        root = urlsplit(self._root).path
        if not path.startswith(root):
            return None
        size = next((each.text or "" for each in response.iter(f"{DAV}getcontentlength")), "")
        folder = next(response.iter(f"{DAV}collection"), None) is not None
        return Entry(unquote(path.removeprefix(root)).rstrip("/"), int(size) if size.isdigit() else 0, folder)
