"""Whether it runs, whether it can work, and figures for those who look after it; see ``docs/running.md``."""

from __future__ import annotations

import os
import shutil
import time
from collections.abc import Callable, Iterator

from flask import Flask, Response, abort, g, jsonify, request
from prometheus_client import CONTENT_TYPE_LATEST, CollectorRegistry, Histogram, generate_latest
from prometheus_client.core import GaugeMetricFamily, Metric
from prometheus_client.registry import Collector
from sqlalchemy import func, select, text

from jaskel.jobs.lease import BEAT, LOST_SECONDS
from jaskel.settings import LOOPBACK
from jaskel.store.home import Home
from jaskel.store.models import Episode, Job
from jaskel.web.context import Context

BUCKETS = (0.005, 0.02, 0.05, 0.1, 0.25, 0.5, 1, 2.5, 10)
"""Seconds."""


def watch_health(app: Flask) -> None:
    """Let ``app`` say how it is: at ``/healthz``, ``/readyz`` and ``/metrics``."""
    known: Context = app.extensions["jaskel"]
    home = known.workshop.home
    registry = CollectorRegistry()
    registry.register(_Stored(home))
    seconds = Histogram(
        "jaskel_request_seconds", "How long requests took", ("endpoint", "status"), registry=registry, buckets=BUCKETS
    )

    def begin() -> None:
        g.begun = time.perf_counter()

    def note(response: Response) -> Response:
        if begun := g.get("begun"):
            seconds.labels(request.endpoint or "none", response.status_code).observe(time.perf_counter() - begun)
        return response

    def healthz() -> Response:
        return jsonify(ok=True)

    def readyz() -> tuple[Response, int]:
        wrong = [name for name, check in _checks(home).items() if not _holds(check)]
        return jsonify(ok=not wrong, wrong=wrong), 503 if wrong else 200

    def metrics() -> Response:
        if request.remote_addr not in LOOPBACK:
            abort(404)
        return Response(generate_latest(registry), content_type=CONTENT_TYPE_LATEST)

    app.before_request(begin)
    app.after_request(note)
    for view in (healthz, readyz, metrics):
        app.add_url_rule(f"/{view.__name__}", f"health.{view.__name__}", view)


def _checks(home: Home) -> dict[str, Callable[[], bool]]:
    """What has to hold for work to be done, by name."""
    beat = home.settings.data / BEAT
    return {
        "database": lambda: _answers(home),
        "vault": lambda: os.access(home.vault.root / "incoming", os.W_OK),
        "worker": lambda: time.time() - beat.stat().st_mtime < LOST_SECONDS,
    }


def _holds(check: Callable[[], bool]) -> bool:
    try:
        return check()
    except Exception:  # whatever is wrong with it, it cannot be used
        return False


def _answers(home: Home) -> bool:
    with home.database.read() as session:
        return session.scalar(text("SELECT 1")) == 1


class _Stored(Collector):
    """Figures of what is stored, counted when they are asked for."""

    def __init__(self, home: Home) -> None:
        self._home = home

    def collect(self) -> Iterator[Metric]:
        jobs = GaugeMetricFamily("jaskel_jobs", "Jobs that are not done, by kind and state", labels=("kind", "state"))
        with self._home.database.read() as session:
            counted = select(Job.kind, Job.state, func.count()).where(Job.state != "done").group_by(Job.kind, Job.state)
            for kind, state, count in session.execute(counted):
                jobs.add_metric((kind, state), count)
            episodes = session.scalar(select(func.count()).select_from(Episode).where(Episode.deleted.is_(None))) or 0
        yield jobs
        yield GaugeMetricFamily("jaskel_episodes", "Episodes that are not deleted", value=episodes)
        room = shutil.disk_usage(self._home.vault.root)
        yield GaugeMetricFamily("jaskel_disk_free_bytes", "Room on the disk of the vault", value=room.free)
