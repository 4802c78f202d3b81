"""The server: requests are answered by Flask in threads, and whatever takes its time holds none.

A server of threads gives every open window one for its events, and every request that is only half there another; as many
windows as it has threads stop it. Here an event loop (uvicorn) reads requests and writes answers, and Flask is only asked in
between. An answer that goes on, as events do, or that is a file, is *named* by Flask in a header, as with ``X-Sendfile``, and
sent by the loop.
"""

from __future__ import annotations

import asyncio
import json
import os
from collections.abc import AsyncIterator, Awaitable, Callable, MutableMapping
from contextlib import asynccontextmanager, suppress
from typing import Any

import psycopg
import uvicorn
from a2wsgi import WSGIMiddleware
from flask import Flask
from uvicorn.protocols.http.h11_impl import H11Protocol

from jaskel.settings import Settings
from jaskel.store import notices
from jaskel.store.accounts import Person, person_by
from jaskel.store.home import Home
from jaskel.store.models import Notice
from jaskel.web.gate import ANYBODY
from jaskel.web.notices import FOLLOW
from jaskel.web.serve import calm_collector

THREADS = 16
UPLOADS = 6
"""Requests whose body is read while they are carried out; others wait for them, holding no thread."""

SMALL = 1_000_000
"""Bytes of a request that are awaited before it is carried out."""

STALL_SECONDS = 30.0
"""A request that sends nothing for so long is broken off, and so is one whose beginning takes longer."""

PIECE = 1 << 18
LOOK_SECONDS = 0.2
LISTEN_SECONDS = 1.0
"""So long a bell is waited for at a time; a server that ends waits for that."""

SIGN_OF_LIFE_SECONDS = 10.0
LOOK_AT_VIEWER_SECONDS = 10.0
"""So often it is looked whether somebody is still signed in, and what they see."""

MOST_BEHIND = 2_000
"""Notices that may wait for a window; one that falls behind further is asked to come again."""

Message = MutableMapping[str, Any]
Receive = Callable[[], Awaitable[Message]]
Send = Callable[[Message], Awaitable[None]]


class Front:
    """The ASGI application before Flask's."""

    def __init__(self, app: Flask, home: Home) -> None:
        self._wsgi = WSGIMiddleware(_to_its_end(app), workers=THREADS)  # type: ignore[arg-type]
        self._uploads = asyncio.Semaphore(UPLOADS)
        self._board = Board(home)

    async def __call__(self, scope: Message, receive: Receive, send: Send) -> None:
        if scope["type"] != "http":
            return
        if not scope["query_string"].isascii():
            await _answer_plainly(send, 400)
            return
        expected = next((value for name, value in scope["headers"] if name == b"content-length"), None)
        chunked = any(name == b"transfer-encoding" for name, _ in scope["headers"])
        if chunked or (expected is not None and int(expected) > SMALL):
            async with self._uploads:
                named = await self._asked(scope, _impatient(receive), send)
        else:
            body = await _whole(receive)
            if body is None:
                await _answer_plainly(send, 408)
                return
            named = await self._asked(scope, _replayed(body, receive), send)
        if named is not None:
            await self._send(named, receive, send)

    async def _asked(self, scope: Message, receive: Receive, send: Send) -> Message | None:
        """Let Flask answer; gives the start of an answer that only names what is to be sent."""
        named: Message | None = None

        async def passed_on(message: Message) -> None:
            nonlocal named
            if message["type"] == "http.response.start" and any(key in NAMES for key, _ in message["headers"]):
                named = message
            elif named is None:
                await send(message)

        await self._wsgi(scope, receive, passed_on)  # type: ignore[arg-type]
        return named

    async def _send(self, start: Message, receive: Receive, send: Send) -> None:
        names = {key: value.decode("latin1") for key, value in start["headers"] if key in NAMES}
        start["headers"] = [(key, value) for key, value in start["headers"] if key not in NAMES]
        if path := names.get(b"x-sendfile"):
            await _send_file(path, start, send)
            return
        start["headers"] = [(key, value) for key, value in start["headers"] if key != b"content-length"]
        await send(start)
        wanted = json.loads(names[FOLLOW.lower().encode()])
        async for piece in self._board.followed(wanted["episode"], wanted["seen"], receive, wanted["sign_in"]):
            await send({"type": "http.response.body", "body": piece, "more_body": True})
        await send({"type": "http.response.body", "body": b""})


