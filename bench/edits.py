"""Edits on an edition of 30,000 words with 2,000 cuts, through the API."""

from __future__ import annotations

import statistics
from collections.abc import Iterator
from pathlib import Path

from bench.figure import Figure, timed
from bench.long_episode import STEP, long_episode
from jaskel.core.timebase import RATE
from jaskel.web.app import create_app
from jaskel.web.serve import calm_collector


def figures(folder: Path) -> Iterator[Figure]:
    """Opening, striking, undoing and listening."""
    settings, _, edition_id = long_episode(folder / "edits")
    calm_collector()
    client = create_app(settings).test_client()

    def post(address: str, body: object) -> None:
        assert client.post(f"/api/editions/{edition_id}/{address}", json=body).status_code == 200

    page = timed(lambda: client.get(f"/api/editions/{edition_id}/page"))
    yield Figure("opening the page of 30,000 words, server", f"{page * 1e3:.0f} ms", "≤ 1500 ms with drawing", page <= 1.0)
    revision, taken = 2, []
    for i in range(60):
        begin = (7 + 15 * i * 20) * STEP
        body = {"revision": revision, "operation": {"kind": "strike", "ranges": [{"begin": begin, "end": begin + STEP}]}}
        taken.append(timed(lambda body=body: post("operations", body)))
        revision += 1
    p95 = statistics.quantiles(taken, n=20)[-1]
    yield Figure("an edit on 30,000 words with 2,000 cuts, p95", f"{p95 * 1e3:.0f} ms", "≤ 50 ms", p95 <= 0.05)
    undo = timed(lambda: post("undo", {"revision": revision}))
    yield Figure("undo there", f"{undo * 1e3:.0f} ms", "≤ 50 ms", undo <= 0.05)
    ranges = [{"begin": (3 + 15 * i) * STEP, "end": (4 + 15 * i) * STEP} for i in range(2000)]
    body = {"revision": revision + 1, "operation": {"kind": "strike", "ranges": ranges}}
    batch = timed(lambda: post("operations", body))
    yield Figure("2,000 ranges struck in one operation", f"{batch * 1e3:.0f} ms", "≤ 50 ms", batch <= 0.05)
    blocks = timed(lambda: client.get(f"/api/editions/{edition_id}/blocks?mode=edited&at={5000 * RATE}"))
    yield Figure("after an edit, the blocks to play", f"{blocks * 1e3:.0f} ms", "part of 300 ms", blocks <= 0.2)
