"""What comes from elsewhere and goes there: archives, timelines, addresses, the shared folder, calls, and parts alone."""

from __future__ import annotations

import json
import sqlite3
import threading
import urllib.request
from contextlib import closing
from dataclasses import replace
from http.server import BaseHTTPRequestHandler, ThreadingHTTPServer
from pathlib import Path

import opentimelineio as otio
import pytest
from conftest import excerpt
from PIL import Image
from selenium.webdriver.common.action_chains import ActionChains
from selenium.webdriver.common.by import By
from selenium.webdriver.common.keys import Keys

from jaskel.standins.shared_folder import PREFIX

from .conftest import Running
from .helpers import wait
from .test_export import exporting, rows, tick  # noqa: F401
from .test_person import open_episode

pytestmark = pytest.mark.e2e


class Elsewhere:
    """Another machine: it has a file, and is called."""

    def __init__(self, file: Path) -> None:
        self.calls: list[dict] = []
        elsewhere = self

        class Answer(BaseHTTPRequestHandler):
            def log_message(self, *_: object) -> None:
                pass

            def do_GET(self) -> None:
                content = file.read_bytes()
                self.send_response(200)
                self.send_header("Content-Length", str(len(content)))
                self.end_headers()
                self.wfile.write(content)

            def do_POST(self) -> None:
                elsewhere.calls.append(json.loads(self.rfile.read(int(self.headers["Content-Length"]))))
                self.send_response(204)
                self.end_headers()

        self.server = ThreadingHTTPServer(("127.0.0.1", 0), Answer)
        self.url = f"http://127.0.0.1:{self.server.server_port}"
        threading.Thread(target=self.server.serve_forever, daemon=True).start()


@pytest.fixture
def elsewhere(tmp_path):
    made = Elsewhere(excerpt(tmp_path / "take one.ogg", "interview-orla.ogg", 10))
    yield made
    made.server.shutdown()


@pytest.fixture
def demo(demo, elsewhere):
    """The demo, which reaches the machine beside it and a shared folder."""
    demo.stop()
    reaching = Running(demo.settings.data)
    reaching.settings = replace(reaching.settings, reach=("127.0.0.1",), shared_folder=reaching.url + PREFIX)
    reaching.start()
    yield reaching
    reaching.stop()


def exported(person, demo, form):
    """An export of a form, once it is there, as bytes."""

    def found():
        made = demo.get(f"/api/episodes/{person.episode}")["exports"]
        return next((each for each in made if each["form"] == form), None)

    with urllib.request.urlopen(f"{demo.url}/api/exports/{wait(found, 120)['id']}/file") as sent:
        return sent.read()


def test_an_episode_goes_out_and_comes_in_as_one_archive(exporting, demo, tmp_path):  # noqa: F811
    exporting.single_files()
    exporting.click("Whole episode")
    (tmp_path / "episode.zip").write_bytes(exported(exporting, demo, "episode"))
    (tmp_path / "no.zip").write_bytes(b"no archive at all")
    first = exporting.episode
    exporting.open(demo.url)
    exporting.find("Bring an episode …")
    archive = exporting.driver.find_element(By.CSS_SELECTOR, "input[aria-label='Archive of an episode']")
    archive.send_keys(str(tmp_path / "no.zip"))
    exporting.see("This archive is damaged, so nothing of it was brought in.")
    exporting.find("Bring an episode …")
    exporting.driver.find_element(By.CSS_SELECTOR, "input[aria-label='Archive of an episode']").send_keys(
        str(tmp_path / "episode.zip")
    )
    wait(lambda: "/episodes/" in exporting.driver.current_url and exporting.episode != first, 90)
    exporting.word("kettle")
    title = lambda id: demo.get(f"/api/episodes/{id}")["title"]  # noqa: E731
    assert title(exporting.episode).startswith(title(first))


def test_files_come_from_an_address_and_from_the_shared_folder(person, demo, elsewhere):
    open_episode(person, demo)
    names = lambda: [each["name"] for each in demo.get(f"/api/episodes/{person.episode}")["recordings"]]  # noqa: E731
    person.click("Gather")
    person.type("Address of a file", f"{elsewhere.url}/take%20one.ogg" + Keys.ENTER)
    wait(lambda: "take one.ogg" in names(), 60)
    person.click("Look into it")
    person.click("The dry hull")
    person.click("Fetch Teo.ogg")
    wait(lambda: "Teo.ogg" in names(), 60)
    person.click("Up from “The dry hull”")
    person.find("Fetch Mending a torn sail.mp4")
    assert person.trouble() == []


