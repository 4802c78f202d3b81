"""Servers for tests and bench alone: begun where Debian's packages are installed, else what needs them is left out."""

from __future__ import annotations

import os
import shutil
import socket
import subprocess
from collections.abc import Iterator
from contextlib import contextmanager
from itertools import count
from pathlib import Path
from tempfile import TemporaryDirectory

import psycopg
from redis import Redis
from redis.backoff import ExponentialBackoff
from redis.retry import Retry

_numbers = count(1)


def programs() -> Path | None:
    """The folder of PostgreSQL's programs; None where it is not installed."""
    if found := shutil.which("initdb"):
        return Path(found).parent
    return max(Path("/usr/lib/postgresql").glob("*/bin"), default=None, key=lambda path: int(path.parent.name))


def free_port() -> int:
    with socket.socket() as free:
        free.bind(("127.0.0.1", 0))
        return int(free.getsockname()[1])


class PostgreSQL:
    """A server that runs; it answers on a free port."""

    def __init__(self, host: str, port: int) -> None:
        self._base = f"postgresql://jaskel@{host}:{port}"

    def database(self) -> str:
        """The address of a new empty database."""
        name = f"jaskel_{os.getpid()}_{next(_numbers)}"
        with psycopg.connect(f"{self._base}/postgres", autocommit=True) as connection:
            connection.execute(f"CREATE DATABASE {name}")
        return f"{self._base}/{name}"


@contextmanager
def running_postgresql(host: str = "127.0.0.1") -> Iterator[PostgreSQL]:
    """Begin one, and end it; it answers at one address of this machine, and to whoever reaches that."""
    found = programs()
    assert found
    port = free_port()
    # It never runs as root, and so has a folder of its own: pytest's are closed to others each time that it is begun.
    before = ["runuser", "-u", "postgres", "--"] if os.geteuid() == 0 else []

    def run(*command: str) -> None:
        subprocess.run([*before, *command], check=True, stdout=subprocess.DEVNULL, cwd="/")

    with TemporaryDirectory(prefix="jaskel-postgresql-") as folder:
        if before:
            shutil.chown(folder, "postgres")
        run(str(found / "initdb"), "-D", folder, "-U", "jaskel", "-A", "trust", "-E", "UTF8", "--locale=C.UTF-8", "--no-sync")
        with Path(folder, "pg_hba.conf").open("a") as file:
            file.write("host all all samenet trust\n")
        options = f"-p {port} -h {host} -k {folder} -c fsync=off -c max_connections=60"
        run(str(found / "pg_ctl"), "-D", folder, "-o", options, "-l", f"{folder}/log", "-w", "start")
        try:
            yield PostgreSQL(host, port)
        finally:
            run(str(found / "pg_ctl"), "-D", folder, "-m", "immediate", "-w", "stop")


@contextmanager
def running_redis(folder: Path, host: str = "127.0.0.1") -> Iterator[str]:
    """Begin a Redis that keeps what it holds in a folder, and end it; gives its address."""
    port = free_port()
    command = ["redis-server", "--port", str(port), "--bind", host, "--dir", str(folder), "--appendonly", "yes"]
    command += ["--protected-mode", "no"]
    with subprocess.Popen(command, stdout=subprocess.DEVNULL) as process:
        address = f"redis://{host}:{port}/0"
        try:
            with Redis.from_url(address, retry=Retry(ExponentialBackoff(cap=0.5), 20)) as client:
                client.ping()
            yield address
        finally:
            process.terminate()
