"""The worker process: takes jobs from the queue until it is asked to end, each into a process of its own."""

from __future__ import annotations

import logging
import signal
from functools import partial
from threading import Thread

from huey import Huey
from huey.consumer import Consumer

from jaskel.jobs.apart import begin_processes, carry_out_apart
from jaskel.jobs.lease import BEAT, keep_alive, recover
from jaskel.jobs.parts import sweep_parts
from jaskel.jobs.progress import stopping
from jaskel.jobs.queue import consume
from jaskel.jobs.watched import Watched
from jaskel.jobs.workshop import Workshop
from jaskel.settings import Settings
from jaskel.store.home import Home

WATCH_SECONDS = 5.0

log = logging.getLogger("jaskel.worker")


def run(settings: Settings) -> None:
    """Work until SIGTERM or SIGINT. Jobs that run then go back to the queue and go on at the next start."""
    workshop = Workshop(settings)
    home = workshop.home
    consumers = [_consumer(*line) for line in consume(settings, partial(carry_out_apart, workshop))]

    def end(_signal: int, _frame: object) -> None:
        stopping.set()

    signal.signal(signal.SIGTERM, end)
    signal.signal(signal.SIGINT, end)
    for job in recover(home):
        log.info("job %s goes on", job)
    sweep_parts(home)
    begin_processes()
    for each in consumers:
        each.start()
    (home.settings.data / BEAT).touch()
    Thread(target=_watch, args=(home,), daemon=True).start()
    if settings.watch:
        Thread(target=_look, args=(Watched(home, settings.watch),), daemon=True).start()
    stopping.wait()
    for each in consumers:
        each.stop(graceful=True)
    workshop.close()


def _consumer(line: Huey, at_once: int) -> Consumer:
    made = line.create_consumer(workers=at_once, worker_type="thread", periodic=False, initial_delay=0.05, max_delay=0.4)
    made._set_signal_handlers = lambda: None  # its own would wait for jobs to finish
    return made


def _look(watched: Watched) -> None:
    """Look into the watched folder; what is large takes its time, and nothing else waits for it."""
    while not stopping.wait(WATCH_SECONDS):
        try:
            for name in watched.look():
                log.info("%s was taken in", name)
        except Exception:
            log.exception("could not look into the watched folder")


def _watch(home: Home) -> None:
    while not stopping.wait(WATCH_SECONDS):
        try:
            (home.settings.data / BEAT).touch()
            keep_alive(home)
            recover(home)
        except Exception:
            log.exception("could not look after the jobs")
