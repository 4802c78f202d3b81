"""What is heard besides words, how numbers are written, who hears: by mouse and keyboard."""

from __future__ import annotations

import json
import shutil
import sqlite3
import zipfile
from contextlib import closing
from pathlib import Path

import numpy as np
import pytest
import soundfile
from conftest import DEMO, RATE
from selenium.webdriver import Keys
from selenium.webdriver.common.by import By
from selenium.webdriver.support.ui import Select

from jaskel.media.conform import decoded
from jaskel.speech.weights import english_weights

from .helpers import wait
from .test_person import choose_file

pytestmark = pytest.mark.e2e

ITALIAN = Path(__file__).parents[1] / "fixtures" / "languages" / "it.ogg"


def said(person) -> list[str]:
    return person.words()


def test_the_demo_opens_on_a_session_of_two_voices_with_its_names_right(person, demo):
    person.open(f"{demo.url}/episodes/{demo.episode('The dry hull')}")
    person.word("Ropewalk,")
    person.click("Score")
    staves = "return getComputedStyle(document.querySelector('.score')).getPropertyValue('--staves').trim()"
    wait(lambda: person.driver.execute_script(staves) == "2")
    names = {e.text for e in person.driver.find_elements(By.CSS_SELECTOR, "[role=article] button")}
    assert {"Orla Venn", "Teo Marsh"} <= names
    assert person.trouble() == []


def test_numbers_are_written_as_the_show_wants_them_and_back(opened):
    opened.click("Read")
    wait(lambda: "30" in said(opened))
    Select(opened.find("Numbers")).select_by_visible_text("In words (thirty-two)")
    opened.see("Numbers are written in words")
    opened.click("Put this episode right")
    wait(lambda: "thirty" in said(opened), 60)
    opened.find("Transcript").click()
    opened.hold(Keys.CONTROL, "z")
    wait(lambda: "30" in said(opened) and "thirty" not in said(opened))


def test_laughter_is_stepped_to_struck_and_put_back(opened):
    opened.click("Read")
    kind = Select(opened.find("What to step through"))
    kind.select_by_index([option.text.startswith("sounds in brackets") for option in kind.options].index(True))
    opened.click("Next")
    picked = lambda: opened.driver.find_element(By.CSS_SELECTOR, ".tok.picked")  # noqa: E731
    wait(lambda: picked().text.strip() == "[laughter]")
    assert "heard" in picked().get_attribute("class")
    before = opened.running_time()
    opened.driver.execute_script("document.activeElement.blur()")
    opened.keys(Keys.DELETE)
    wait(lambda: opened.running_time() != before)
    opened.hold(Keys.CONTROL, "z")
    wait(lambda: opened.running_time() == before)


def test_larger_weights_are_added_as_a_zip_and_hear_with_care(person, demo, tmp_path):
    packed = tmp_path / "larger.zip"
    with zipfile.ZipFile(packed, "w") as out:
        for file in english_weights().iterdir():
            if file.is_file():
                out.write(file, f"larger/{file.name}")
    person.open(demo.url)
    person.see("Speech recognition")
    person.driver.find_element(By.CSS_SELECTOR, "input[aria-label='Zip of weights']").send_keys(str(packed))
    person.see("larger", 60)
    person.see("s of sound heard in a second on this machine", 120)
    person.open(f"{demo.url}/episodes/{demo.episode('The dry hull, mixed')}")
    person.click("Gather")
    Select(person.find("Heard")).select_by_visible_text("careful: by larger weights")
    person.see("Transcribe again")
    episode = demo.get(f"/api/episodes/{demo.episode('The dry hull, mixed')}")
    assert [each["care"] for each in episode["recordings"]] == ["careful"]
    person.open(demo.url)
    person.click("Delete larger")
    wait(lambda: len(demo.get("/api/weights")["weights"]) == 2)


def test_a_folder_of_weights_is_added_and_one_without_them_refused(person, empty, tmp_path):
    person.open(empty.url)
    person.see("Speech recognition")
    folder = person.driver.find_element(By.CSS_SELECTOR, "input[aria-label='Folder of weights']")
    (tmp_path / "songs").mkdir()
    (tmp_path / "songs" / "song.txt").write_text("la la")
    folder.send_keys(str(tmp_path / "songs"))
    person.see("This folder holds no weights")
    shutil.copytree(english_weights(), tmp_path / "from a friend")
    folder.send_keys(str(tmp_path / "from a friend"))
    person.see("from a friend", 60)
    wait(
        lambda: (
            [each["state"] for each in empty.get("/api/weights")["weights"] if each["name"] == "from a friend"] == ["ready"]
        ),
        120,
    )


def test_a_recording_in_two_languages_is_parted_and_each_is_heard(person, empty, tmp_path):
    sound = [np.concatenate([*decoded(path, 1)])[: 25 * RATE] for path in (DEMO / "mending-a-sail.mp4", ITALIAN)]
    soundfile.write(tmp_path / "both.flac", np.concatenate(sound), RATE)
    show = empty.post("/api/shows", {"name": "Two harbours"})
    episode = empty.post(f"/api/shows/{show['id']}/episodes", {"title": "Boats"})["id"]
    person.open(f"{empty.url}/episodes/{episode}")
    choose_file(person, tmp_path / "both.flac")
    person.click("Gather")
    heard = lambda: [each["transcript"] for each in empty.get(f"/api/episodes/{episode}")["recordings"]]  # noqa: E731
    wait(lambda: heard() == ["done"], 120)
    assert "Buongiorno" not in " ".join(said(person))
    # It takes minutes of each to tell where languages change, so that is said here.
    with closing(sqlite3.connect(empty.settings.database, timeout=20)) as store, store:
        store.execute("UPDATE recordings SET languages = ?", [json.dumps([[0, "en"], [25 * RATE, "it"]])])
    person.open(f"{empty.url}/episodes/{episode}")
    person.click("Gather")
    person.see("Italian from 0:25")
    person.click("Part it there")
    person.click("Transcribe again")
    person.word("Buongiorno", 120)
    assert "sail" in " ".join(said(person)) and person.trouble() == []
    person.see("Hear as one")


def test_what_are_no_weights_is_told_in_the_library(person, demo, tmp_path):
    (tmp_path / "song.zip").write_bytes(b"no zip at all")
    person.open(demo.url)
    person.see("Speech recognition")
    person.driver.find_element(By.CSS_SELECTOR, "input[aria-label='Zip of weights']").send_keys(str(tmp_path / "song.zip"))
    person.see("This zip cannot be read", 60)
