"""What is heard besides words, how numbers are written, who hears: by mouse and keyboard."""

from __future__ import annotations

import zipfile

import pytest
from selenium.webdriver import Keys
from selenium.webdriver.common.by import By
from selenium.webdriver.support.ui import Select

from jaskel.speech.weights import english_weights

from .helpers import wait

pytestmark = pytest.mark.e2e


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


def test_what_are_no_weights_is_told_in_the_library(person, demo, tmp_path):
    (tmp_path / "song.zip").write_bytes(b"no zip at all")
    person.open(demo.url)
    person.see("Speech recognition")
    person.driver.find_element(By.CSS_SELECTOR, "input[aria-label='Zip of weights']").send_keys(str(tmp_path / "song.zip"))
    person.see("This zip cannot be read", 60)
