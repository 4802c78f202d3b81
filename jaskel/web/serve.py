"""Starting Jaskel: the server and its worker as two processes under one that looks after them."""

from __future__ import annotations

import ctypes
import gc
import os
import signal
import socket
import subprocess
import sys
import time
import urllib.request
from contextlib import suppress
from pathlib import Path

from jaskel.core.problem import Problem
from jaskel.settings import Settings
from jaskel.store.home import Home

THREADS = 32
"""Each open window holds one for its notices."""

PATIENCE = 8.0


def serve(settings: Settings, path: str = "/") -> int:
    """Run server and worker until SIGINT or SIGTERM. A process that dies is started again.

    Raises
    ------
    Problem
        ``port-taken`` when something else listens there.
    """
    address = f"http://{settings.host}:{settings.port}"
    _check_port(settings)
    home = Home(settings)
    home.database.migrate()
    home.vault.sweep()
    home.close()
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


def _check_port(settings: Settings) -> None:
    with socket.socket() as probe:
        probe.setsockopt(socket.SOL_SOCKET, socket.SO_REUSEADDR, 1)
        try:
            probe.bind((settings.host, settings.port))
        except OSError as error:
            raise Problem(
                "port-taken",
                f"Something else listens on {settings.host}:{settings.port} already. "
                "End it, or choose another port: JASKEL_PORT=8751 ./run demo.",
            ) from error


def _answers(address: str) -> bool:
    try:
        with urllib.request.urlopen(f"{address}/api/shows", timeout=1) as response:
            return bool(response.status == 200)
    except OSError:
        return False


def gunicorn_arguments(settings: Settings) -> list[str]:
    """How gunicorn is asked to run :func:`application`."""
    return [
        "jaskel.web.serve:application()", "--bind", f"{settings.host}:{settings.port}",
        "--workers", "1", "--threads", str(THREADS), "--worker-class", "gthread", "--timeout", "0", "--graceful-timeout", "1",
        "--log-level", "warning", "--worker-tmp-dir", str(settings.data),
    ]  # fmt: skip


def _server(settings: Settings) -> subprocess.Popen[bytes]:
    return _start([sys.executable, "-m", "gunicorn", *gunicorn_arguments(settings)], settings)


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


def application():  # type: ignore[no-untyped-def]
    """What gunicorn runs."""
    from jaskel.web.app import create_app

    calm_collector()
    return create_app(Settings.from_environment())


def calm_collector() -> None:
    """Let the cycle collector look over old objects seldom.

    A long episode is a few hundred thousand small values without cycles; looking over them all takes a tenth of a second,
    and would come in the middle of somebody's edit.
    """
    gc.set_threshold(100_000, 20, 100)
