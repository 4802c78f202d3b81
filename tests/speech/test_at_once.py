"""The piece to camera goes from raw to fluent by itself: which takes are kept, against what is known of it."""

from __future__ import annotations

import pytest
from conftest import DEMO, RATE, truth

pytestmark = pytest.mark.speech

KINDS = ["filler", "voice without words", "doubled", "long rest", "retake", "chatter"]


@pytest.fixture
def tidied(jaskel):
    """The edition of the recording after it came in, transcribed and tidied by the same jobs as everybody's."""
    episode = jaskel.episode()
    jaskel.client.patch(f"/api/shows/{episode['show_id']}/tidy", json={"on_import": KINDS})
    jaskel.upload(episode["id"], DEMO / "mending-a-sail.mp4", transcribe=True)
    jaskel.work("prepare", "transcribe", "listen", "tidy")
    edition = jaskel.get(f"/api/episodes/{episode['id']}")["editions"][0]["id"]
    return jaskel, edition


def kept(struck: list[list[int]], start: float, end: float) -> float:
    """How much of a stretch in seconds is kept, from 0 to 1."""
    gone = sum(max(0.0, min(b / RATE, end) - max(a / RATE, start)) for a, b in struck)
    return 1 - gone / (end - start)


def test_good_takes_are_kept_and_the_others_go_as_one_step(tidied):
    jaskel, edition = tidied
    head = jaskel.get(f"/api/editions/{edition}")
    faults = truth("mending-a-sail")["faults"]
    for fault in faults:
        share = kept(head["struck"], fault["start"], fault["end"])
        if fault["kind"] == "good take":
            assert share > 0.8, fault
    retakes = [fault for fault in faults if fault["kind"] == "retake"]
    gone = [fault for fault in retakes if kept(head["struck"], fault["start"], fault["end"]) < 0.35]
    assert len(gone) >= 0.8 * len(retakes), [fault["text"] for fault in retakes if fault not in gone]
    assert head["undo"]["summary"].startswith("took out ") and "retakes" in head["undo"]["summary"]
    back = jaskel.post(f"/api/editions/{edition}/undo", {"revision": head["revision"]})
    assert back["struck"] == []
