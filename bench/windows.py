"""Many open windows and several editors at one server: who comes anew is served at once, and edits stay quick."""

from __future__ import annotations

import json
import random
import re
import selectors
import socket
import statistics
import time
import urllib.request
from collections.abc import Iterator
from pathlib import Path
from threading import Event, Thread

from bench.figure import Figure
from bench.serving import fetched, operated, served, settings_in
from jaskel.core.transcript import Word
from jaskel.settings import Settings
from jaskel.store import library
from jaskel.store.home import Home
from jaskel.store.models import Recording

WINDOWS, HALF_SENT, EDITORS, EDITS, WORDS = 100, 40, 20, 15, 20_000
PAUSE = 1.0, 3.0
"""Seconds between two edits of one person."""
RATE = 48_000


def figures(folder: Path) -> Iterator[Figure]:
    """A hundred windows with their events, forty requests that are only half there, twenty editors at once."""
    settings, editions = _made(folder / "windows")
    with served(settings):
        sockets = [_opened(settings, "GET /api/notices HTTP/1.1", "\r\n\r\n") for _ in range(WINDOWS)]
        sockets += [_opened(settings, "POST /api/shows HTTP/1.1", "\r\nContent-Length: 900\r\n\r\n{") for _ in range(HALF_SENT)]
        for each in sockets[:WINDOWS]:
            _greeted(each)
        begun = time.perf_counter()
        urllib.request.urlopen(f"{settings.address}/", timeout=20).read()
        visitor = time.perf_counter() - begun
        taken: list[float] = []
        listening = _Listening(sockets[:WINDOWS])
        listening.start()
        editors = [Thread(target=_edit, args=(settings, edition, taken, listening.sent)) for edition in editions]
        for each in editors:
            each.start()
        for each in editors:
            each.join()
        listening.finish()
        for each in sockets:
            each.close()
    at_95 = statistics.quantiles(taken, n=20)[-1]
    yield Figure(f"a new visitor beside {WINDOWS} windows", f"{visitor:.2f} s", "≤ 1 s", visitor <= 1)
    yield Figure(f"edits by {EDITORS} people, 95th percentile", f"{at_95 * 1000:.0f} ms", "≤ 100 ms", at_95 <= 0.1)
    heard_95 = statistics.quantiles(listening.heard, n=20)[-1]
    yield Figure(f"and all {WINDOWS} windows hear of them within", f"{heard_95 * 1000:.0f} ms", "≤ 500 ms", heard_95 <= 0.5)
    missed = EDITORS * EDITS * WINDOWS - len(listening.heard)
    yield Figure("edits that a window did not hear of", str(missed), "0", not missed)


def _made(folder: Path) -> tuple[Settings, list[str]]:
    """A data folder with an edition for each editor, a thousand words in each."""
    from jaskel.core.operations import Append

    settings = settings_in(folder)
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


def _opened(settings: Settings, first: str, rest: str) -> socket.socket:
    opened = socket.create_connection((settings.host, settings.port), timeout=20)
    opened.sendall(f"{first}\r\nHost: {settings.host}:{settings.port}{rest}".encode())
    return opened


def _greeted(window: socket.socket) -> None:
    """Wait until a window has heard the first of its events."""
    heard = b""
    while b"hello" not in heard:
        heard += window.recv(4096)


class _Listening(Thread):
    """All windows: when each hears that an edition has a revision, since it was sent."""

    NOTICE = re.compile(rb"event: edition\n(?:[^\n]+\n)*?data: (\{[^\n]*\})\n")

    def __init__(self, windows: list[socket.socket]) -> None:
        super().__init__(daemon=True)
        self.sent: dict[tuple[str, int], float] = {}
        self.heard: list[float] = []
        self._ends = Event()
        self._known = {each.fileno(): (each, bytearray()) for each in windows}

    def run(self) -> None:
        selector = selectors.DefaultSelector()
        for window, _ in self._known.values():
            selector.register(window, selectors.EVENT_READ)
        while not self._ends.is_set():
            for key, _ in selector.select(0.2):
                window, come = self._known[key.fd]
                come += window.recv(1 << 16)
                at = time.perf_counter()
                whole, mark, rest = bytes(come).rpartition(b"\n\n")
                come[:] = rest
                for told in self.NOTICE.findall(whole + mark):
                    notice = json.loads(told)
                    if sent := self.sent.get((notice["id"], notice["revision"])):
                        self.heard.append(at - sent)

    def finish(self) -> None:
        """Wait for what is still on its way."""
        time.sleep(2)
        self._ends.set()
        self.join()


def _edit(settings: Settings, edition: str, taken: list[float], sent: dict[tuple[str, int], float]) -> None:
    """What one person does: they open their edition, and then edit it."""
    revision, chance = 1, random.Random(edition)
    for part in ("", "/page", "/plan"):
        fetched(settings, f"/api/editions/{edition}{part}")
    time.sleep(chance.uniform(*PAUSE))
    for number in range(EDITS):
        ranges = [{"begin": number * RATE, "end": number * RATE + RATE // 3}]
        begun = sent[edition, revision + 1] = time.perf_counter()
        revision = operated(settings, edition, revision, kind="strike", ranges=ranges)
        taken.append(time.perf_counter() - begun)
        time.sleep(chance.uniform(*PAUSE))