def _to_its_end(app: Flask) -> Callable[..., Any]:
    """The application, told that a body ends where it ends: one that broke off is then seen as what did come."""

    def answered(environ: dict[str, Any], start: Any) -> Any:
        return app({**environ, "wsgi.input_terminated": True}, start)

    return answered


NAMES = (b"x-sendfile", FOLLOW.lower().encode())


async def _answer_plainly(send: Send, status: int) -> None:
    await send({"type": "http.response.start", "status": status, "headers": [(b"connection", b"close")]})
    await send({"type": "http.response.body", "body": b""})


async def _whole(receive: Receive) -> bytes | None:
    """The body of a request, None where it does not come in time."""
    body = b""
    with suppress(TimeoutError):
        async with asyncio.timeout(STALL_SECONDS):
            while True:
                message = await receive()
                if message["type"] == "http.disconnect":
                    return None
                body += message.get("body", b"")
                if not message.get("more_body", False):
                    return body
    return None


def _replayed(body: bytes, receive: Receive) -> Receive:
    waiting = [body]

    async def again() -> Message:
        return {"type": "http.request", "body": waiting.pop(), "more_body": False} if waiting else await receive()

    return again


def _impatient(receive: Receive) -> Receive:
    """The same, but for requests that stop halfway: they are taken for broken off."""

    async def received() -> Message:
        try:
            async with asyncio.timeout(STALL_SECONDS):
                return await receive()
        except TimeoutError:
            return {"type": "http.disconnect"}

    return received


async def _send_file(path: str, start: Message, send: Send) -> None:
    """Send a file, or the range of it that the answer promises."""
    headers = dict(start["headers"])
    begin, end = 0, os.path.getsize(path)
    if start["status"] == 206:
        begin, end = (int(edge) for edge in headers[b"content-range"].split()[1].split(b"/")[0].split(b"-"))
        end += 1
    headers[b"content-length"] = str(end - begin).encode()
    start["headers"] = list(headers.items())
    await send(start)
    with open(path, "rb") as file:
        file.seek(begin)
        while begin < end and (piece := await asyncio.to_thread(file.read, min(PIECE, end - begin))):
            begin += len(piece)
            await send({"type": "http.response.body", "body": piece, "more_body": True})
    await send({"type": "http.response.body", "body": b""})


Told = tuple[int, str, str, bytes]
"""A notice by its number, its show and episode, and as it is sent."""


