"""What the page keeps: the words behind a dialog, the focus of a button, the line one looks at."""

import time

import pytest
from selenium.webdriver.common.by import By
from selenium.webdriver.common.keys import Keys

from .helpers import head, wait

DRAG = """
const [kind, what] = arguments;
const data = new DataTransfer();
if (what === 'file') data.items.add(new File(['sound'], 'a.wav'));
else data.setData('text/plain', 'dragged words');
document.querySelector('.tok').dispatchEvent(new DragEvent(kind, { bubbles: true, cancelable: true, dataTransfer: data }));
"""


@pytest.fixture
def reading(opened):
    yield opened
    assert opened.trouble() == []


def test_keys_do_nothing_to_words_behind_a_dialog(reading):
    reading.word("kettle").click()
    reading.hold(Keys.CONTROL, "h")
    wait(lambda: reading.driver.find_elements(By.CSS_SELECTOR, "[role=dialog]"))
    reading.keys(Keys.DELETE)
    reading.keys("2")
    time.sleep(1)
    assert head(reading)["struck"] == []
    assert reading.driver.find_elements(By.CSS_SELECTOR, "section[aria-label=Cut]")
    reading.keys(Keys.ESCAPE)
    wait(lambda: not reading.driver.find_elements(By.CSS_SELECTOR, "[role=dialog]"))
    reading.keys(Keys.DELETE)
    wait(lambda: head(reading)["struck"])


def test_a_splice_is_nudged_again_and_again_by_the_same_key(reading):
    reading.word("kettle").click()
    reading.keys(Keys.DELETE)
    reading.see("1 of 1")
    ((begin, _),) = head(reading)["struck"]
    button = reading.find("End before it: 10 ms")
    reading.driver.execute_script("arguments[0].focus()", button)
    for times in (1, 2, 3):
        reading.keys(Keys.ENTER)
        wait(lambda times=times: head(reading)["struck"][0][0] == begin + times * 480)
        focused = reading.driver.switch_to.active_element.get_attribute("aria-label")
        assert focused == "End before it: 10 ms"


def test_the_edge_of_a_cut_is_nudged_again_and_again_in_fine(reading):
    reading.word("kettle").click()
    reading.keys(Keys.DELETE)
    reading.see("1 of 1")
    ((begin, _),) = head(reading)["struck"]
    reading.click("Fine")
    handle = reading.driver.find_element(By.CSS_SELECTOR, ".fine .handle")
    reading.driver.execute_script("arguments[0].focus()", handle)
    for times in (1, 2, 3):
        reading.keys(Keys.ARROW_RIGHT)
        wait(lambda times=times: head(reading)["struck"][0][0] == begin + times * 480)
        assert "handle" in (reading.driver.switch_to.active_element.get_attribute("class") or "")


def test_what_was_done_is_said_where_it_covers_no_line(reading):
    reading.word("kettle").click()
    reading.keys(Keys.DELETE)
    reading.see("saved,")
    page, said = (reading.driver.find_element(By.CSS_SELECTOR, each).rect for each in (".page", "main [role=status]"))
    assert said["y"] >= page["y"] + page["height"]


def test_unsure_words_are_counted_the_same_everywhere(reading):
    unsure = reading.driver.find_element(By.CSS_SELECTOR, ".tok.unsure")
    unsure.click()
    reading.keys(Keys.DELETE)
    reading.see("saved,")
    reading.click("Read")
    shown = wait(lambda: reading.driver.find_element(By.XPATH, "//main//span[contains(., ' unsure')]").text.split(" · ")[1])
    option = reading.find("What to step through").find_element(By.CSS_SELECTOR, "option[value=unsure]").text
    assert option == f"unsure words ({shown.split()[0]})"


class TestDraggedIn:
    def veil(self, person) -> bool:
        return "Drop to add to" in person.page

    def test_a_file_is_awaited_until_it_leaves_the_window(self, reading):
        reading.driver.execute_script(DRAG, "dragenter", "file")
        wait(lambda: self.veil(reading))
        reading.driver.execute_script(DRAG, "dragleave", "file")
        wait(lambda: not self.veil(reading))

    def test_dragged_text_is_not_awaited(self, reading):
        for kind in ("dragenter", "dragover"):
            reading.driver.execute_script(DRAG, kind, "text")
        time.sleep(0.5)
        assert not self.veil(reading)
