"""Many open windows and several editors at one server: who comes anew is served at once, and edits stay quick."""

from __future__ import annotations

import json
import os
import socket
import statistics
import subprocess
import sys
import time
import urllib.request
from collections.abc import Iterator
from pathlib import Path
from threading import Thread

from bench.figure import Figure
from jaskel.core.transcript import Word
from jaskel.settings import Settings
from jaskel.store import library
from jaskel.store.home import Home
from jaskel.store.models import Recording

WINDOWS, HALF_SENT, EDITORS, EDITS, WORDS = 200, 40, 8, 25, 8_000
RATE = 48_000


def figures(folder: Path) -> Iterator[Figure]:
    """Two hundred windows with their events, forty requests that are only half there, eight editors at once."""
    settings, editions = _made(folder / "windows")
    command = [sys.executable, "-m", "jaskel.cli", "server"]
    server = subprocess.Popen(command, env={**os.environ, **settings.environment()}, stderr=subprocess.DEVNULL)
    try:
        _wait(settings)
        sockets = [_opened(settings, "GET /api/notices HTTP/1.1", "\r\n\r\n") for _ in range(WINDOWS)]
        sockets += [_opened(settings, "POST /api/shows HTTP/1.1", "\r\nContent-Length: 900\r\n\r\n{") for _ in range(HALF_SENT)]
        for each in sockets[:WINDOWS]:
            _greeted(each)
        begun = time.perf_counter()
        urllib.request.urlopen(f"{settings.address}/", timeout=20).read()
        visitor = time.perf_counter() - begun
        taken: list[float] = []
        editors = [Thread(target=_edit, args=(settings, edition, taken)) for edition in editions]
        for each in editors:
            each.start()
        for each in editors:
            each.join()
        for each in sockets:
            each.close()
    finally:
        server.terminate()
        server.wait()
    at_95 = statistics.quantiles(taken, n=20)[-1]
    yield Figure(f"a new visitor beside {WINDOWS} windows", f"{visitor:.2f} s", "≤ 1 s", visitor <= 1)
    yield Figure(f"edits by {EDITORS} at once, 95th percentile", f"{at_95 * 1000:.0f} ms", "≤ 100 ms", at_95 <= 0.1)


def _made(folder: Path) -> tuple[Settings, list[str]]:
    """A data folder with an edition for each editor, a thousand words in each."""
    from jaskel.core.operations import Append

    with socket.socket() as free:
        free.bind(("127.0.0.1", 0))
        settings = Settings(folder, port=free.getsockname()[1])
    home = Home(settings)
    home.database.migrate()
    editions = []
    with home.database.write() as session:
        show = library.new_show(session, "Bench")
        for number in range(EDITORS):
            episode = library.new_episode(session, show, f"Episode {number}")
            length = (WORDS // EDITORS) * RATE // 2
            row = Recording(episode_id=episode.id, name="a", digest=str(number), size=1, info={}, length=length, state="ready")
            session.add(row)
            session.flush()
            words = [Word(f"word{i}", i * RATE // 2, i * RATE // 2 + RATE // 3, 0.9) for i in range(WORDS // EDITORS)]
            home.transcripts.extend(session, row, 0, length, words)
            home.editions.arrive(session, episode.editions[0].id, Append(row.id, length))
            editions.append(episode.editions[0].id)
    home.close()
    return settings, editions


def _wait(settings: Settings) -> None:
    for _ in range(200):
        try:
            urllib.request.urlopen(f"{settings.address}/api/shows", timeout=2).read()
            return
        except OSError:
            time.sleep(0.1)


def _opened(settings: Settings, first: str, rest: str) -> socket.socket:
    opened = socket.create_connection((settings.host, settings.port), timeout=20)
    opened.sendall(f"{first}\r\nHost: {settings.host}:{settings.port}{rest}".encode())
    return opened


def _greeted(window: socket.socket) -> None:
    """Wait until a window has heard the first of its events."""
    heard = b""
    while b"hello" not in heard:
        heard += window.recv(4096)


def _edit(settings: Settings, edition: str, taken: list[float]) -> None:
    revision = 1
    for number in range(EDITS):
        ranges = [{"begin": number * RATE, "end": number * RATE + RATE // 3}]
        body = {"revision": revision, "operation": {"kind": "strike", "ranges": ranges}}
        url = f"{settings.address}/api/editions/{edition}/operations"
        request = urllib.request.Request(url, json.dumps(body).encode(), {"Content-Type": "application/json"})
        begun = time.perf_counter()
        with urllib.request.urlopen(request, timeout=20) as response:
            revision = json.load(response)["revision"]
        taken.append(time.perf_counter() - begun)
        time.sleep(0.4)  # nobody strikes faster for long
