"""Captions on the page: where they break, what is wrong with them, and the rules they keep to."""

from __future__ import annotations

import io
import urllib.request
from itertools import pairwise
from zipfile import ZipFile

import av
import numpy as np
import pytest
from PIL import Image
from selenium.webdriver import ActionChains
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
    opened.click("Rules")
    field = opened.find("characters on a line")
    field.send_keys(Keys.CONTROL, "a")
    field.send_keys("24", Keys.ENTER)
    wait(lambda: head(opened)["captions"]["characters"] == 24)
    assert all(len(line) <= 24 for cue in cues() for line in cue["lines"])
    Select(opened.find("Names of voices")).select_by_visible_text("when it changes")
    wait(lambda: head(opened)["captions"]["names"] == "when it changes")
    # One that something is wrong with is gone to by key, and its words are selected.
    wrong = [cue for cue in cues() if cue["faults"]]
    opened.click("Text")
    opened.driver.execute_script("document.activeElement.blur()")
    opened.keys("d")
    wait(lambda: opened.driver.find_elements(By.CSS_SELECTOR, ".tok.picked"))
    opened.see(wrong[0]["faults"][0]["told"])
    opened.hold(Keys.CONTROL, "z")
    wait(lambda: head(opened)["captions"]["names"] == "never")
    assert opened.trouble() == []


def test_a_second_language_is_brought_below_the_first_and_taken_off(opened, demo, tmp_path):
    edition = demo.get(f"/api/episodes/{opened.episode}")["editions"][0]["id"]
    seconds = lambda: [line for cue in demo.get(f"/api/editions/{edition}/cues")["cues"] for line in cue["second"]]  # noqa: E731
    opened.click("Captions")
    wait(lambda: bars(opened, "cue") > 2)
    text = tmp_path / "german.txt"
    text.write_text("Der Rumpf liegt trocken. Wir dichten ihn ab, bevor die Flut kommt. Danach trinken wir Tee.", "utf-8")
    opened.type("Code of the second language", "de")
    opened.driver.find_element(By.CSS_SELECTOR, "[aria-label='Text in the second language']").send_keys(str(text))
    wait(lambda: head(opened)["second_language"] == "de")
    assert " ".join(seconds()) == text.read_text("utf-8")
    opened.click("Take off")
    wait(lambda: not seconds())
    assert opened.trouble() == []


