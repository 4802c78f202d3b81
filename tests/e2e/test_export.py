"""Export in the browser: destinations checked and made together, one of one's own, and the last listen by keys."""

from __future__ import annotations

import io
import urllib.request

import av
import feedparser
import pytest
from selenium.webdriver.common.by import By
from selenium.webdriver.common.keys import Keys
from selenium.webdriver.support.select import Select

from .helpers import wait
from .test_person import open_episode

pytestmark = pytest.mark.e2e


@pytest.fixture
def exporting(person, demo):
    open_episode(person, demo)
    person.click("Export")
    person.find("Destinations")
    yield person
    assert person.trouble() == []


def tick(person, name):
    row = wait(lambda: next((each for each in rows(person) if name in each.text), None))
    row.find_element(By.CSS_SELECTOR, "input").click()


def rows(person):
    return person.driver.find_elements(By.CSS_SELECTOR, "ul[aria-label=Destinations] > li")


def exports(person, demo):
    return demo.get(f"/api/episodes/{person.episode}")["exports"]


def test_two_destinations_at_once_one_of_them_ones_own(exporting, demo):
    exporting.click("New destination like Podcast feed")
    name = exporting.find("Name of the destination")
    name.send_keys(Keys.CONTROL, "a")
    name.send_keys("Members")
    Select(exporting.find("Form of the file")).select_by_visible_text("Opus")
    loudness = exporting.find("Loudness of the file")
    loudness.send_keys(Keys.CONTROL, "a")
    loudness.send_keys("-19", Keys.TAB)
    exporting.click("Save")
    exporting.see("The show keeps “Members”")
    tick(exporting, "Upright, up to 60 s")
    exporting.see("It cannot go out like this")
    exporting.see("over the limit of 60 s")
    tick(exporting, "Upright, up to 60 s")
    tick(exporting, "Members")
    tick(exporting, "Proof for a colleague")
    exporting.click("Start 2 exports")
    wait(lambda: {"opus", "proof"} <= {each["form"] for each in exports(exporting, demo)}, 180)
    opus = next(each for each in exports(exporting, demo) if each["form"] == "opus")
    assert opus["file_name"].endswith("Members.opus") and opus["destination"] == "Members"
    with urllib.request.urlopen(f"{demo.url}/api/exports/{opus['id']}/file") as sent, av.open(io.BytesIO(sent.read())) as media:
        assert media.streams.audio[0].codec_context.name == "opus"
    exporting.see("Members.opus")


def test_the_last_listen_is_done_with_keys(exporting, demo):
    edition = demo.get(f"/api/episodes/{exporting.episode}")["editions"][0]["id"]
    head = demo.get(f"/api/editions/{edition}")
    ranges = [
        {"begin": int(head["recorded_time"] * part), "end": int(head["recorded_time"] * part) + 96_000} for part in (0.3, 0.6)
    ]
    body = {"kind": "strike", "ranges": ranges, "why": "by hand"}
    demo.post(f"/api/editions/{edition}/operations", {"revision": head["revision"], "operation": body})
    places = lambda: demo.get(f"/api/editions/{edition}/last-listen")["places"]  # noqa: E731
    wait(lambda: any("cut" in why for each in places() for why in each["why"]))
    count = len(places())
    exporting.see(f"0 of {count} passed")
    exporting.keys(Keys.ESCAPE)
    exporting.hold(Keys.SHIFT, "h")
    exporting.find("Place being heard")
    exporting.see(f"1 of {count}")
    wait(lambda: exporting.place() > (places()[0]["begin"] + 24_000) / 48_000, 10)
    exporting.keys("n")
    exporting.see(f"2 of {count}")
    exporting.keys("a")
    exporting.see(f"1 of {count} passed")
    exporting.see(f"3 of {count}")
    wait(lambda: [each["passed"] for each in places()][:3] == [False, True, False])
    exporting.driver.refresh()
    exporting.see(f"1 of {count} passed")


def test_an_episode_is_published_and_read_back(exporting, demo):
    tick(exporting, "Podcast feed")
    exporting.click("Start export")
    wait(lambda: {"mp3", "vtt"} <= {each["form"] for each in exports(exporting, demo)}, 180)
    exporting.click("Publish Ropewalk - The dry hull, mixed - Podcast feed.mp3")
    exporting.type("Summary in the feed", "A hull, a kettle and a torn sail.")
    exporting.driver.find_element(By.CSS_SELECTOR, "form[aria-label=Publish] button[type=submit]").click()
    episode = demo.get(f"/api/episodes/{exporting.episode}")
    address = f"/api/shows/{episode['show_id']}/feed"
    (published,) = wait(lambda: demo.get(address)["published"], 60)
    # It is listed before the feed that names it has arrived.
    wait(lambda: not [each for each in demo.get(f"/api/episodes/{exporting.episode}")["jobs"] if each["kind"] == "publish"], 60)
    with urllib.request.urlopen(demo.get(address)["address"]) as sent:
        (entry,) = feedparser.parse(sent.read()).entries
    assert entry.summary == "A hull, a kettle and a torn sail." and published["number"] == 1
    with urllib.request.urlopen(entry.enclosures[0].href) as sent, av.open(io.BytesIO(sent.read())) as media:
        assert media.duration / 1e6 == pytest.approx(published["length"] / 48_000, abs=0.2)
    exporting.see("1 published")
    exporting.click("Withdraw")
    wait(lambda: demo.get(address)["published"] == [], 60)
    exporting.see("Nothing is published yet")


def test_an_export_is_paused_and_resumed(exporting, demo):
    tick(exporting, "Square")
    exporting.click("Start export")
    exporting.click("Pause: Square")
    exporting.see("Square is paused")
    jobs = lambda: demo.get(f"/api/episodes/{exporting.episode}")["jobs"]  # noqa: E731
    assert [each["state"] for each in jobs() if each["kind"] == "export"] == ["paused"]
    exporting.click("Resume")
    exporting.click("Cancel: Writing Square")
    wait(lambda: not [each for each in jobs() if each["state"] in ("queued", "running")], 30)
