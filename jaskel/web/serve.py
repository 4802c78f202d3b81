"""Starting Jaskel: the server and its worker as two processes under one that looks after them."""

from __future__ import annotations

import ctypes
import gc
import os
import signal
import socket
import ssl
import subprocess
import sys
import time
import urllib.request
from collections.abc import Iterator
from contextlib import contextmanager, nullcontext, suppress
from errno import EADDRINUSE
from pathlib import Path

from alembic.util.exc import CommandError
from filelock import FileLock, Timeout
from sqlalchemy.exc import SQLAlchemyError

from jaskel.core.problem import Problem
from jaskel.jobs.queue import check_queue
from jaskel.settings import Settings
from jaskel.store.database import problem_of
from jaskel.store.home import Home

PATIENCE = 8.0


def serve(settings: Settings, path: str = "/") -> int:
    """Run server and worker until SIGINT or SIGTERM. A process that dies is started again.

    Raises
    ------
    Problem
        ``in-use``, ``no-data-folder``, ``bad-database``, ``port-taken``, ``bad-host`` or ``no-queue``: why it cannot run.
    """
    _check_reach(settings)
    # Of a shared database there may be as many servers as one wants.
    with nullcontext() if settings.shared_database else in_use(settings):
        _check_port(settings)
        check_queue(settings)
        _bring_up_to_date(settings)
        return _look_after(settings, path)


@contextmanager
def in_use(settings: Settings) -> Iterator[None]:
    """Have a data folder for oneself: of two that sweep it, one would delete what the other is about.

    Raises
    ------
    Problem
        ``in-use`` with the address of the one that runs, or ``no-data-folder``.
    """
    note = settings.data / "running.txt"
    try:
        settings.data.mkdir(parents=True, exist_ok=True)
        lock = FileLock(settings.data / "running.lock")
        lock.acquire(timeout=0)
    except Timeout as error:
        where = note.read_text(encoding="utf-8").strip() if note.exists() else "another address"
        raise Problem(
            "in-use",
            f"Jaskel is running on {settings.data} already, at {where}. Open that, or choose another folder.",
        ) from error
    except OSError as error:
        raise Problem("no-data-folder", f"{settings.data} cannot be used for data: {error.strerror or error}.") from error
    try:
        note.write_text(settings.address, encoding="utf-8")
        yield
    finally:
        with suppress(OSError):
            note.unlink(missing_ok=True)
        lock.release()


def _bring_up_to_date(settings: Settings) -> None:
    where = "The database that JASKEL_DATABASE names" if settings.shared_database else str(settings.database)
    try:
        home = Home(settings)
        home.database.migrate()
        if not settings.shared_database:
            home.sweep()  # what is half made may be what another machine is making
        home.close()
    except OSError as error:
        raise Problem("no-data-folder", f"{settings.data} cannot be used for data: {error.strerror or error}.") from error
    except CommandError as error:
        raise Problem("bad-database", f"{where} was written by a newer Jaskel. Start it with that one.") from error
    except SQLAlchemyError as error:
        raise problem_of(error) or Problem(
            "bad-database",
            f"{where} is no database of Jaskel, or is damaged. Move it away, or put a copy of it in its place.",
        ) from error


def _look_after(settings: Settings, path: str) -> int:
    """Run server and worker, and start them again where they die."""
    address = settings.address
    stop: list[int] = []
    for number in (signal.SIGINT, signal.SIGTERM):
        signal.signal(number, lambda received, _frame: stop.append(received))
    processes = {"server": _server(settings), "worker": _worker(settings)}
    starters = {"server": _server, "worker": _worker}
    told = False
    try:
        while not stop:
            for name, process in processes.items():
                if process.poll() is not None and not stop:
                    print(f"the {name} ended by itself and is started again", file=sys.stderr, flush=True)
                    processes[name] = starters[name](settings)
                    time.sleep(0.3)
            if not told and _answers(address):
                told = True
                print(f"\n  Jaskel is at {address}{path}\n  Ctrl+C ends it. Data: {settings.data}\n", flush=True)
            time.sleep(0.1)
    finally:
        for process in processes.values():
            with suppress(ProcessLookupError):
                process.terminate()
        deadline = time.monotonic() + PATIENCE
        for process in processes.values():
            try:
                process.wait(max(0.1, deadline - time.monotonic()))
            except subprocess.TimeoutExpired:
                process.kill()
                process.wait()
    return 0


