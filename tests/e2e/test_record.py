"""Recording in the browser, with Chromium's made-up microphone and camera."""

from __future__ import annotations

import shutil

import pytest
from selenium import webdriver
from selenium.webdriver.chrome.service import Service

from .conftest import FLAGS, Person
from .helpers import wait
from .test_gather import new_episode
from .test_sound import select_again

pytestmark = pytest.mark.e2e

DEVICES = "--use-fake-device-for-media-stream"
ALLOW, REFUSE = "--use-fake-ui-for-media-stream", "--deny-permission-prompts"


def browser(*flags: str) -> webdriver.Chrome:
    options = webdriver.ChromeOptions()
    options.binary_location = shutil.which("chromium")
    for flag in (*FLAGS.split(), DEVICES, *flags):
        options.add_argument(flag)
    return webdriver.Chrome(options=options, service=Service(shutil.which("chromedriver")))


@pytest.fixture
def at_microphone():
    opened = browser(ALLOW)
    yield Person(opened)
    opened.quit()


def recordings(empty, episode):
    return empty.get(f"/api/episodes/{episode}")["recordings"]


def test_a_take_becomes_a_recording_and_a_crashed_one_is_kept(at_microphone, empty):
    episode = new_episode(at_microphone, empty)
    at_microphone.click("Open the microphone")
    at_microphone.find("Level")
    wait(lambda: "dB" in at_microphone.find("Record").text or "too loud" in at_microphone.find("Record").text)
    at_microphone.click("Record a take")
    at_microphone.see("0:03")
    at_microphone.click("Stop")
    wait(lambda: [r for r in recordings(empty, episode) if r["state"] == "ready" and r["length"] > 2 * 48_000], 90)
    at_microphone.click("Record a take")
    wait(lambda: [t for t in empty.get(f"/api/episodes/{episode}")["takes"] if t["chunks"] >= 3], 90)
    at_microphone.open("about:blank")  # the tab goes away in the middle
    wait(lambda: [t for t in empty.get(f"/api/episodes/{episode}")["takes"] if t["silent"] > 6], 90)
    at_microphone.open(f"{empty.url}/episodes/{episode}")
    at_microphone.click("Gather")
    at_microphone.see("broke off")
    at_microphone.click("Keep what was recorded")
    wait(lambda: len([r for r in recordings(empty, episode) if r["state"] == "ready"]) == 2, 90)


def test_a_line_is_recorded_over_its_spot(at_microphone, demo):
    edition = demo.get(f"/api/episodes/{demo.episode('The dry hull')}")["editions"][0]["id"]
    at_microphone.open(f"{demo.url}/episodes/{demo.episode('The dry hull')}")
    at_microphone.click("Sound")
    select_again(at_microphone)
    at_microphone.click("Record")
    at_microphone.click("Record here")
    at_microphone.see("speak now")
    at_microphone.click("Stop")
    at_microphone.find("Use the line: did you, recorded", 90).click()
    wait(lambda: "recorded anew" in demo.get(f"/api/editions/{edition}")["newest"]["summary"])


def test_a_refused_microphone_is_said_plainly(empty):
    opened = browser(REFUSE)
    try:
        person = Person(opened)
        new_episode(person, empty)
        person.click("Open the microphone")
        person.see("was not allowed to use the microphone")
        person.find("Open the microphone")
    finally:
        opened.quit()