class TestLooks:
    """From a shipped look to an upright film with captions burned in, and files of four forms."""

    def test_captions_are_broken_worded_drawn_burned_in_and_saved(self, opened, demo):
        edition = demo.get(f"/api/episodes/{opened.episode}")["editions"][0]["id"]
        self.person, self.demo, self.edition = opened, demo, edition
        self.keep_half_a_minute()
        opened.click("Programme")
        Select(opened.find("Picture of Programme")).select_by_visible_text("upright, 9:16")
        wait(lambda: head(opened)["shape"] == "upright")
        opened.keys(Keys.ESCAPE)
        opened.click("Captions")
        opened.click("Look")
        opened.click("Look Pencil")
        wait(lambda: head(opened)["looks"]["all"]["name"] == "Pencil")
        self.three_breaks_are_changed()
        self.one_caption_is_shortened()
        self.a_look_is_made_and_saved()
        self.the_monitor_shows_them()
        film, plain = self.exported("burned in"), self.exported("none")
        self.compare(film, plain)
        self.four_forms_have_the_right_names()
        assert not [line for line in opened.trouble() if "favicon" not in line]

    def cues(self) -> list[dict]:
        return self.demo.get(f"/api/editions/{self.edition}/cues")["cues"]

    def keep_half_a_minute(self) -> None:
        person = self.person
        person.click("Cut")
        person.word("shipwright").click()
        person.keys("]")
        wait(lambda: head(person)["running_time"] < 40 * 48_000)

    def word_at(self, laid: int):
        return self.person.driver.find_element(By.CSS_SELECTOR, f".tok[data-at='{laid}']")

    def three_breaks_are_changed(self) -> None:
        person = self.person
        person.click("Text")
        page = self.demo.get(f"/api/editions/{self.edition}/page")["passages"]
        words = [token["at"] for passage in page for token in passage["tokens"] if token["k"] == "w"]
        begins = [cue["begin"] for cue in self.cues()]
        inside = next(at for at in words if at not in begins and at > begins[2])
        # By keys: a caption begins with a word, then a line does.
        self.word_at(inside).click()
        person.keys(Keys.ESCAPE, Keys.ENTER)
        wait(lambda: inside in [cue["begin"] for cue in self.cues()])
        person.hold(Keys.SHIFT, Keys.ENTER)
        wait(lambda: inside in [at for cue in self.cues() for at in cue["breaks"]])
        # By mouse: the bar of a caption is dragged before the next word.
        begins = [cue["begin"] for cue in self.cues()]
        moved, to = next((at, words[words.index(at) + 1]) for at in begins[4:] if words[words.index(at) + 1] not in begins)
        bar = person.driver.find_element(By.CSS_SELECTOR, f".lane-between[data-look='cue'][data-at='{moved}']")
        person.driver.execute_script("arguments[0].scrollIntoView({block: 'center'})", bar)
        ActionChains(person.driver).click_and_hold(bar).move_to_element(self.word_at(to)).pause(0.2).release().perform()
        wait(lambda: to in [cue["begin"] for cue in self.cues()])

    def one_caption_is_shortened(self) -> None:
        person = self.person
        long = next(cue for cue in self.cues() if len(" ".join(cue["lines"]).split()) > 3)
        self.word_at(long["begin"]).click()
        field = person.find("What this caption reads")
        wait(lambda: person.find("What this caption reads").get_attribute("value") == " ".join(long["lines"]))
        field = person.find("What this caption reads")
        field.send_keys(Keys.CONTROL, "a")
        field.send_keys("In short." + Keys.ENTER)
        wait(lambda: any("In short." in " ".join(cue["lines"]) for cue in self.cues()))
        wait(lambda: bars(person, "worded"))

    def a_look_is_made_and_saved(self) -> None:
        person = self.person
        person.click("Look")
        size = person.find("size")
        size.send_keys(Keys.CONTROL, "a")
        size.send_keys("9", Keys.ENTER)
        wait(lambda: head(person)["looks"]["all"]["size"] == 9)
        Select(person.find("Movement")).select_by_visible_text("stand still")
        wait(lambda: head(person)["looks"]["all"]["move"] == "still")
        person.type("Name of the look", "Harbour wall")
        person.click("Save the look")
        person.find("Look Harbour wall")

    def the_monitor_shows_them(self) -> None:
        person = self.person
        person.click("Text")
        first = self.cues()[1]
        self.word_at(first["begin"]).click()
        shown = wait(
            lambda: next((e for e in person.driver.find_elements(By.CSS_SELECTOR, "[data-caption]") if e.is_displayed()), None)
        )
        wait(lambda: shown.get_attribute("src") and int(shown.get_attribute("naturalWidth")) > 20)

    def exported(self, captions: str) -> bytes:
        person = self.person
        person.single_files()
        before = len(person.driver.find_elements(By.CSS_SELECTOR, "a[download]"))
        Select(person.find("Captions of films")).select_by_visible_text(captions)
        person.click("MP4 video")
        links = wait(lambda: (found := person.driver.find_elements(By.CSS_SELECTOR, "a[download]"))[before:] and found, 120)
        with urllib.request.urlopen(links[0].get_attribute("href")) as file:
            return file.read()

    def compare(self, film: bytes, plain: bytes) -> None:
        """The film differs from the one without captions where the monitor draws them, and there it has what that draws."""
        screens = self.demo.get(f"/api/editions/{self.edition}/screens")
        moments = screens["moments"]
        shown = [(m, after["at"]) for m, after in pairwise(moments) if m["key"]][:4]
        assert len(shown) >= 3 and screens["height"] > screens["width"]
        for moment, until in shown:
            at = (moment["at"] + until) / 2 / 48_000
            burned, bare = frame_at(film, at), frame_at(plain, at)
            with urllib.request.urlopen(f"{self.demo.url}/api/editions/{self.edition}/screens/{moment['key']}") as file:
                drawn = Image.open(io.BytesIO(file.read()))
            monitor = Image.fromarray(bare).convert("RGBA")
            monitor.alpha_composite(drawn, (moment["x"], moment["y"]))
            box = slice(moment["y"], moment["y"] + moment["height"]), slice(moment["x"], moment["x"] + moment["width"])
            expected, found = np.asarray(monitor.convert("RGB"), float)[box], burned.astype(float)[box]
            assert np.abs(found - bare.astype(float)[box]).mean() > 4, "nothing was burned in"
            assert np.abs(found - expected).mean() < 6, "not what the monitor shows"

    def four_forms_have_the_right_names(self) -> None:
        person = self.person
        person.click("Caption files: rate, name, what is lost")
        pattern = person.find("Pattern of the names of caption files")
        pattern.send_keys(Keys.CONTROL, "a")
        pattern.send_keys("{show}.{episode}.{language}")
        person.type("Language and country in names", "en_GB" + Keys.ENTER)
        person.see("Caption files are called so now")
        for form in ("SubRip", "WebVTT", "EBU STL", "SCC"):
            person.click(form)
        names = lambda: {each["file_name"] for each in self.demo.get(f"/api/episodes/{person.episode}")["exports"]}  # noqa: E731
        wanted = {f"Ropewalk.The dry hull, mixed.en_GB.{ending}" for ending in ("srt", "vtt", "stl", "scc")}
        wait(lambda: wanted <= names(), 60)
        person.click("All of them")
        wait(lambda: any(name.endswith(".zip") for name in names()), 60)
        links = lambda: person.driver.find_elements(By.CSS_SELECTOR, "a[download]")  # noqa: E731
        link = wait(lambda: next((e for e in links() if ".zip" in e.get_attribute("aria-label")), None))
        with urllib.request.urlopen(link.get_attribute("href")) as file:
            assert wanted <= set(ZipFile(io.BytesIO(file.read())).namelist())


def frame_at(film: bytes, seconds: float) -> np.ndarray:
    """The picture of a film at a time."""
    with av.open(io.BytesIO(film)) as opened:
        shown = None
        for frame in opened.decode(video=0):
            if frame.time > seconds:
                break
            shown = frame
        return shown.to_ndarray(format="rgb24")
