"""What an episode is made of, as a person gathers and names it: kinds, order, replacements, guests' files, the whole show."""

from __future__ import annotations

import hashlib
import json
import urllib.request
from dataclasses import replace
from pathlib import Path

import pytest
import soundfile
from conftest import DEMO, tone, truth, write_media
from PIL import Image
from selenium.webdriver import Keys
from selenium.webdriver.common.by import By
from selenium.webdriver.support.ui import Select

from jaskel.standins.recording_host import PREFIX

from .conftest import Running
from .helpers import wait

pytestmark = pytest.mark.e2e


def speech(seconds: float, start: float):
    """A stretch of the demo's first microphone."""
    sound, _ = soundfile.read(DEMO / "interview-orla.ogg", start=round(start * 48_000), frames=round(seconds * 48_000))
    return sound.astype("float32")


def new_episode(running) -> str:
    show = running.post("/api/shows", {"name": "Ropewalk"})
    return running.post(f"/api/shows/{show['id']}/episodes", {"title": "The dry hull"})["id"]


def send(running, episode: str, path: Path, placed: bool = True) -> str:
    url = f"{running.url}/api/episodes/{episode}/recordings?name={path.name}&transcribe=false&placed={str(placed).lower()}"
    request = urllib.request.Request(url, path.read_bytes(), {"Content-Type": "application/octet-stream"})
    recording = json.loads(urllib.request.urlopen(request).read())["id"]
    wait(lambda: known(running, episode)[recording]["state"] == "ready")
    return recording


def known(running, episode: str) -> dict[str, dict]:
    return {each["id"]: each for each in running.get(f"/api/episodes/{episode}")["recordings"]}


def on_page(running, episode: str) -> list[str]:
    edition = running.get(f"/api/episodes/{episode}")["editions"][0]["id"]
    return [passage["recording"] for passage in running.get(f"/api/editions/{edition}/page")["passages"]]


@pytest.fixture
def gathering(person, empty, tmp_path):
    """An episode with two short recordings and a picture."""
    episode = new_episode(empty)
    files = [write_media(tmp_path / f"{name}.flac", tone(4, hertz)) for name, hertz in (("a", 300), ("b", 400))]
    first, second = (send(empty, episode, file) for file in files)
    Image.new("RGB", (800, 500), "teal").save(tmp_path / "harbour.png")
    send(empty, episode, tmp_path / "harbour.png")
    person.open(f"{empty.url}/episodes/{episode}")
    person.click("Gather")
    person.see("harbour.png")
    return person, empty, episode, first, second


def test_recordings_change_places(gathering):
    person, empty, episode, first, second = gathering
    assert on_page(empty, episode) == [first, second]
    person.click("b.flac earlier")
    wait(lambda: on_page(empty, episode) == [second, first])
    person.hold(Keys.CONTROL, "z")
    wait(lambda: on_page(empty, episode) == [first, second])


def test_a_recording_is_said_to_be_music_and_a_picture_is_shown(gathering):
    person, empty, episode, first, second = gathering
    wait(lambda: person.driver.find_element(By.CSS_SELECTOR, "img[alt='harbour.png']").get_property("naturalWidth") == 800)
    Select(person.find("What a.flac is")).select_by_visible_text("music")
    wait(lambda: on_page(empty, episode) == [second])
    assert known(empty, episode)[first]["kind"] == "music"


def test_another_file_of_the_same_sound_takes_its_place(gathering, tmp_path):
    person, empty, episode, first, _ = gathering
    old = send(empty, episode, write_media(tmp_path / "phone.flac", speech(28, 20)))
    better = send(empty, episode, write_media(tmp_path / "better.flac", speech(40, 15)), placed=False)
    person.see("better.flac")
    person.click("Replace phone.flac")
    wait(lambda: "better.flac" in [each.text for each in Select(person.find("What replaces phone.flac")).options])
    Select(person.find("What replaces phone.flac")).select_by_visible_text("better.flac")
    person.click("Replace")
    wait(lambda: better in on_page(empty, episode) and old not in on_page(empty, episode), 60)
    assert first in on_page(empty, episode)


def test_a_file_that_went_missing_is_said_and_found_again(gathering, tmp_path):
    person, empty, episode, first, _ = gathering
    digest = hashlib.sha256((tmp_path / "a.flac").read_bytes()).hexdigest()
    original = next(path for path in (empty.settings.data / "vault").rglob("*") if digest in path.name and path.is_file())
    original.unlink()
    person.driver.refresh()
    person.click("Gather")
    person.see("not in the vault any more")
    # Everything else works meanwhile.
    person.click("b.flac earlier")
    wait(lambda: on_page(empty, episode)[-1] == first)
    person.driver.find_element(By.CSS_SELECTOR, "input[aria-label='File of a.flac']").send_keys(str(tmp_path / "b.flac"))
    person.see("This is not the file that")
    person.driver.find_element(By.CSS_SELECTOR, "input[aria-label='File of a.flac']").send_keys(str(tmp_path / "a.flac"))
    wait(lambda: original.exists())
    person.not_see("not in the vault any more")


def test_guests_files_come_from_the_recording_host_as_a_session(person, tmp_path):
    running = Running(tmp_path / "data")
    running.settings = replace(running.settings, recording_host=running.url + PREFIX)
    running.start()
    try:
        episode = new_episode(running)
        person.open(f"{running.url}/episodes/{episode}")
        person.click("Gather")
        offered = person.find("Recording host")
        offered.find_element(By.TAG_NAME, "summary").click()
        person.click("Fetch take 2")
        person.see("These were recorded at the same time", 240)
        voices = {voice["shown"] for voice in running.get(f"/api/episodes/{episode}")["voices"]}
        assert voices == {"Orla Venn", "Teo Marsh"}
    finally:
        running.stop()


class TestTheShow:
    @pytest.fixture
    def reading(self, opened):
        opened.click("Read")
        return opened

    def test_found_in_the_whole_show_and_retyped_there(self, reading):
        person = reading
        person.hold(Keys.CONTROL, "f")
        person.type("Words to find", "shipwright")
        label = person.driver.find_element(By.XPATH, "//label[contains(., 'whole show')]")
        label.click()
        person.find("Places found in the show")
        person.type("Retype in the show as", "ship-wright")
        person.driver.find_element(By.XPATH, "//section[@aria-label='Find']//button[starts-with(., 'Retype ')]").click()
        person.see("Retyped")
        person.word("ship-wright")

    def test_a_text_guides_what_was_recognised(self, reading, tmp_path):
        person = reading
        script = " ".join(word["text"] for word in sorted(truth("interview")["words"], key=lambda word: word["start"])[:60])
        (tmp_path / "script.txt").write_text(script)
        wait(lambda: person.driver.find_element(By.CSS_SELECTOR, "input[aria-label^='Text for']")).send_keys(
            str(tmp_path / "script.txt")
        )
        person.click("Let it guide")
        person.see("right.", 60)
        person.word("Ropewalk,")
