"""The library as a person uses it: search opens at the word, and nothing deleted is gone."""

from __future__ import annotations

import pytest
from selenium.webdriver import Keys
from selenium.webdriver.common.by import By

from .helpers import wait

pytestmark = pytest.mark.e2e

TITLE = "The dry hull"


def choose(person, label, item):
    person.click(label)
    person.driver.find_element(By.XPATH, f"//*[@role='menuitem'][normalize-space()='{item}']").click()


def test_where_did_anyone_say_kettle(person, demo):
    person.open(demo.url)
    person.type("Words that were said", "the kettle")
    hit = wait(lambda: person.driver.find_elements(By.CSS_SELECTOR, "[aria-label='Where it was said'] a"))[0]
    assert "kettle" in hit.text
    hit.click()
    person.word("kettle")
    wait(lambda: person.driver.find_element(By.CSS_SELECTOR, ".tok[data-now]").text in ("the", "kettle"))


def test_nobody_said_it(person, demo):
    person.open(demo.url)
    person.type("Words that were said", "xylophone")
    person.see("Nobody said")


def test_an_episode_is_renamed_laid_away_deleted_and_brought_back(person, demo):
    person.open(demo.url)
    choose(person, f"More about {TITLE}", "Rename")
    field = person.find(f"Title of {TITLE}")
    wait(lambda: person.driver.switch_to.active_element == field)
    field.send_keys(Keys.CONTROL, "a")
    field.send_keys("A dry hull" + Keys.ENTER)
    person.find("More about A dry hull")
    choose(person, "More about A dry hull", "Move to folder…")
    person.type("Folder of A dry hull", "Spring" + Keys.ENTER)
    person.find("Spring")
    choose(person, "More about A dry hull", "Delete")
    person.see("Ropewalk / A dry hull")
    person.click("Restore")
    person.find("More about A dry hull")
    assert not person.trouble()


def test_an_episode_is_duplicated_with_its_words(person, demo):
    person.open(demo.url)
    choose(person, f"More about {TITLE}", "Duplicate")
    person.find(f"More about {TITLE}, copy")
    person.driver.find_element(By.XPATH, f"//a[contains(., '{TITLE}, copy')]").click()
    person.word("kettle")
