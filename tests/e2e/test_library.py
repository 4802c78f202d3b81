"""The library as a person uses it: search opens at the word, and nothing deleted is gone."""

from __future__ import annotations

import pytest
from conftest import excerpt
from selenium.webdriver import Keys
from selenium.webdriver.common.by import By

from .helpers import wait

pytestmark = pytest.mark.e2e

TITLE = "The dry hull, mixed"


def choose(person, label, item):
    person.click(label)
    person.driver.find_element(By.XPATH, f"//*[@role='menuitem'][normalize-space()='{item}']").click()


def test_where_did_anyone_say_kettle(person, demo):
    person.open(demo.url)
    person.type("Words that were said", "the kettle")
    hit = lambda: person.driver.find_element(By.CSS_SELECTOR, "[aria-label='Where it was said'] a")  # noqa: E731
    wait(lambda: "the kettle" in hit().text and hit().click() is None)  # the list is drawn anew while one types
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


DROP = """
const [on, name] = arguments;
const data = new DataTransfer();
data.items.add(new File(['no sound'], name));
const about = { bubbles: true, cancelable: true, dataTransfer: data };
for (const kind of ['dragenter', 'drop']) on.dispatchEvent(new DragEvent(kind, about));
"""


def test_one_starts_with_a_file_and_names_things_later(person, empty, tmp_path):
    person.open(empty.url)
    person.see("Drop a recording to start")
    file = excerpt(tmp_path / "torn-sail.mp4", "mending-a-sail.mp4", 5)
    person.driver.find_element(By.CSS_SELECTOR, "[aria-label='Recordings to start with']").send_keys(str(file))
    person.see("torn-sail.mp4")
    person.see("640×360 at 25")
    person.driver.find_element(By.CSS_SELECTOR, "h1 button").click()
    for name, text in (("title", "A torn sail"), ("show", "Ropewalk")):
        field = wait(lambda name=name: person.driver.find_element(By.NAME, name))
        field.send_keys(Keys.CONTROL, "a")
        field.send_keys(text)
    person.click("Rename")
    wait(lambda: not person.driver.find_elements(By.NAME, "title"))
    person.find("A torn sail")
    person.click("Jaskel, to the library")
    section = wait(lambda: person.driver.find_element(By.CSS_SELECTOR, "section[aria-label=Ropewalk]"))
    assert "A torn sail" in section.text
    # A file that is dropped on a show makes an episode there, even one that turns out to be no recording.
    person.driver.execute_script(DROP, section, "harbour-notes.wav")
    person.find("Harbour notes")
    person.see("is not a sound or video file")
    (shown,) = empty.get("/api/shows")["shows"]
    assert [each["title"] for each in shown["episodes"]] == ["A torn sail", "Harbour notes"]


def test_what_was_made_is_cleared_by_keyboard_and_comes_again_when_one_opens_it(person, demo):
    person.open(demo.url)
    summary = wait(lambda: person.driver.find_element(By.CSS_SELECTOR, "[aria-label='Disk use'] summary"))
    person.driver.execute_script("arguments[0].focus()", summary)
    summary.send_keys(Keys.ENTER)
    person.see("are free. What was made from originals")
    label = f"Clear what was made for {TITLE}"

    def line():
        return person.find(label).find_element(By.XPATH, "./ancestor::tr")

    def made():
        return line().find_elements(By.TAG_NAME, "td")[2].text

    before = wait(made)
    assert "MB" in before
    clear = person.find(label)
    person.driver.execute_script("arguments[0].focus()", clear)
    clear.send_keys(Keys.ENTER)
    person.see("are free now")
    wait(lambda: made() != before and "cleared" in line().text)
    wait(lambda: person.find(label).get_attribute("aria-disabled") == "true")
    person.driver.find_element(By.XPATH, f"//a[contains(., '{TITLE}')]").click()
    person.word("kettle")
    (episode,) = (each for show in demo.get("/api/shows")["shows"] for each in show["episodes"] if each["title"] == TITLE)

    def ready():
        recordings = demo.get(f"/api/episodes/{episode['id']}")["recordings"]
        return all(each["state"] == "ready" for each in recordings)

    wait(ready)
    assert not person.trouble()
