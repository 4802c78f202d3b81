"""Several recordings as a person gathers them: together, synced, joined into a conversation."""

from __future__ import annotations

import urllib.request
from io import BytesIO
from pathlib import Path

import numpy as np
import pytest
import soundfile
from conftest import RATE, excerpt, truth
from selenium.webdriver import ActionChains, Keys
from selenium.webdriver.common.by import By
from selenium.webdriver.support.ui import Select

from .helpers import wait
from .test_person import choose_file

pytestmark = pytest.mark.e2e

FILES = ("interview-orla.ogg", "interview-teo.ogg", "interview-camera-orla.mp4", "interview-camera-teo.mp4")


def new_episode(person, empty) -> str:
    show = empty.post("/api/shows", {"name": "Ropewalk"})
    episode = empty.post(f"/api/shows/{show['id']}/episodes", {"title": "The dry hull"})
    person.open(f"{empty.url}/episodes/{episode['id']}")
    return episode["id"]


BEGINNING = 150
"""So many seconds of the interview are taken: every kind of fault is in them, and transcribing it all takes minutes."""

HEARD = 420
"""Seconds that hearing it may take."""


def test_four_files_become_one_conversation_and_a_first_rough_cut(person, empty, tmp_path):
    episode = new_episode(person, empty)
    person.see("Drop files here")
    files = person.driver.find_element(By.CSS_SELECTOR, "input[type=file]")
    files.send_keys("\n".join(str(excerpt(tmp_path / name, name, BEGINNING)) for name in FILES))
    person.see("These were recorded at the same time", HEARD)
    assert "100 % sure" in person.find("interview-teo.ogg").text
    for name, voice in (("orla", "Orla Venn"), ("teo", "Teo Marsh")):
        person.type(f"Voice of interview-{name}.ogg", voice + Keys.ENTER)
        wait(lambda voice=voice: voice in [known["shown"] for known in empty.get(f"/api/episodes/{episode}")["voices"]])
    person.click("Hear together")
    person.click("Join them")

    def both_speak() -> bool:
        names = {element.text for element in person.driver.find_elements(By.CSS_SELECTOR, "[aria-label^='Voice ']")}
        return {"Orla Venn", "Teo Marsh"} <= names

    wait(both_speak, HEARD)
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
    wait(lambda: not empty.get(f"/api/episodes/{episode}")["jobs"], HEARD)
    person.click("Cut")
    cut = RoughCut(person, empty, episode)
    cut.everything_before("Welcome")
    cut.false_starts()
    cut.cough_under_a_sentence()
    cut.remark_to_the_editor()
    cut.everything_after(BEGINNING - 10)
    wait(lambda: person.running_time() < "2:10")
    cut.check_joins(cut.exported())
    assert not person.trouble()


