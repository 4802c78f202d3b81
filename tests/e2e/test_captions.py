"""Captions on the page: where they break, what is wrong with them, and the rules they keep to."""

from __future__ import annotations

import pytest
from selenium.webdriver.common.by import By
from selenium.webdriver.common.keys import Keys
from selenium.webdriver.support.ui import Select

from .helpers import head, wait

pytestmark = pytest.mark.e2e


def bars(person, look: str) -> int:
    return len(person.driver.find_elements(By.CSS_SELECTOR, f"[data-look='{look}']"))


def test_captions_follow_the_rules_that_are_set_and_faults_are_stepped_through(opened, demo):
    edition = demo.get(f"/api/episodes/{opened.episode}")["editions"][0]["id"]
    cues = lambda: demo.get(f"/api/editions/{edition}/cues")["cues"]  # noqa: E731
    opened.click("Captions")
    wait(lambda: bars(opened, "cue") > 2)
    assert any(len(cue["lines"]) == 2 for cue in cues())
    field = opened.find("characters on a line")
    field.send_keys(Keys.CONTROL, "a")
    field.send_keys("24", Keys.ENTER)
    wait(lambda: head(opened)["captions"]["characters"] == 24)
    assert all(len(line) <= 24 for cue in cues() for line in cue["lines"])
    Select(opened.find("Names of voices")).select_by_visible_text("when it changes")
    wait(lambda: head(opened)["captions"]["names"] == "when it changes")
    # One that something is wrong with is gone to by key, and its words are selected.
    wrong = [cue for cue in cues() if cue["faults"]]
    opened.driver.execute_script("document.activeElement.blur()")
    opened.keys("d")
    wait(lambda: opened.driver.find_elements(By.CSS_SELECTOR, ".tok.picked"))
    opened.see(wrong[0]["faults"][0]["told"])
    opened.hold(Keys.CONTROL, "z")
    wait(lambda: head(opened)["captions"]["names"] == "never")
    assert opened.trouble() == []
