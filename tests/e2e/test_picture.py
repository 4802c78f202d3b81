"""The picture: shots that follow who speaks, what is chosen instead, an upright film with the faces in."""

from __future__ import annotations

import io
import re
import urllib.request
from itertools import pairwise

import av
import numpy as np
import pytest
from selenium.webdriver import ActionChains
from selenium.webdriver.common.by import By
from selenium.webdriver.common.keys import Keys
from selenium.webdriver.support.ui import Select

from jaskel.media.faces import faces_in, small_of

from .helpers import wait

pytestmark = pytest.mark.e2e


class TestShots:
    def test_a_talk_cuts_itself_to_who_speaks_and_is_overruled(self, person, demo):
        opened, self.person, self.demo = person, person, demo
        episode = demo.episode("The dry hull")
        self.edition = demo.get(f"/api/episodes/{episode}")["editions"][0]["id"]
        person.open(f"{demo.url}/episodes/{episode}")
        person.word("kettle")
        opened.click("Cut")
        opened.word("shipwright").click()
        opened.keys("]")
        wait(lambda: self.head()["running_time"] < 40 * 48_000)
        opened.click("Picture")
        opened.click("Follow who speaks")
        wait(lambda: len(self.shots()) >= 3)
        wait(lambda: len(self.bars()) >= len(self.shots()))
        self.a_shot_lasts_longer()
        self.one_is_chosen_by_mouse()
        self.one_is_moved_by_key()
        self.by_key_one_shows_both_and_is_let_go_and_comes_closer()
        self.two_cameras_are_on_the_monitor()
        film = self.exported_upright()
        self.faces_are_in(film)
        assert [line for line in opened.trouble() if "favicon" not in line] == []

    def head(self) -> dict:
        return self.demo.get(f"/api/editions/{self.edition}")

    def shots(self) -> list[dict]:
        return self.demo.get(f"/api/editions/{self.edition}/shots")["shots"]

    def bars(self):
        return self.person.driver.find_elements(By.CSS_SELECTOR, ".lane-bar[data-look='shot']")

    def a_shot_lasts_longer(self) -> None:
        before = len(self.shots())
        thumb = self.person.driver.find_element(By.CSS_SELECTOR, "[aria-label='A shot lasts at least']")
        thumb.send_keys(Keys.ARROW_RIGHT * 8)
        wait(lambda: self.head()["shots"]["shortest"] > 3 * 48_000)
        assert 1 <= len(self.shots()) <= before
        thumb.send_keys(Keys.ARROW_LEFT * 8)
        wait(lambda: self.head()["shots"]["shortest"] == 2 * 48_000)

    def one_is_chosen_by_mouse(self) -> None:
        self.person.word("kettle").click()
        self.person.click("Side by side")
        wait(lambda: [shot for shot in self.shots() if shot["by_hand"] and shot["framing"] == "side by side"])
        wait(lambda: any("by hand" in bar.text for bar in self.bars()))

    def one_is_moved_by_key(self) -> None:
        chosen = next(shot for shot in self.shots() if shot["by_hand"])
        ends = self.person.driver.find_elements(
            By.CSS_SELECTOR, "[aria-label^='Beginning: Seen: '][aria-label*='side by side']"
        )
        ActionChains(self.person.driver).move_to_element(ends[0]).perform()
        ends[0].send_keys(Keys.ARROW_RIGHT)
        wait(lambda: next(s for s in self.shots() if len(s["voices"]) > 1)["begin"] > chosen["begin"])

    def by_key_one_shows_both_and_is_let_go_and_comes_closer(self) -> None:
        person = self.person
        chosen = lambda: sum(shot["by_hand"] for shot in self.shots())  # noqa: E731
        before = chosen()
        person.word("think").click()
        person.keys(Keys.ESCAPE, "e")
        wait(lambda: chosen() == before + 1)
        person.see("Chosen by hand")
        person.keys("e")
        wait(lambda: chosen() == before)
        person.keys("z")
        wait(lambda: self.demo.get(f"/api/editions/{self.edition}/shots")["closer"])
        person.see("enlarged beyond its own pixels")
        person.keys("z")
        wait(lambda: not self.demo.get(f"/api/editions/{self.edition}/shots")["closer"])

    def two_cameras_are_on_the_monitor(self) -> None:
        self.person.word("kettle").click()
        seen = (
            "return [...document.querySelectorAll('figure video')].filter((v) => v.parentElement.style.opacity === '1').length"
        )
        wait(lambda: self.person.driver.execute_script(seen) == 2)
        shown = "[...document.querySelectorAll('figure video')].filter((v) => v.parentElement.style.opacity === '1')"
        ready = f"return {shown}.every((video) => video.readyState >= 2)"
        wait(lambda: self.person.driver.execute_script(f"return {shown}.length") == 2)
        wait(lambda: self.person.driver.execute_script(ready))

    def exported_upright(self) -> bytes:
        person = self.person
        Select(person.find("Shape of the picture")).select_by_visible_text("upright, 9:16")
        wait(lambda: self.head()["shape"] == "upright")
        person.single_files()
        person.click("MP4 video")
        links = wait(lambda: person.driver.find_elements(By.CSS_SELECTOR, "a[download]"), 120)
        with urllib.request.urlopen(links[0].get_attribute("href")) as file:
            return file.read()

    def faces_are_in(self, film: bytes) -> None:
        """In frames of each shot there are as many faces as are shown, wholly within the picture."""
        with av.open(io.BytesIO(film)) as opened:
            frames = [*opened.decode(video=0)]
        assert frames[0].height > frames[0].width
        for shot in self.shots():
            middle = frames[min(len(frames) - 1, (shot["at"] + shot["until"]) // 2 * 25 // 48_000)]
            found = [each.box for each in faces_in(small_of(middle))]
            assert len(found) == len(shot["voices"]), shot
            for box in found:
                # A box is a little larger than the face in it.
                assert box.x + box.width / 10 > 0 and box.x + 0.9 * box.width < 1 and box.y > -0.02, shot
        assert np.ptp(frames[0].to_ndarray(format="gray")) > 60


def test_a_piece_to_camera_loses_its_retakes_and_nobody_sees_where(person, demo):
    """Retakes are struck; where pictures meet they are bridged, else closer from there on; the film does not jump there."""
    episode = demo.episode("Mending a torn sail")
    edition = demo.get(f"/api/episodes/{episode}")["editions"][0]["id"]
    head = lambda: demo.get(f"/api/editions/{edition}")  # noqa: E731
    person.open(f"{demo.url}/episodes/{episode}")
    person.click("Read")
    person.click("Transcribe")
    person.see("Transcribed", 300)
    person.click("Tidy")
    person.click("Accept all: Retakes")
    splices = wait(lambda: head()["splices"])
    person.click("Picture")
    person.click("Joins")
    person.click("Bridge all that can be")
    person.see("can be bridged unseen")
    unseen = int(re.search(r"(\d+) of \d+ can be bridged unseen", person.page)[1])
    wait(lambda: len(head()["joins"]) == unseen)  # it is told before they are stored
    joins = head()["joins"]
    shown = person.driver.find_elements(By.CSS_SELECTOR, "[aria-label='Splices that show'] button")
    assert len(joins) + len(shown) <= len(splices)
    assert joins or shown
    if shown:  # what is seen there is bridged as well as it can be, or made to look meant
        poor = "poor" in shown[0].text
        shown[0].click()
        person.click("Come closer instead" if poor else "Find the best")
        wait(lambda: demo.get(f"/api/editions/{edition}/shots")["closer"] if poor else len(head()["joins"]) > len(joins), 120)
        joins = head()["joins"]
    person.single_files()
    person.click("MP4 video")
    links = wait(lambda: person.driver.find_elements(By.CSS_SELECTOR, "a[download]"), 240)
    with urllib.request.urlopen(links[0].get_attribute("href")) as file, av.open(io.BytesIO(file.read())) as film:
        frames = [frame.reformat(160, 90, "gray").to_ndarray().astype(float) for frame in film.decode(video=0)]
    steps = np.array([np.abs(b - a).mean() for a, b in pairwise(frames)])
    plan = demo.get(f"/api/editions/{edition}/plan")
    bridged = [each for each in plan["layers"] if each["stretch"]]
    assert len(bridged) == len([each for each in joins if each["seen"]])
    for layer in bridged:
        begin, until = (layer[side] * 25 // 48_000 for side in ("begin", "until"))
        # Over a bridge no picture differs from the one before it by more than those of somebody who speaks do.
        assert steps[begin - 1 : until + 1].max() <= max(2.5, 1.5 * np.percentile(steps, 99))