class RoughCut:
    """What the guide's first chapter on cutting does, by mouse and keys. ``truth`` only tells where the demo's faults are."""

    def __init__(self, person, running, episode: str) -> None:
        self.person, self.running = person, running
        self.edition = running.get(f"/api/episodes/{episode}")["editions"][0]["id"]
        page = running.get(f"/api/editions/{self.edition}/page")
        self.tokens = [token for passage in page["passages"] for token in passage["tokens"]]
        known = truth("interview")
        self.faults = known["faults"]
        # The clock of the session is not that of the truth.
        welcome = next(token["at"] for token in self.tokens if token["text"] == "Welcome")
        self.shift = welcome / RATE - next(word["start"] for word in known["words"] if word["text"] == "Welcome")

    def places(self, kind: str) -> list[tuple[float, float]]:
        return [(f["start"] + self.shift, f["end"] + self.shift) for f in self.faults if f["kind"] == kind]

    def head(self) -> dict:
        return self.running.get(f"/api/editions/{self.edition}")

    def word_at(self, seconds: float):
        """The word that is said at a time, brought into view."""
        word = next(t for t in self.tokens if t["k"] == "w" and t["at"] + t["len"] > seconds * RATE)
        path = f".tok[data-at='{word['at']}']"
        driver = self.person.driver
        driver.execute_script("document.querySelector('.page').scrollTop = 0")

        def in_view():
            if not (found := driver.find_elements(By.CSS_SELECTOR, path)):
                driver.execute_script("document.querySelector('.page').scrollTop += 400")
                return None
            driver.execute_script("arguments[0].scrollIntoView({block: 'center'})", found[0])
            return driver.find_element(By.CSS_SELECTOR, path)

        return wait(in_view)

    def click_at(self, seconds: float, *, held: str = "") -> None:
        """Click the word that is said at a time, perhaps with a key held down; drawn anew meanwhile, it is looked for again."""

        def clicked() -> bool:
            word, chain = self.word_at(seconds), ActionChains(self.person.driver)
            if held:
                chain.key_down(held)
            chain.click(word)
            if held:
                chain.key_up(held)
            chain.perform()
            return True

        wait(clicked)

    def strike(self, start: float, end: float) -> None:
        count = len(self.head()["struck"])
        self.click_at(start + 0.05)
        self.click_at(end - 0.15, held=Keys.SHIFT)
        self.person.keys(Keys.DELETE)
        wait(lambda: len(self.head()["struck"]) == count + 1)

    def everything_before(self, word: str) -> None:
        self.person.word(word).click()
        self.person.keys("[")
        wait(lambda: self.head()["struck"])

    def false_starts(self) -> None:
        starts = self.places("retake")
        self.strike(starts[0][0], starts[-1][1])

    def remark_to_the_editor(self) -> None:
        self.strike(*self.places("note to the editor")[0])

    def everything_after(self, second: float) -> None:
        count = len(self.head()["struck"])
        self.click_at(second)
        self.person.keys("]")
        wait(lambda: len(self.head()["struck"]) == count + 1)

    def cough_under_a_sentence(self) -> None:
        """It lies on one stave while the other voice speaks: there it is muted, and the words stay."""
        ((start, end),) = self.places("cough")
        driver = self.person.driver
        self.click_at(start)
        self.person.click("Fine")
        self.person.click("6 s")
        marked = "//*[contains(@class,'fine')]//*[./span[@data-now]]/canvas"

        def selected_on_her_stave():
            """The sound of the cough is dragged over; the line may still be coming to rest when that begins."""
            line = driver.find_element(By.XPATH, marked)
            width, left = line.rect["width"], round((start % 6 - 3) / 6 * line.rect["width"])
            chain = ActionChains(driver).move_to_element_with_offset(line, left - 8, -25).click_and_hold()
            chain.move_by_offset(round((end - start) / 6 * width) + 16, 0).pause(0.2).release().perform()
            return next(iter(driver.find_elements(By.CSS_SELECTOR, "[aria-label^='Mute Orla']")), None)

        wait(lambda: driver.find_elements(By.XPATH, marked))
        wait(selected_on_her_stave).click()
        wait(lambda: self.head()["levels"])
        self.person.click("Score")

    def exported(self):
        self.person.single_files()
        self.person.click("WAV")
        link = wait(lambda: next(iter(self.person.driver.find_elements(By.CSS_SELECTOR, "a[download]")), None), 60)
        with urllib.request.urlopen(link.get_attribute("href")) as file:
            return soundfile.read(BytesIO(file.read()))[0].mean(axis=1)

    def check_joins(self, sound) -> None:
        plan = self.running.get(f"/api/editions/{self.edition}/plan?mode=edited")
        assert len(sound) == plan["length"]
        joins = [span["handover"] for span in plan["spans"][1:]]
        assert len(joins) == 2  # the chatter is at the ends, and muting is no cut
        step = np.quantile(np.abs(np.diff(sound)), 0.999)
        for place in joins:
            assert np.abs(np.diff(sound[place - 480 : place + 480])).max() < step, "a click"
            before, after = (np.sqrt((sound[a : a + 960] ** 2).mean()) for a in (place - 960, place))
            assert abs(20 * np.log10(before / after)) < 6, "a step in level"


def test_what_uses_a_recording_is_shown_before_it_goes(person, demo):
    episode = next(each for each in demo.get("/api/shows")["shows"][0]["episodes"] if each["title"] == "The dry hull, mixed")
    person.open(f"{demo.url}/episodes/{episode['id']}")
    person.click("Gather")
    person.click("Remove Interview, mixed.mp4")
    person.see("Removing it takes its words off there")
    person.click("Remove anyway")
    person.not_see("Welcome")
    person.hold(Keys.CONTROL, "z")
    person.see("shipwright")


def test_a_recording_in_italian_is_heard_as_such_and_again_in_another_language(person, empty):
    show = empty.post("/api/shows", {"name": "Dal porto"})
    episode = empty.post(f"/api/shows/{show['id']}/episodes", {"title": "Le barche"})["id"]
    person.open(f"{empty.url}/episodes/{episode}")
    person.find("Gather")
    choose_file(person, Path(__file__).parents[1] / "fixtures" / "languages" / "it.ogg")
    person.word("Buongiorno", HEARD)
    language = lambda: person.driver.find_element(By.XPATH, "//label[contains(., 'Language')]/select")  # noqa: E731
    chosen = lambda: Select(language()).first_selected_option.text  # noqa: E731
    wait(lambda: chosen() == "Italian" and language().is_enabled(), HEARD)
    person.word("Buongiorno").click()
    person.keys(Keys.ENTER)
    field = person.find("New text")
    field.send_keys(Keys.CONTROL, "a")
    field.send_keys("Buongiorno," + Keys.ENTER)
    person.word("Buongiorno,")
    wait(lambda: Select(language()).select_by_visible_text("Spanish") is None)
    person.click("Transcribe again")
    wait(lambda: not language().is_enabled())
    wait(lambda: language().is_enabled(), HEARD)
    person.word("Buongiorno,")
    assert chosen() == "Spanish" and not person.trouble()
