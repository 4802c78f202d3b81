"""Killed at random while people work; ``./run bench kills`` does it a thousand times."""

from __future__ import annotations

from bench.kills import run


def test_what_was_acknowledged_is_there(tmp_path):
    told = run(tmp_path / "data", kills=8, seed=5)
    assert told.steps and told.acknowledged >= 4
    assert told.lost == []
    assert told.faults == []
    assert told.unsynced == []
