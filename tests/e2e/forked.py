"""Server and worker as processes that are forked from one that has imported everything already.

Starting them as people do takes seconds of a processor, most of it for importing; with a fresh Jaskel for each test that adds
up. What runs is the same. Tests of starting, ending and being killed start it as people do.
"""

from __future__ import annotations

import multiprocessing
import os
import signal
import sys
from pathlib import Path

from jaskel.jobs import apart, worker
from jaskel.settings import Settings
from jaskel.store.home import Home
from jaskel.web import server
from jaskel.web.serve import end_with_parent

IMPORTED = [
    "jaskel.web.app",
    "jaskel.jobs.worker",
    *apart.PRELOADED,
    "alembic.command",
    "jaskel.web.server",
    "uvicorn.lifespan.off",
]

os.environ.update(apart.SPARING)

FORKS = multiprocessing.get_context("forkserver")
FORKS.set_forkserver_preload(IMPORTED)


def _begin(settings: Settings, log: Path) -> None:
    end_with_parent()
    os.environ.update(settings.environment())
    written = os.open(log, os.O_WRONLY | os.O_CREAT | os.O_APPEND)
    for stream in (sys.stdout, sys.stderr):
        os.dup2(written, stream.fileno())


def _serve(settings: Settings, log: Path) -> None:
    _begin(settings, log)
    home = Home(settings)
    home.database.migrate()
    home.close()
    server.run(settings)


def _work(settings: Settings, log: Path) -> None:
    _begin(settings, log)
    # Most tests have no work for it: what jobs are forked from imports for seconds, and so waits for the first of them.
    worker.begin_processes = lambda: None
    worker.run(settings)


class Forked:
    """A server and its worker on a data folder."""

    def __init__(self, settings: Settings, log: Path) -> None:
        self._server = FORKS.Process(target=_serve, args=(settings, log))
        self._worker = FORKS.Process(target=_work, args=(settings, log))
        self._server.start()

    def begin_work(self) -> None:
        """Start the worker, once the server answers: the tables are up to date then."""
        self._worker.start()

    def end(self) -> None:
        """End both; what the worker does now goes back into the queue."""
        for process, number in ((self._server, signal.SIGTERM), (self._worker, signal.SIGTERM)):
            if process.pid and process.is_alive():
                os.kill(process.pid, number)
        for process in (self._server, self._worker):
            if process.pid:
                process.join(20)
                if process.is_alive():
                    process.kill()
                    process.join()