def test_the_selection_alone_goes_out_and_somebody_is_called(exporting, demo, elsewhere, tmp_path):  # noqa: F811
    exporting.click("Mail and calls to other programs")
    field = exporting.driver.find_element(By.XPATH, "//label[contains(., 'Call these addresses')]//textarea")
    field.send_keys(f"{elsewhere.url}/called", Keys.TAB)
    wait(lambda: demo.get(f"/api/shows/{demo.get(f'/api/episodes/{exporting.episode}')['show_id']}/telling")["calls"])
    exporting.single_files()
    exporting.see("nothing is selected")
    words = exporting.driver.find_elements(By.CSS_SELECTOR, ".tok")[3:9]
    ActionChains(exporting.driver).drag_and_drop(words[0], words[-1]).perform()
    tick_box = exporting.driver.find_element(
        By.XPATH, "//label[contains(., 'only the selection')]//*[@role='checkbox' or self::input]"
    )
    tick_box.click()
    exporting.click("Moving WebP")
    (tmp_path / "part.webp").write_bytes(exported(exporting, demo, "webp"))
    with Image.open(tmp_path / "part.webp") as moving:
        assert moving.n_frames > 5
    (made,) = demo.get(f"/api/episodes/{exporting.episode}")["exports"]
    assert 24_000 < made["length"] < 10 * 48_000
    exporting.click("PNG of a picture")
    (tmp_path / "part.png").write_bytes(exported(exporting, demo, "png"))
    with Image.open(tmp_path / "part.png") as picture:
        assert picture.size == (640, 360)
    wait(lambda: len(elsewhere.calls) >= 2, 60)
    assert {call["event"] for call in elsewhere.calls} == {"export.done"}


def test_what_waits_can_be_put_first(exporting, demo):  # noqa: F811
    for name in ("Square", "Upright, up to 3 min", "Archive", "Wide film", "Podcast feed"):
        tick(exporting, name)
    exporting.click("Start 5 exports")
    exporting.click("Put first: Podcast feed")

    def jobs():
        found = demo.get(f"/api/episodes/{exporting.episode}")["jobs"]
        return [each for each in found if each["kind"] == "export" and each["state"] in ("queued", "running")]

    def begun():
        """When each was begun, by the name of its destination; 0 where it was not yet."""
        with closing(sqlite3.connect(f"file:{demo.settings.database}?mode=ro", uri=True)) as store:
            return {
                json.loads(details)["called"]: at
                for details, at in store.execute("SELECT details, started FROM jobs WHERE kind = 'export'")
            }

    for job in jobs():
        if job["state"] == "running":
            demo.post(f"/api/jobs/{job['id']}/cancel", {})
    wait(lambda: begun()["Podcast feed"], 60)
    assert not begun()["Wide film"] or begun()["Podcast feed"] <= begun()["Wide film"]
    for job in jobs():
        demo.post(f"/api/jobs/{job['id']}/cancel", {})
    wait(lambda: not jobs(), 60)


def test_a_timeline_made_elsewhere_becomes_an_edition(exporting, demo, tmp_path):  # noqa: F811
    exporting.single_files()
    exporting.click("OpenTimelineIO")
    timeline = otio.adapters.read_from_string(exported(exporting, demo, "otio").decode(), "otio_json")
    for track in timeline.tracks:
        for clip in track.find_clips():
            half = clip.source_range.duration.rescaled_to(clip.source_range.duration.rate)
            clip.source_range = otio.opentime.TimeRange(
                clip.source_range.start_time, otio.opentime.RationalTime(half.value // 2, half.rate)
            )
    otio.adapters.write_to_file(timeline, str(tmp_path / "shorter.otio"))
    head = lambda edition: demo.get(f"/api/editions/{edition}")  # noqa: E731
    before = demo.get(f"/api/episodes/{exporting.episode}")["editions"]
    exporting.click("Edition", whole=False)
    exporting.driver.find_element(By.CSS_SELECTOR, "input[aria-label='Timeline to bring in']").send_keys(
        str(tmp_path / "shorter.otio")
    )
    made = wait(lambda: demo.get(f"/api/episodes/{exporting.episode}")["editions"][len(before) :])[0]
    assert made["name"] == "shorter"
    assert head(made["id"])["running_time"] == pytest.approx(head(before[0]["id"])["running_time"] / 2, rel=0.05)
