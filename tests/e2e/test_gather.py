"""Several recordings as a person gathers them: together, synced, joined into a conversation."""

from __future__ import annotations

import pytest
from selenium.webdriver import Keys
from selenium.webdriver.common.by import By

from jaskel.demo.prepare import MEDIA

from .helpers import wait

pytestmark = pytest.mark.e2e

FILES = ("interview-orla.ogg", "interview-teo.ogg", "interview-camera-orla.mp4", "interview-camera-teo.mp4")


def new_episode(person, empty) -> str:
    show = empty.post("/api/shows", {"name": "Ropewalk"})
    episode = empty.post(f"/api/shows/{show['id']}/episodes", {"title": "The dry hull"})
    person.open(f"{empty.url}/episodes/{episode['id']}")
    return episode["id"]


def test_four_files_become_one_conversation(person, empty):
    episode = new_episode(person, empty)
    person.see("Drop files here")
    files = person.driver.find_element(By.CSS_SELECTOR, "input[type=file]")
    files.send_keys("\n".join(str(MEDIA / name) for name in FILES))
    person.see("These were recorded at the same time", 240)
    assert "100 % sure" in person.find("interview-teo.ogg").text
    for name, voice in (("orla", "Orla Venn"), ("teo", "Teo Marsh")):
        person.type(f"Voice of interview-{name}.ogg", voice + Keys.ENTER)
        wait(lambda voice=voice: voice in [known["shown"] for known in empty.get(f"/api/episodes/{episode}")["voices"]])
    person.click("Hear together")
    person.click("Join them")

    def both_speak() -> bool:
        names = {element.text for element in person.driver.find_elements(By.CSS_SELECTOR, "[aria-label^='Voice ']")}
        return {"Orla Venn", "Teo Marsh"} <= names

    wait(both_speak, 240)
    staves = person.driver.find_element(By.CSS_SELECTOR, ".score").get_attribute("style")
    assert "--staves: 2" in staves
    # One name, changed once, is changed wherever the voice speaks.
    person.click("Voice Teo Marsh")
    field = person.driver.find_element(By.CSS_SELECTOR, "[role=dialog] input")
    field.send_keys(Keys.CONTROL, "a")
    field.send_keys("Teo")
    person.click("Name it")
    wait(lambda: not person.driver.find_elements(By.CSS_SELECTOR, "[aria-label='Voice Teo Marsh']"))
    person.find("Voice Teo")
    assert not person.trouble()


def test_what_uses_a_recording_is_shown_before_it_goes(person, demo):
    episode = demo.get("/api/shows")["shows"][0]["episodes"][0]
    person.open(f"{demo.url}/episodes/{episode['id']}")
    person.click("Gather")
    person.click("Remove Interview, mixed.mp4")
    person.see("Removing it takes its words off there")
    person.click("Remove it all the same")
    person.not_see("Welcome")
    person.hold(Keys.CONTROL, "z")
    person.see("boatyard")
