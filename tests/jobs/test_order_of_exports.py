"""Exports in the order people put them in; paused and resumed."""

from __future__ import annotations

import pytest
from conftest import tone, write_media
from sqlalchemy import select

from jaskel.jobs import lease
from jaskel.jobs.carry_out import carry_out
from jaskel.store.models import Job


@pytest.fixture
def three(jaskel, tmp_path):
    episode = jaskel.episode()
    jaskel.upload(episode["id"], write_media(tmp_path / "a.wav", tone(4)))
    jaskel.work()
    jaskel.edition = episode["editions"][0]["id"]
    jaskel.at = f"/api/episodes/{episode['id']}"
    jaskel.ids = [
        jaskel.post(f"/api/editions/{jaskel.edition}/exports", {"form": f}, 202)["id"] for f in ("wav", "mp3", "flac")
    ]
    return jaskel


def states(jaskel):
    with jaskel.workshop.home.database.read() as session:
        known = {job.id: job.state for job in session.scalars(select(Job))}
    return [known[each] for each in jaskel.ids]


def test_the_one_that_was_put_first_is_done_first_whichever_message_comes(three):
    first, second, third = three.ids
    three.post(f"/api/jobs/{third}/first")
    carry_out(three.workshop, first)
    assert states(three) == ["queued", "queued", "done"]
    three.post(f"/api/jobs/{second}/first")
    # The message of one that is done already stands for whichever waits.
    carry_out(three.workshop, third)
    assert states(three) == ["queued", "done", "done"]
    carry_out(three.workshop, second)
    carry_out(three.workshop, first)
    assert states(three) == ["done"] * 3


def test_a_paused_one_waits_until_it_is_resumed(three):
    first, second, _ = three.ids
    assert three.post(f"/api/jobs/{first}/pause")["state"] == "paused"
    for _ in range(3):
        carry_out(three.workshop, second)
    assert states(three) == ["paused", "done", "done"]
    three.post(f"/api/jobs/{first}/pause", status=422)
    assert three.post(f"/api/jobs/{first}/retry")["state"] == "queued"
    carry_out(three.workshop, first)
    assert states(three) == ["done"] * 3


def test_one_that_runs_is_paused_at_its_next_step_and_leaves_nothing(three):
    first = three.ids[0]
    job = lease.claim(three.workshop.home, first)
    three.post(f"/api/jobs/{first}/pause")
    lease.release(three.workshop.home, job, "cancelled")
    assert states(three)[0] == "paused"
    assert three.get(three.at)["exports"] == []
    # Cancelled for good after all.
    three.post(f"/api/jobs/{first}/cancel")
    assert states(three)[0] == "cancelled"


def test_one_that_was_being_paused_when_its_worker_died_is_paused(three):
    home, first = three.workshop.home, three.ids[0]
    lease.claim(home, first)
    three.post(f"/api/jobs/{first}/pause")
    with home.database.write() as session:
        session.get_one(Job, first).worker = "elsewhere:1:x"
        session.get_one(Job, first).beat = 0
    lease.recover(home)
    assert states(three)[0] == "paused"


def test_only_exports_are_put_in_order(three):
    done = three.ids[0]
    carry_out(three.workshop, done)
    three.post(f"/api/jobs/{done}/first", status=422)
    three.post("/api/jobs/none/first", status=404)
