"""Ended without a word at any moment: nothing acknowledged is lost, and jobs go on."""

from __future__ import annotations

import os
import signal

import numpy as np
import psutil
import pytest
import soundfile
from conftest import RATE

from .helpers import wait
from .test_person import choose_file

pytestmark = [pytest.mark.e2e, pytest.mark.as_people_do]


def edition_of(running, title):
    (episode,) = [e["id"] for s in running.get("/api/shows")["shows"] for e in s["episodes"] if e["title"] == title]
    return episode, running.get(f"/api/episodes/{episode}")["editions"][0]["id"]


def alive(pid):
    return psutil.pid_exists(pid) and psutil.Process(pid).status() != psutil.STATUS_ZOMBIE


def strike(running, edition, revision, second):
    ranges = [{"begin": second * RATE, "end": second * RATE + RATE // 3}]
    body = {"revision": revision, "operation": {"kind": "strike", "ranges": ranges}}
    return running.post(f"/api/editions/{edition}/operations", body)


def test_every_acknowledged_edit_outlives_the_server(demo):
    _, edition = edition_of(demo, "The dry hull, mixed")
    revision = demo.get(f"/api/editions/{edition}")["revision"]
    for second in range(10, 30):
        revision = strike(demo, edition, revision, second)["revision"]
        if second % 7 == 0:
            master = demo.children()["server"]
            # The master first: it would replace a worker that was killed, and that one answers for a moment.
            killed = [psutil.Process(master), *psutil.Process(master).children()]
            for child in killed:
                os.kill(child.pid, signal.SIGKILL)
            wait(lambda killed=killed: not any(alive(child.pid) for child in killed))
            wait(demo.answers)
    head = demo.get(f"/api/editions/{edition}")
    assert head["revision"] == revision
    assert len(head["struck"]) == 20


def test_an_export_goes_on_after_its_worker_was_killed(demo):
    episode, edition = edition_of(demo, "Mending a torn sail")
    ranges = [{"begin": 70 * RATE, "end": 1000 * RATE}]
    demo.post(f"/api/editions/{edition}/operations", {"revision": 1, "operation": {"kind": "strike", "ranges": ranges}})
    demo.post(f"/api/editions/{edition}/exports", {"form": "mp4"})
    wait(lambda: [j for j in demo.get(f"/api/episodes/{episode}")["jobs"] if j["state"] == "running" and j["done"]], 30)
    os.kill(demo.children()["worker"], signal.SIGKILL)
    assert demo.get(f"/api/episodes/{episode}")["exports"] == []
    demo.post(f"/api/editions/{edition}/exports", {"form": "wav"})
    wait(lambda: len(demo.get(f"/api/episodes/{episode}")["exports"]) == 2, 120)
    wav = next(e for e in demo.get(f"/api/episodes/{episode}")["exports"] if e["form"] == "wav")
    assert soundfile.info(demo.settings.vault / "exports" / wav["id"]).frames == wav["length"]
    assert not list((demo.settings.vault / "exports").glob(".*"))


def test_an_upload_goes_on_after_the_server_was_killed(person, empty, tmp_path):
    path = tmp_path / "long.wav"
    sound = np.random.default_rng(1).integers(-300, 300, (200 * RATE, 2), np.int16)
    soundfile.write(path, sound, RATE)
    show = empty.post("/api/shows", {"name": "Ropewalk"})
    episode = empty.post(f"/api/shows/{show['id']}/episodes", {"title": "A long one"})["id"]
    person.open(f"{empty.url}/episodes/{episode}")
    person.find("Gather")
    slow = {"offline": False, "latency": 0, "downloadThroughput": -1, "uploadThroughput": 8_000_000}
    person.driver.execute_cdp_cmd("Network.enable", {})
    person.driver.execute_cdp_cmd("Network.emulateNetworkConditions", slow)
    try:
        choose_file(person, path)
        # One part is there, and more is under way.
        arrived = lambda: max((p.stat().st_size for p in empty.settings.vault.rglob("*") if p.is_file()), default=0)  # noqa: E731
        wait(lambda: 17_000_000 < arrived() < path.stat().st_size)
        master = empty.children()["server"]
        for child in [psutil.Process(master), *psutil.Process(master).children()]:
            os.kill(child.pid, signal.SIGKILL)
        wait(empty.answers)
        wait(lambda: [r for r in empty.get(f"/api/episodes/{episode}")["recordings"] if r["state"] == "ready"], 120)
    finally:
        person.driver.execute_cdp_cmd("Network.emulateNetworkConditions", {**slow, "uploadThroughput": -1})
    (original,) = empty.settings.vault.glob("originals/*/*")
    assert original.read_bytes() == path.read_bytes()


def test_a_transcript_goes_on_where_it_was_when_everything_is_killed(empty, talk):
    show = empty.post("/api/shows", {"name": "Ropewalk"})
    episode = empty.post(f"/api/shows/{show['id']}/episodes", {"title": "Mending a torn sail"})["id"]
    empty.upload(episode, talk)
    edition = empty.get(f"/api/episodes/{episode}")["editions"][0]["id"]
    words = wait(lambda: empty.get(f"/api/editions/{edition}/page")["words"], 150)
    children = empty.children().values()
    empty.process.kill()
    empty.process.wait()
    empty.process.stdout.close()
    for child in children:  # the kernel ends them with their parent
        wait(lambda child=child: not alive(child), 15)
    empty.start()
    assert empty.get(f"/api/editions/{edition}/page")["words"] >= words
    wait(lambda: empty.get(f"/api/episodes/{episode}")["recordings"][0]["transcript"] == "done", 200)
    page = empty.get(f"/api/editions/{edition}/page")
    texts = [t["text"] for p in page["passages"] for t in p["tokens"] if t["k"] == "w"]
    assert 140 < len(texts) < 240


def test_ctrl_c_ends_both_processes(demo):
    children = demo.children()
    assert set(children) == {"server", "worker"}
    assert demo.interrupted() == 0
    assert not [pid for pid in children.values() if os.path.exists(f"/proc/{pid}")]
