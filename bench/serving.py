"""A server by itself, as the bench asks it."""

from __future__ import annotations

import json
import os
import socket
import subprocess
import sys
import time
import urllib.request
from collections.abc import Iterator
from contextlib import contextmanager
from pathlib import Path
from typing import Any

from jaskel.settings import Settings


def settings_in(folder: Path) -> Settings:
    """Settings with a port that is free."""
    with socket.socket() as free:
        free.bind(("127.0.0.1", 0))
        return Settings(folder, port=free.getsockname()[1])


@contextmanager
def served(settings: Settings) -> Iterator[None]:
    """The server without a worker, once it answers."""
    command = [sys.executable, "-m", "jaskel.cli", "server"]
    server = subprocess.Popen(command, env={**os.environ, **settings.environment()}, stderr=subprocess.DEVNULL)
    try:
        for _ in range(200):
            try:
                urllib.request.urlopen(f"{settings.address}/api/shows", timeout=2).read()
                break
            except OSError:
                time.sleep(0.1)
        yield
    finally:
        server.terminate()
        server.wait()


def fetched(settings: Settings, path: str) -> bytes:
    """What the server answers."""
    with urllib.request.urlopen(f"{settings.address}{path}", timeout=60) as response:
        return bytes(response.read())


def operated(settings: Settings, edition: str, revision: int, **operation: Any) -> int:
    """Do something to an edition; gives the revision it has then."""
    body = json.dumps({"revision": revision, "operation": operation}).encode()
    url = f"{settings.address}/api/editions/{edition}/operations"
    with urllib.request.urlopen(
        urllib.request.Request(url, body, {"Content-Type": "application/json"}), timeout=60
    ) as response:
        return int(json.load(response)["revision"])
