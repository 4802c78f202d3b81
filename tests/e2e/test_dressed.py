"""An episode dressed for the screen: names, logo, a cutaway, joins, covers and framings; the film is what the monitor shows."""

from __future__ import annotations

import io
import random
import urllib.request

import av
import numpy as np
import pytest
from PIL import Image, ImageDraw
from selenium.webdriver import ActionChains
from selenium.webdriver.common.by import By
from selenium.webdriver.common.keys import Keys
from selenium.webdriver.support.ui import Select
from skimage.metrics import structural_similarity

from .helpers import wait

pytestmark = pytest.mark.e2e

RATE = 48_000
PLACES = 40
ALIKE, SMALL = 0.95, 0.93
"""The structural similarity (Wang and others, 2004) of the monitor and the film, in the middle of all places and at least.

Where pictures are shown at a third of their size, the browser scales them more coarsely than films do.
"""


class TestDressed:
    def test_an_episode_is_dressed_and_its_film_is_what_the_monitor_shows(self, person, demo, tmp_path):
        self.person, self.demo = person, demo
        episode = demo.episode("The dry hull")
        self.edition = demo.get(f"/api/episodes/{episode}")["editions"][0]["id"]
        person.open(f"{demo.url}/episodes/{episode}")
        person.word("kettle")
        person.click("Cut")
        person.word("shipwright").click()
        person.keys("]")
        wait(lambda: self.head()["running_time"] < 40 * RATE)
        person.click("Picture")
        person.click("Follow who speaks")
        wait(lambda: len(self.shots()) >= 3)
        self.two_shots_are_overruled_and_one_dissolves()
        self.everybody_is_named_and_the_role_follows()
        self.a_logo_is_put_in(tmp_path)
        self.a_cutaway_is_found_by_what_is_said()
        self.something_is_covered()
        self.a_framing_is_made_and_used()
        self.a_card_opens_it()
        self.the_film_is_what_the_monitor_shows()
        assert [line for line in person.trouble() if "favicon" not in line] == []

    def head(self) -> dict:
        return self.demo.get(f"/api/editions/{self.edition}")

    def plan(self) -> dict:
        return self.demo.get(f"/api/editions/{self.edition}/plan")

    def shots(self) -> list[dict]:
        return self.demo.get(f"/api/editions/{self.edition}/shots")["shots"]

    def two_shots_are_overruled_and_one_dissolves(self) -> None:
        self.person.word("kettle").click()
        self.person.click("Side by side")
        wait(lambda: sum(shot["by_hand"] for shot in self.shots()) == 1)
        self.person.word("think").click()
        self.person.click("One large, the other small")
        wait(lambda: sum(shot["by_hand"] for shot in self.shots()) == 2)
        self.person.click("Joins")
        self.select("How the pictures meet", "dissolve")
        wait(lambda: self.head()["joins"])
        assert self.head()["joins"][0]["seen"]

    def everybody_is_named_and_the_role_follows(self) -> None:
        person = self.person
        person.driver.find_element(By.CSS_SELECTOR, "[aria-label='Voice Orla Venn']").click()
        person.type("Role, for lower thirds", "Host")
        person.click("Name it")
        person.click("Over it")
        person.click("Name everybody")
        wait(lambda: [each["text"] for each in self.head()["graphics"]][:1] == ["Orla Venn, Host"])
        person.type("Words of a title", "The dry hull")
        person.word("kettle").click()
        person.click("Write it")
        wait(lambda: any(each["kind"] == "title" for each in self.head()["graphics"]))
        title = next(each for each in self.plan()["overlays"] if each["mark"] and each["mark"].startswith("title"))
        person.word("from").click()  # where it has come wholly
        drawn = wait(lambda: person.driver.find_element(By.CSS_SELECTOR, f"figure img[data-mark='{title['mark']}']"))
        ActionChains(person.driver).move_to_element(drawn).double_click().perform()
        field = person.find("Words of the title, here")
        field.send_keys(Keys.CONTROL, "a")
        field.send_keys("On the slip", Keys.ENTER)
        wait(lambda: any(each["text"] == "On the slip" for each in self.head()["graphics"]))

    def a_logo_is_put_in(self, folder) -> None:
        picture = Image.new("RGBA", (200, 200))
        ImageDraw.Draw(picture).ellipse((10, 10, 190, 190), fill="#23559e")
        picture.save(folder / "logo.png")
        self.person.click("House style …")
        chooser = wait(lambda: self.person.driver.find_element(By.CSS_SELECTOR, "input[aria-label='File of the logo']"))
        chooser.send_keys(str(folder / "logo.png"))
        wait(lambda: self.head()["dressing"]["logo"])

    def a_cutaway_is_found_by_what_is_said(self) -> None:
        person = self.person
        begins = self.laid(person.word("kettle"))
        last = [laid for laid in self.words() if laid >= begins][4]
        person.word("kettle").click()
        ActionChains(person.driver).key_down(Keys.SHIFT).click(self.at(last)).key_up(Keys.SHIFT).perform()
        person.click("Pictures")
        person.click("Fitting")
        person.click("Lay “A kettle", whole=False)
        wait(lambda: self.head()["cutaways"], 60)
        person.keys(Keys.ESCAPE)

    def something_is_covered(self) -> None:
        person = self.person
        person.word("think").click()
        person.click("Camera")
        self.select("How it is covered", "covered")
        person.click("Draw round it")
        monitor = wait(lambda: person.driver.find_element(By.CSS_SELECTOR, "[data-looking]"))
        hand = ActionChains(person.driver).move_to_element_with_offset(monitor, -100, 20)
        hand.click_and_hold().move_by_offset(40, 30).release().perform()
        wait(lambda: self.head()["covers"], 60)

    def a_framing_is_made_and_used(self) -> None:
        person = self.person
        person.click("Shots")
        person.click("Framings of the show …")
        person.click("New framing")
        person.type("Name of the framing", "Porch")
        place = wait(lambda: person.driver.find_element(By.CSS_SELECTOR, "[aria-label='Place 1']"))
        ActionChains(person.driver).move_to_element(place).click_and_hold().move_by_offset(4, -8).release().perform()
        person.click("Keep it")
        last = self.shots()[-1]
        self.click_laid(last["begin"])
        person.click("Porch")
        wait(lambda: self.shots()[-1]["framing"] == "Porch")

    def a_card_opens_it(self) -> None:
        self.person.click("Cut")
        field = self.person.find("Seconds of the opening card")
        field.send_keys(Keys.CONTROL, "a")
        field.send_keys("2", Keys.ENTER)
        wait(lambda: self.head()["opening"] == 2 * RATE)

    def the_film_is_what_the_monitor_shows(self) -> None:
        person = self.person
        person.single_files()
        person.click("MP4 video")
        links = wait(lambda: person.driver.find_elements(By.CSS_SELECTOR, "a[download]"), 180)
        with urllib.request.urlopen(links[0].get_attribute("href")) as file, av.open(io.BytesIO(file.read())) as film:
            frames = [frame.reformat(384, 216).to_ndarray(format="rgb24") for frame in film.decode(video=0)]
        plan, chance = self.plan(), random.Random(7)
        kept = [laid for laid in self.words() if to_programme(plan, laid) is not None]
        places = sorted({*chance.sample(kept, min(PLACES, len(kept)))})
        alike = {}
        for laid in places:
            at = to_programme(plan, laid)
            self.click_laid(laid)
            around = range(max(0, at * 25 // RATE - 1), min(len(frames), at * 25 // RATE + 2))
            enough = ALIKE if len(seen_at(plan, at)) == 1 else SMALL
            for _ in range(8):  # on a busy machine a video comes to its place late
                shown = self.monitor()
                alike[at] = max(alike.get(at, 0.0), *(similarity(shown, frames[number]) for number in around))
                if alike[at] >= enough:
                    break
        poor = {round(at / RATE, 2): round(value, 3) for at, value in alike.items() if value < SMALL}
        assert len(alike) >= PLACES * 3 // 4
        assert not poor, poor
        large = [value for at, value in alike.items() if len(seen_at(plan, at)) == 1]
        assert len(large) > 5
        assert min(large) >= ALIKE

    def monitor(self) -> np.ndarray:
        """What the monitor shows once it stands."""
        driver = self.person.driver
        ready = """
            const seen = [...document.querySelectorAll('figure video')].filter((v) => v.parentElement.style.opacity === '1');
            const drawn = [...document.querySelectorAll('figure img')].filter((i) => i.style.opacity !== '0');
            return seen.every((v) => v.readyState >= 2 && !v.seeking) && drawn.every((i) => i.complete);"""
        last = b""

        def stands() -> bytes | None:
            nonlocal last
            before, last = last, driver.find_element(By.CSS_SELECTOR, "figure[aria-label=Monitor]").screenshot_as_png
            return last if last == before and driver.execute_script(ready) else None

        return np.asarray(Image.open(io.BytesIO(wait(stands))).convert("RGB"))

    def words(self) -> list[int]:
        """The laid times of all words on the page."""
        read = "return [...document.querySelectorAll('.page .tok')].map((each) => Number(each.dataset.at))"
        return self.person.driver.execute_script(read)

    def at(self, laid: int):
        return self.person.driver.find_element(By.CSS_SELECTOR, f".page .tok[data-at='{laid}']")

    @staticmethod
    def laid(word) -> int:
        return int(word.get_attribute("data-at"))

    def click_laid(self, laid: int) -> None:
        word = self.at(laid)
        self.person.driver.execute_script("arguments[0].scrollIntoView({block: 'center'})", word)
        word.click()

    def select(self, label: str, value: str) -> None:
        chooser = self.person.find(label)
        self.person.driver.execute_script("arguments[0].scrollIntoView({block: 'center'})", chooser)
        Select(chooser).select_by_visible_text(value)


def to_programme(plan: dict, laid: int) -> int | None:
    """Where a laid time sounds in the programme, well within a span of it; None where it does not."""
    for span in plan["spans"]:
        at = span["at"] + laid - span["laid"]
        if span["at"] <= at < span["until"] - RATE // 10:
            return at
    return None


def seen_at(plan: dict, at: int) -> list[dict]:
    """The views that are seen at a place of the programme."""
    return next((layer["views"] for layer in plan["layers"] if layer["begin"] <= at < layer["until"]), [])


def similarity(shown: np.ndarray, frame: np.ndarray) -> float:
    """How alike a picture of the monitor and one of the film are; the corners of the monitor are round."""
    height, width = shown.shape[:2]
    small = np.asarray(Image.fromarray(frame).resize((width, height), Image.Resampling.BOX))
    inner = slice(6, -6)
    return structural_similarity(shown[inner, inner], small[inner, inner], channel_axis=2)
