"""What one stumbles over in a day's work: reloads, dialogs, muted words, buttons that are off."""

from __future__ import annotations

import pytest
from selenium.webdriver.common.by import By
from selenium.webdriver.common.keys import Keys

from .helpers import wait
from .test_person import open_episode

pytestmark = pytest.mark.e2e


def test_a_reload_keeps_the_stage_and_a_sheet_has_a_button_to_close(person, demo):
    open_episode(person, demo)
    person.click("Export")
    person.see("Finished")
    person.driver.refresh()
    person.see("Finished")
    person.keys("?")
    sheet = person.find("Listen")
    assert "Play or pause" in sheet.text and person.find("Cut").text
    person.click("Close")
    wait(lambda: not person.driver.find_elements(By.CSS_SELECTOR, "[role=dialog]"))
    assert not person.trouble()


def test_a_reload_or_a_link_opens_edition_stage_and_place(person, demo):
    open_episode(person, demo)
    person.click("Tidy")
    person.hold(Keys.CONTROL, "e")
    person.click("Copy of this one")
    wait(lambda: "edition=" in person.driver.current_url)
    person.word("kettle").click()
    place = person.place()
    wait(lambda: "at=" in person.driver.current_url)
    link = person.driver.current_url
    assert "stage=tidy" in link
    for go in (person.driver.refresh, lambda: (person.open("about:blank"), person.open(link))):
        go()
        wait(lambda: person.driver.find_element(By.CSS_SELECTOR, ".tok[data-now]").text == "kettle")
        assert person.place() == place and person.driver.current_url == link
        assert person.find("Tidy").get_attribute("aria-current") == "step"
    assert not person.trouble()


def test_a_muted_word_is_seen_and_left_out_of_the_transcript(person, demo):
    open_episode(person, demo)
    person.click("Cut")
    undo = person.find("Undo")
    assert undo.get_attribute("aria-disabled") == "true"
    person.word("kettle").click()
    person.hold(Keys.SHIFT, Keys.ARROW_RIGHT)
    person.driver.find_element(By.CSS_SELECTOR, "[aria-label^='Mute ']").click()
    wait(lambda: "muted" in person.classes("kettle"))
    person.single_files()
    person.click("Text")
    person.find("Ropewalk - The dry hull, mixed.txt")
    episode = person.episode
    (export,) = demo.get(f"/api/episodes/{episode}")["exports"]
    written = (demo.settings.vault / "exports" / export["id"]).read_text()
    assert "kettle" not in written and "did you bring the" in written
    person.keys(Keys.CONTROL + "z")


def test_what_undo_brings_back_stands_under_gather_at_once(person, demo):
    open_episode(person, demo)
    person.click("Gather")
    person.click("Remove Interview, mixed.mp4")
    person.click("Remove anyway")
    person.see("Not on the page")
    person.driver.find_element(By.TAG_NAME, "body").send_keys(Keys.CONTROL + "z")
    person.not_see("Not on the page")
