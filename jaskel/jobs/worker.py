"""The worker process: takes jobs from the queue until it is asked to end."""

from __future__ import annotations

import logging
import signal
from threading import Thread

from jaskel.jobs.carry_out import keep_alive, recover, stopping, task_of
from jaskel.jobs.queue import queue_of
from jaskel.settings import Settings
from jaskel.store.home import Home

THREADS = 3
WATCH_SECONDS = 5.0

log = logging.getLogger("jaskel.worker")


def run(settings: Settings) -> None:
    """Work until SIGTERM or SIGINT. Jobs that run then go back to the queue and go on at the next start."""
    home = Home(settings)
    queue = queue_of(settings)
    task_of(queue, settings)
    consumer = queue.create_consumer(workers=THREADS, worker_type="thread", periodic=False, initial_delay=0.05, max_delay=0.4)
    consumer._set_signal_handlers = lambda: None  # its own would wait for jobs to finish

    def end(_signal: int, _frame: object) -> None:
        stopping.set()

    signal.signal(signal.SIGTERM, end)
    signal.signal(signal.SIGINT, end)
    for job in recover(home):
        log.info("job %s goes on", job)
    consumer.start()
    Thread(target=_watch, args=(home,), daemon=True).start()
    stopping.wait()
    consumer.stop(graceful=True)
    home.close()


def _watch(home: Home) -> None:
    while not stopping.wait(WATCH_SECONDS):
        try:
            keep_alive(home)
            recover(home)
        except Exception:
            log.exception("could not look after the jobs")