class Board:
    """Reads notices once for all windows that are open."""

    def __init__(self, home: Home) -> None:
        self._home = home
        self._windows: set[asyncio.Queue[Told]] = set()
        self._reading: asyncio.Task[None] | None = None
        self._begins = asyncio.Lock()

    async def followed(self, episode: str, seen: int | None, receive: Receive, sign_in: str = "") -> AsyncIterator[bytes]:
        """Events of an episode (or all) after number ``seen`` (or from now on), until the window goes away.

        With accounts, only those of shows that who is signed in sees, and no longer than they are.
        """
        async with self._window() as window:
            viewer = await asyncio.to_thread(self._viewer, sign_in)
            looked = asyncio.get_running_loop().time()

            def meant(show: str, about: str) -> bool:
                return viewer is not None and episode in ("", about) and (not about or viewer.sees(show))

            if seen is None:
                seen = await asyncio.to_thread(self._newest)
            # The number is sent at once, so that a window that is cut off right away still knows where to go on.
            yield f"id: {seen}\nevent: hello\ndata: {{}}\n\n".encode()
            while missed := await asyncio.to_thread(self._since, seen):
                for number, show, about, told in missed:
                    seen = number
                    if meant(show, about):
                        yield told
            gone = asyncio.ensure_future(_disconnected(receive))
            try:
                while not window.full() and viewer is not None:
                    waiting = asyncio.ensure_future(window.get())
                    await asyncio.wait({gone, waiting}, timeout=SIGN_OF_LIFE_SECONDS, return_when=asyncio.FIRST_COMPLETED)
                    if gone.done():
                        waiting.cancel()
                        return
                    if asyncio.get_running_loop().time() - looked > LOOK_AT_VIEWER_SECONDS:
                        viewer = await asyncio.to_thread(self._viewer, sign_in)
                        looked = asyncio.get_running_loop().time()
                    if not waiting.done():
                        waiting.cancel()
                        yield b": still here\n\n"
                        continue
                    number, show, about, told = waiting.result()
                    if number > seen and meant(show, about):
                        yield told
            finally:
                gone.cancel()

    @asynccontextmanager
    async def _window(self) -> AsyncIterator[asyncio.Queue[Told]]:
        window: asyncio.Queue[Told] = asyncio.Queue(MOST_BEHIND)
        self._windows.add(window)
        try:
            async with self._begins:
                if self._reading is None or self._reading.done():
                    # Known before the window asks what it missed: nothing falls between what it reads and what it is handed.
                    newest = await asyncio.to_thread(self._newest)
                    self._reading = asyncio.create_task(self._read(newest))
            yield window
        finally:
            self._windows.discard(window)

    async def _read(self, seen: int) -> None:
        """Hand on what is newer than number ``seen`` while there is a window."""
        shared = self._home.settings.shared_database
        bell = notices.Bell(shared) if shared else None
        try:
            while self._windows:
                with suppress(Exception):  # a locked database is asked again
                    if bell:
                        await asyncio.to_thread(bell.listen)
                    for each in await asyncio.to_thread(self._since, seen):
                        seen = each[0]
                        for window in self._windows:
                            if not window.full():
                                window.put_nowait(each)
                await _news(bell)
        finally:
            if bell:
                bell.close()

    def _newest(self) -> int:
        with self._home.database.read() as session:
            return notices.newest(session)

    def _since(self, seen: int) -> list[Told]:
        with self._home.database.read() as session:
            return [(each.id, show, each.episode_id, _event(each)) for each, show in notices.since(session, seen)]

    def _viewer(self, sign_in: str) -> Person | None:
        if not sign_in:
            return ANYBODY
        with self._home.database.read() as session:
            return person_by(session, sign_in)


async def _news(bell: notices.Bell | None) -> None:
    """Wait until there may be something new."""
    if bell:
        with suppress(psycopg.Error):
            await asyncio.to_thread(bell.wait, LISTEN_SECONDS)
            return
    await asyncio.sleep(LOOK_SECONDS)


def _event(notice: Notice) -> bytes:
    facts = json.dumps({**notice.facts, "episode": notice.episode_id})
    return f"id: {notice.id}\nevent: {notice.kind}\ndata: {facts}\n\n".encode()


async def _disconnected(receive: Receive) -> None:
    while (await receive())["type"] != "http.disconnect":
        pass


class TimedProtocol(H11Protocol):
    """uvicorn's protocol, which also breaks off requests whose beginning does not come in time."""

    def connection_made(self, transport: Any) -> None:
        super().connection_made(transport)
        self._late = self.loop.call_later(STALL_SECONDS, self._look, 0)

    def connection_lost(self, exc: Exception | None) -> None:
        self._late.cancel()
        super().connection_lost(exc)

    def _look(self, times: int) -> None:
        """Close a connection that is still without a whole request the second time."""
        idle = self.cycle is None or self.cycle.response_complete
        if idle and times and not self.transport.is_closing():
            self.transport.close()
        else:
            self._late = self.loop.call_later(STALL_SECONDS / 2, self._look, times + 1 if idle else 0)


def run(settings: Settings) -> None:
    """Serve until SIGTERM."""
    from jaskel.web.app import create_app

    calm_collector()
    app = create_app(settings)
    app.config["USE_X_SENDFILE"] = True
    home = app.extensions["jaskel"].workshop.home

    async def serve() -> None:
        config = uvicorn.Config(
            Front(app, home), host=settings.host, port=settings.port, http=TimedProtocol, ws="none", lifespan="off",
            interface="asgi3", access_log=False, log_level="warning", server_header=False, timeout_keep_alive=75,
            timeout_graceful_shutdown=1, backlog=512, ssl_certfile=settings.certificate, ssl_keyfile=settings.key,
        )  # fmt: skip
        await uvicorn.Server(config).serve()

    asyncio.run(serve())
