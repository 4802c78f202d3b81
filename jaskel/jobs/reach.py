"""Reaching addresses that people give: only http and https, and never what lies within this machine or its network.

A name is looked up once, and the connection goes to the number that was found and looked at: a name that leads elsewhere a
moment later leads nowhere. Every redirection is looked at in the same way.
"""

from __future__ import annotations

import ipaddress
import socket
import ssl
from collections.abc import Iterator, Mapping
from contextlib import contextmanager
from http.client import HTTPConnection, HTTPException, HTTPResponse
from urllib.parse import SplitResult, quote, urljoin, urlsplit

from jaskel.core.problem import Problem

SECONDS = 30
"""Of silence, after which an address is given up."""

MOST_STEPS = 5
"""Redirections that are followed."""

LONGEST = 2_000
"""Characters of an address."""


class _Fixed(HTTPConnection):
    """A connection to a number that was looked at, under the name that people gave."""

    def __init__(self, parts: SplitResult, number: str) -> None:
        secure = parts.scheme == "https"
        super().__init__(parts.hostname or "", parts.port or (443 if secure else 80), timeout=SECONDS)
        self._number, self._secure = number, secure

    def connect(self) -> None:
        self.sock = socket.create_connection((self._number, self.port), self.timeout)
        if self._secure:
            self.sock = ssl.create_default_context().wrap_socket(self.sock, server_hostname=self.host)


def looked_at(address: str, allowed: tuple[str, ...] = ()) -> tuple[SplitResult, str]:
    """An address in its parts, and the number its name leads to.

    ``allowed`` names hosts that may lie within this machine or its network.

    Raises
    ------
    Problem
        ``no-address``, ``no-such-host`` or ``not-reachable``.
    """
    if len(address) > LONGEST or any(ord(letter) <= 32 for letter in address):
        raise Problem("no-address", "That is no address. It looks like https://example.org/talk.mp3.")
    try:
        parts = urlsplit(address)
        port = parts.port
    except ValueError as error:
        raise Problem("no-address", "That is no address. It looks like https://example.org/talk.mp3.") from error
    if parts.scheme not in ("http", "https") or not parts.hostname or parts.username is not None:
        raise Problem("no-address", "Addresses begin with http:// or https:// and have no name and password.")
    try:
        found = socket.getaddrinfo(parts.hostname, port or (443 if parts.scheme == "https" else 80), type=socket.SOCK_STREAM)
    except (OSError, UnicodeError) as error:
        raise Problem("no-such-host", f"“{parts.hostname}” cannot be found. Is it spelt right?") from error
    numbers = [str(each[4][0]) for each in found]
    if parts.hostname not in allowed and not all(_public(number) for number in numbers):
        raise Problem(
            "not-reachable",
            f"“{parts.hostname}” lies within this machine or its network. Name it in JASKEL_REACH to allow that.",
        )
    return parts, numbers[0]


def _public(number: str) -> bool:
    address = ipaddress.ip_address(number.split("%")[0])
    if isinstance(address, ipaddress.IPv6Address):
        inner = address.ipv4_mapped or address.sixtofour or (address.teredo[1] if address.teredo else None)
        if inner is not None:
            address = inner
    return address.is_global and not address.is_multicast


@contextmanager
def reached(
    address: str,
    allowed: tuple[str, ...] = (),
    *,
    method: str = "GET",
    headers: Mapping[str, str] = {},
    body: bytes | None = None,
) -> Iterator[tuple[HTTPResponse, str]]:
    """The answer of an address and where it came from in the end: redirections are followed (of a GET).

    Raises
    ------
    Problem
        As :func:`looked_at`, and ``no-answer`` or ``refused``.
    """
    for _ in range(MOST_STEPS + 1):
        parts, number = looked_at(address, allowed)
        connection = _Fixed(parts, number)
        try:
            path = quote(parts.path or "/", safe="/%:@!$&'()*+,;=~-._") + (f"?{parts.query}" if parts.query else "")
            connection.request(method, path, body, {"User-Agent": "Jaskel", "Accept": "*/*", **headers})
            answer = connection.getresponse()
        except (OSError, HTTPException, ValueError) as error:
            connection.close()
            raise Problem("no-answer", f"“{parts.hostname}” does not answer. Try again later.") from error
        if method == "GET" and answer.status in (301, 302, 303, 307, 308) and (to := answer.headers.get("Location")):
            connection.close()
            address = urljoin(address, to)
            continue
        try:
            if answer.status >= 400:
                raise Problem("refused", f"“{parts.hostname}” answers with {answer.status}: {answer.reason or 'no'}.")
            yield answer, address
            return
        finally:
            connection.close()
    raise Problem("too-many-steps", "This address leads on and on to others.")
