"""The server itself, over sockets: many windows, half requests, and files."""

from __future__ import annotations

import asyncio
import json
import socket
import time
import urllib.request
from threading import Thread

import pytest
import uvicorn
from conftest import RATE, tone, write_media
from test_api import strike

from jaskel.store.notices import post
from jaskel.web import server
from jaskel.web.server import Board, Front, TimedProtocol

WINDOWS = 200


class Serving:
    """A server in a thread of its own, on a free port."""

    def __init__(self, jaskel) -> None:
        app = jaskel.client.application
        app.config["USE_X_SENDFILE"] = True
        with socket.socket() as free:
            free.bind(("127.0.0.1", 0))
            self.port = free.getsockname()[1]
        config = uvicorn.Config(
            Front(app, jaskel.workshop.home), port=self.port, http=TimedProtocol, ws="none", lifespan="off", log_level="error",
            timeout_graceful_shutdown=1,
        )  # fmt: skip
        self._server = uvicorn.Server(config)
        self._thread = Thread(target=self._server.run)
        self._thread.start()
        while not self._server.started:
            time.sleep(0.01)

    def stop(self) -> None:
        self._server.should_exit = True
        self._thread.join(10)

    def connect(self, request: str) -> socket.socket:
        """A connection on which some of a request was sent."""
        opened = socket.create_connection(("127.0.0.1", self.port), timeout=20)
        opened.sendall(request.replace("\n", "\r\n").encode())
        return opened

    def get(self, path: str, **headers: str):
        return urllib.request.urlopen(
            urllib.request.Request(f"http://127.0.0.1:{self.port}{path}", headers=headers), timeout=20
        )


@pytest.fixture
def serving(jaskel):
    made = Serving(jaskel)
    yield made
    made.stop()


@pytest.fixture
def edition(jaskel, tmp_path):
    episode = jaskel.episode()
    jaskel.upload(episode["id"], write_media(tmp_path / "a.wav", tone(6)))
    jaskel.work("prepare")
    return episode["editions"][0]["id"]


def heard(stream: socket.socket, text: str) -> str:
    seen = ""
    while text not in seen:
        piece = stream.recv(65536)
        assert piece, seen
        seen += piece.decode()
    return seen


def window(serving, last: str = "") -> socket.socket:
    since = f"Last-Event-ID: {last}\n" if last else ""
    return serving.connect(f"GET /api/notices HTTP/1.1\nHost: 127.0.0.1:{serving.port}\n{since}\n")


def test_notices_reach_a_window_also_those_it_missed(jaskel, edition, serving):
    stream = window(serving, "0")
    strike(jaskel, edition, 1, (RATE, 2 * RATE))
    told = heard(stream, '"revision": 2')
    assert "event: hello" in told and "event: edition" in told
    assert "text/event-stream" in told and "Content-Security-Policy".lower() in told.lower()
    assert "x-jaskel-follow" not in told.lower()
    stream.close()


def test_the_first_window_misses_nothing_while_it_opens(jaskel, monkeypatch):
    home, newest, asked = jaskel.workshop.home, Board._newest, []

    def slow_the_second_time(board: Board) -> int:
        asked.append(board)
        time.sleep(0.5 if len(asked) == 2 else 0)
        return newest(board)

    async def told() -> bytes:
        stream = Board(home).followed("", None, asyncio.Event().wait)
        assert b"hello" in await anext(stream)
        following = asyncio.ensure_future(anext(stream))
        await asyncio.sleep(0.1)
        with home.database.write() as session:
            post(session, "recording", "ep")
        return await asyncio.wait_for(following, 5)

    monkeypatch.setattr(Board, "_newest", slow_the_second_time)
    assert b"event: recording" in asyncio.run(told())


def test_many_windows_and_half_requests_hold_nobody_up(jaskel, edition, serving):
    streams = [window(serving) for _ in range(WINDOWS)]
    for stream in streams:
        heard(stream, "event: hello")
    path = "/api/episodes/x/recordings?name=a.wav"
    half = [serving.connect("GET / HTTP/1.1\nHost: 127.0.0.1\nX: ") for _ in range(20)]
    half += [serving.connect(f"POST {path} HTTP/1.1\nHost: 127.0.0.1\nContent-Length: 9000\n\nabc") for _ in range(20)]
    half += [serving.connect(f"POST {path} HTTP/1.1\nHost: 127.0.0.1\nContent-Length: 90000000\n\nabc") for _ in range(20)]
    begun = time.monotonic()
    with serving.get("/api/shows") as response:
        assert json.load(response)
    assert time.monotonic() - begun < server.STALL_SECONDS / 2
    strike(jaskel, edition, 1, (RATE, 2 * RATE))
    for stream in streams:
        heard(stream, '"revision": 2')
    for each in [*streams, *half]:
        each.close()


@pytest.mark.parametrize(
    "request_", ["GET / HTTP/1.1\nHost: x\nX: ", "POST /api/shows HTTP/1.1\nHost: 127.0.0.1\nContent-Length: 90\n\n{"]
)
def test_a_request_that_stops_halfway_is_broken_off(jaskel, monkeypatch, request_):
    monkeypatch.setattr(server, "STALL_SECONDS", 0.4)
    serving = Serving(jaskel)
    stopped = serving.connect(request_)
    begun = time.monotonic()
    answer = stopped.recv(1000)
    assert answer == b"" or b"408" in answer
    assert time.monotonic() - begun < 5
    serving.stop()


def test_an_upload_that_stops_halfway_is_told_and_leaves_nothing(jaskel, monkeypatch):
    monkeypatch.setattr(server, "STALL_SECONDS", 0.4)
    episode = jaskel.episode()["id"]
    serving = Serving(jaskel)
    path = f"/api/episodes/{episode}/recordings?name=a.wav"
    stopped = serving.connect(f"POST {path} HTTP/1.1\nHost: 127.0.0.1\nContent-Length: 9000000\n\n" + "x" * 100)
    assert "broke off after" in heard(stopped, '"facts"')
    assert not list((jaskel.workshop.home.vault.root / "incoming").iterdir())
    serving.stop()


def test_files_are_sent_whole_and_in_ranges(jaskel, edition, serving, tmp_path):
    head = jaskel.get(f"/api/editions/{edition}")
    episode = jaskel.get(f"/api/episodes/{head['episode_id']}")
    path = f"/api/recordings/{episode['recordings'][0]['id']}/peaks"
    with serving.get(path) as response:
        whole, tag = response.read(), response.headers["ETag"]
    assert len(whole) == 600
    with serving.get(path, Range="bytes=100-199") as response:
        assert (response.status, response.headers["Content-Range"]) == (206, "bytes 100-199/600")
        assert response.read() == whole[100:200]
    with pytest.raises(urllib.error.HTTPError, match="304"):
        serving.get(path, **{"If-None-Match": tag})


def test_addresses_that_are_no_ascii_are_refused(serving):
    stream = serving.connect(f"GET / HTTP/1.1\nHost: 127.0.0.1:{serving.port}\n\n")
    assert heard(stream, "</html>")
    assert asyncio.run(asked(b"a=\xc3\xa9")) == 400


async def asked(query: bytes) -> int:
    """The status of the answer to a request with such a query."""
    sent = []

    async def send(message) -> None:
        sent.append(message)

    async def receive():
        return {"type": "http.request", "body": b"", "more_body": False}

    scope = {"type": "http", "method": "GET", "path": "/", "query_string": query, "headers": []}
    await Front(lambda *_: [], None)(scope, receive, send)
    return sent[0]["status"]