def _check_reach(settings: Settings) -> None:
    """Who listens beyond this machine asks for accounts, says where it is reached, and does not send passwords in the open."""
    if settings.certificate and not (settings.key and settings.certificate.exists() and settings.key.exists()):
        raise Problem(
            "no-certificate", "JASKEL_CERTIFICATE and JASKEL_KEY both name files in PEM form. One of them is missing."
        )
    if settings.on_loopback:
        return
    if not settings.team:
        raise Problem(
            "no-team",
            f"On {settings.host} others could reach Jaskel without signing in. Start it with --team, or leave JASKEL_HOST out.",
        )
    if not settings.is_secure:
        raise Problem(
            "not-secure",
            "Beyond this machine passwords need HTTPS. Set JASKEL_CERTIFICATE and JASKEL_KEY, or let a proxy on this machine "
            "answer by HTTPS, and set JASKEL_ADDRESS to where it is reached.",
        )


def _check_port(settings: Settings) -> None:
    try:
        family, kind, _, _, address = socket.getaddrinfo(settings.host, settings.port, type=socket.SOCK_STREAM)[0]
        with socket.socket(family, kind) as probe:
            probe.setsockopt(socket.SOL_SOCKET, socket.SO_REUSEADDR, 1)
            probe.bind(address)
    except OSError as error:
        if error.errno == EADDRINUSE:
            raise Problem(
                "port-taken",
                f"Something else listens on {settings.host}:{settings.port} already. "
                "End it, or choose another port: JASKEL_PORT=8751 ./run demo.",
            ) from error
        raise Problem(
            "bad-host",
            f"Jaskel cannot listen on {settings.host}:{settings.port}: {error.strerror or error}. Set JASKEL_HOST, or _PORT.",
        ) from error


def _answers(address: str) -> bool:
    try:
        # It asks itself: that its certificate is made out to another name is no matter.
        with urllib.request.urlopen(f"{address}/api/me", timeout=1, context=_unchecked()) as response:
            return bool(response.status == 200)
    except OSError:
        return False


def _unchecked() -> ssl.SSLContext:
    context = ssl.create_default_context()
    context.check_hostname, context.verify_mode = False, ssl.CERT_NONE
    return context


def _server(settings: Settings) -> subprocess.Popen[bytes]:
    return _start([sys.executable, "-m", "jaskel.cli", "server"], settings)


def _worker(settings: Settings) -> subprocess.Popen[bytes]:
    return _start([sys.executable, "-m", "jaskel.cli", "worker"], settings)


def _start(command: list[str], settings: Settings) -> subprocess.Popen[bytes]:
    environment = {**os.environ, **settings.environment()}
    # A session of its own, so that Ctrl+C reaches this process alone and the others are ended in order.
    return subprocess.Popen(command, env=environment, start_new_session=True, preexec_fn=end_with_parent, cwd=Path.cwd())


def end_with_parent() -> None:
    """On Linux, have the kernel end the child when this process dies without a word."""
    if sys.platform == "linux":
        set_parent_death_signal = 1
        ctypes.CDLL(None).prctl(set_parent_death_signal, signal.SIGTERM)


def calm_collector() -> None:
    """Let the cycle collector look over old objects seldom.

    A long episode is a few hundred thousand small values without cycles; looking over them all takes a tenth of a second,
    and would come in the middle of somebody's edit.
    """
    gc.set_threshold(100_000, 20, 100)
