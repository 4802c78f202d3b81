"""Tidying as a person does: looking, hearing, accepting some, refusing some, changing what counts, and taking it back."""

from __future__ import annotations

import urllib.request
from io import BytesIO
from pathlib import Path

import numpy as np
import pytest
import soundfile
from conftest import RATE
from scipy.signal import butter, sosfilt
from selenium.webdriver import ActionChains, Keys
from selenium.webdriver.common.by import By
from selenium.webdriver.support.ui import Select

from jaskel.core.tidy.cut import REACH

from .helpers import wait

pytestmark = pytest.mark.e2e


class Bench:
    """The Tidy bench, by what stands on it."""

    def __init__(self, person, running, word: str = "kettle") -> None:
        self.person, self.running, self.driver = person, running, person.driver
        titles = [each["title"] for each in running.get("/api/shows")["shows"][0]["episodes"]]
        episode = running.episode("The dry hull, mixed" if len(titles) > 1 else titles[0])
        self.edition = running.get(f"/api/episodes/{episode}")["editions"][0]["id"]
        person.open(f"{running.url}/episodes/{episode}")
        person.word(word)
        person.click("Tidy")
        person.find("Kinds of findings")

    def findings(self, kind: str, state: str | None = None) -> list[dict]:
        found = self.running.get(f"/api/editions/{self.edition}/findings")["findings"]
        return [f for f in found if f["kind"] == kind and state in (None, f["state"])]

    def head(self) -> dict:
        return self.running.get(f"/api/editions/{self.edition}")

    def sound(self) -> np.ndarray:
        """What is heard of the edition, in stereo."""
        ahead = f"/api/editions/{self.edition}/blocks?mode=edited&at="
        blocks, at = [], 0
        while more := [b for b in self.running.get(f"{ahead}{at}")["blocks"] if b["at"] >= at]:
            blocks += more
            at = more[-1]["until"]
        parts = []
        for block in blocks:
            with urllib.request.urlopen(f"{self.running.url}/api/editions/{self.edition}/sound/{block['key']}") as file:
                parts.append(soundfile.read(BytesIO(file.read()))[0])
        return np.concatenate(parts)

    def kind(self, name: str):
        return wait(lambda: self.driver.find_element(By.CSS_SELECTOR, f"button[data-kind='{name}']"))

    def count(self, name: str) -> int:
        return int(self.kind(name).get_attribute("data-open"))

    def rows(self) -> list:
        return self.driver.find_elements(By.CSS_SELECTOR, "ul[aria-label='Findings'] > li")

    def current(self):
        return wait(
            lambda: next(
                iter(self.driver.find_elements(By.CSS_SELECTOR, "ul[aria-label='Findings'] > li[aria-current=true]")), None
            )
        )


@pytest.fixture
def bench(person, demo):
    return Bench(person, demo)


def test_fillers_are_heard_accepted_and_refused_by_key_and_stay_so(bench):
    person = bench.person
    count = bench.count("Fillers")
    assert count >= 10
    bench.kind("Fillers").click()
    person.keys("f")
    first = bench.findings("filler")[0]
    wait(lambda: first["text"] in bench.current().text)
    person.keys("t")  # without it, changing nothing
    person.find("Pause")
    person.keys("k")
    assert bench.head()["struck"] == []
    person.keys("a")
    wait(lambda: bench.count("Fillers") == count - 1)
    person.see("Took out 1 filler")
    person.keys("x")
    wait(lambda: bench.count("Fillers") == count - 2)
    wait(lambda: len(bench.findings("filler", "refused")) == 1)
    person.click("Accept all: Fillers")
    wait(lambda: bench.count("Fillers") == 0)
    person.see(f"Took out {count - 2} fillers")
    # What was refused stays refused when found again, in a new window, too.
    person.driver.refresh()
    person.click("Tidy")
    wait(lambda: bench.count("Fillers") == 0)
    bench.kind("Fillers").click()
    person.driver.find_element(By.XPATH, "//label[contains(., 'Show judged')]").click()
    wait(lambda: len(bench.rows()) == count)
    person.hold(Keys.CONTROL, "z")
    wait(lambda: bench.count("Fillers") == count - 2)
    assert len(bench.findings("filler", "refused")) == 1


def test_only_those_that_say_um_and_one_put_back_from_the_page(bench):
    person = bench.person
    bench.kind("Fillers").click()
    person.type("Filter findings", "um")
    said = sum("um" in f["text"].lower() for f in bench.findings("filler"))
    wait(lambda: len(bench.rows()) == said)
    person.click(f"Accept these {said}")
    wait(lambda: len(bench.findings("filler", "accepted")) == said)
    person.driver.find_element(By.XPATH, "//label[contains(., 'Show judged')]").click()
    wait(lambda: len(bench.rows()) == said)
    bench.rows()[2].find_element(By.TAG_NAME, "button").click()
    word = bench.findings("filler", "accepted")[2]
    person.driver.find_element(By.CSS_SELECTOR, f".tok[data-at='{word['begin']}'].struck").click()
    person.keys("b")
    wait(lambda: len(bench.findings("filler", "accepted")) == said - 1)
    wait(lambda: sum("accepted" not in row.text for row in bench.rows()) == 1)


def test_rests_by_the_rhythm_and_by_dragging_what_counts_as_long(bench):
    person = bench.person
    bench.kind("Long rests").click()
    told = person.find("Rhythm")
    steady = bench.count("Long rests")
    wait(lambda: f": {steady} rests" in told.text)
    person.find("Rhythm from calm to brisk").send_keys(Keys.ARROW_RIGHT, Keys.ARROW_RIGHT)
    wait(lambda: bench.count("Long rests") > steady)
    brisk = bench.count("Long rests")
    handle = person.find("Rests are long from")
    ActionChains(person.driver).drag_and_drop_by_offset(handle, 70, 0).perform()
    wait(lambda: "Set by hand" in told.text)
    wait(lambda: bench.count("Long rests") < brisk)
    by_hand = bench.count("Long rests")
    wait(lambda: f": {by_hand} rest" in told.text)
    before = bench.head()["running_time"]
    person.click("Accept all: Long rests")
    wait(lambda: bench.head()["running_time"] < before)
    person.see("hortened")
    person.click("Back to the rhythm")
    wait(lambda: "brisk" in told.text)
    breaths = "//button[@data-kind='Breaths']"
    assert not person.driver.find_elements(By.XPATH, breaths)
    person.driver.find_element(By.XPATH, "//label[contains(., 'soften breaths')]/input").click()
    wait(lambda: person.driver.find_elements(By.XPATH, breaths))


@pytest.fixture
def breathing(talk, tmp_path) -> tuple[Path, list[tuple[int, int]]]:
    """The first half minute of a talk, its speaker heard to breathe in before two sentences; and where, in ticks."""
    sound, _ = soundfile.read(talk, frames=32 * RATE)
    places = [round(begin * RATE) for begin in (16.35, 18.05)]
    chance = np.random.default_rng(1)
    length = RATE * 35 // 100
    for place in places:
        air = sosfilt(butter(2, (400, 5000), "bandpass", fs=RATE, output="sos"), chance.standard_normal(length))
        sound[place : place + length] += 0.02 * air / air.std() * np.hanning(length)
    path = tmp_path / "breathing.wav"
    soundfile.write(path, sound, RATE)
    return path, [(place, place + length) for place in places]


def test_a_breath_is_softened_heard_softer_and_put_back(person, empty, breathing):
    path, places = breathing
    show = empty.post("/api/shows", {"name": "Ropewalk"})
    episode = empty.post(f"/api/shows/{show['id']}/episodes", {"title": "Breathing"})["id"]
    empty.upload(episode, path)
    wait(lambda: empty.get(f"/api/episodes/{episode}")["recordings"][0]["transcript"] == "done", 120)
    bench = Bench(person, empty, "needle,")
    bench.kind("Long rests").click()
    person.find("Rhythm").find_element(By.XPATH, ".//label[contains(., 'soften breaths')]/input").click()
    bench.kind("Breaths").click()
    wait(lambda: len(bench.rows()) >= len(places))
    breaths = bench.findings("breath")
    assert all(any(b["begin"] < end and b["end"] > begin for b in breaths) for begin, end in places)

    def level() -> float:
        heard = bench.sound()
        middle = (breaths[0]["begin"] + breaths[0]["end"]) // 2
        return 10 * np.log10(np.mean(heard[middle - RATE // 20 : middle + RATE // 20] ** 2))

    before = level()
    person.keys("f")
    bench.current()
    person.hold(Keys.SHIFT, Keys.SPACE)
    person.find("Pause")
    person.keys("k", "a")
    (softened,) = wait(lambda: bench.findings("breath", "accepted"))
    assert softened["begin"] == breaths[0]["begin"]
    assert before - level() == pytest.approx(10, abs=0.5)
    assert not bench.head()["struck"]
    person.driver.find_element(By.XPATH, "//label[contains(., 'Show judged')]/input").click()
    wait(lambda: "accepted" in bench.rows()[0].text)
    bench.rows()[0].find_element(By.TAG_NAME, "button").click()
    person.keys("b")
    wait(lambda: not bench.findings("breath", "accepted"))
    assert level() == pytest.approx(before, abs=0.1)


def test_takes_side_by_side_and_another_one_picked(bench):
    person = bench.person
    bench.kind("Retakes").click()
    person.keys("f")
    wait(lambda: len(bench.current().find_elements(By.CSS_SELECTOR, "ol[aria-label=Takes] > li")) == 3)
    person.click("Side by side")
    columns = person.find("Takes side by side")
    left = [each.rect["x"] for each in columns.find_elements(By.TAG_NAME, "li")]
    assert left == sorted(left) and len(set(left)) == 3
    assert "complete" in columns.text
    columns.find_element(By.CSS_SELECTOR, "[aria-label='Hear take 3']").click()
    person.driver.find_element(By.XPATH, "//div[@role='dialog']//button[@aria-label='Keep take 2']").click()
    person.driver.find_element(By.XPATH, "//div[@role='dialog']//button[normalize-space()='Accept']").click()
    (judged,) = wait(lambda: bench.findings("retake", "accepted"))
    assert judged["pick"] == 1
    struck = bench.head()["struck"]
    takes = judged["takes"]
    # The next one goes from a little before its first word on.
    assert not any(a < takes[1]["end"] - REACH and b > takes[1]["begin"] for a, b in struck)
    person.hold(Keys.CONTROL, "z")
    wait(lambda: not bench.findings("retake", "accepted"))
    person.keys("f", "c", "a")
    wait(lambda: bench.findings("retake", "accepted"))
    assert bench.findings("retake", "accepted")[0]["pick"] == 0


def test_what_the_show_wants_lifted_counted_as_fillers_and_tidied_as_it_comes(bench):
    person = bench.person
    bench.kind("Fillers").click()
    count = bench.count("Fillers")
    person.driver.find_element(By.XPATH, "//summary[contains(., 'Fillers of this show')]").click()
    field = person.find("Fillers of this show")
    field.send_keys(Keys.END, ", kettle")
    person.click("Keep for the show")
    wait(lambda: bench.count("Fillers") >= count)
    person.type("Filter findings", "kettle")
    wait(lambda: bench.rows() or bench.findings("chatter"))
    person.find("Filter findings").send_keys(Keys.CONTROL, "a", Keys.DELETE)
    bench.kind("Chatter, remarks").click()
    Select(person.find("When accepted")).select_by_visible_text("lift")
    wait(
        lambda: (
            bench.running.get(f"/api/shows/{bench.running.get('/api/shows')['shows'][0]['id']}/tidy")["actions"]
            == {"chatter": "lift"}
        )
    )
    assert {f["text"].split(" ")[0] for f in bench.findings("chatter")} >= {"Is", "Was"}
    person.click("Accept all: Chatter, remarks")
    wait(lambda: bench.head()["lifted"])
    wait(lambda: not person.driver.find_elements(By.XPATH, "//span[contains(@class,'tok')][normalize-space()='kettle']"))
    person.click("Gather")
    wait(lambda: person.driver.find_element(By.XPATH, "//summary[contains(., 'Tidy on import')]")).click()
    for name in ("Fillers", "Retakes"):
        person.driver.find_element(By.XPATH, f"//fieldset//label[contains(., '{name}')]").click()
        person.see(name.lower())
    show = bench.running.get("/api/shows")["shows"][0]["id"]
    wait(lambda: bench.running.get(f"/api/shows/{show}/tidy")["on_import"] == ["filler", "retake"])


def test_everything_at_once_and_one_undo(bench):
    person = bench.person
    before = bench.head()
    person.not_see("Still listening", 120)
    person.click("Accept all: Everything")
    wait(lambda: bench.count("Everything") == 0)
    person.see("Took out")
    assert before["running_time"] - bench.head()["running_time"] > 40 * 48_000
    person.hold(Keys.CONTROL, "z")
    wait(lambda: bench.head()["struck"] == before["struck"])
    assert not person.trouble()


def test_voice_without_words_is_a_token_on_the_page_and_given_a_word(bench):
    person = bench.person
    um = next(f for f in bench.findings("filler") if f["goes"] > 0.25 * 48_000)
    bench.kind("Fillers").click()
    person.driver.find_element(By.XPATH, "//ul[@aria-label='Findings']//button[contains(., 'Um,')]").click()
    person.driver.find_element(By.CSS_SELECTOR, f".tok[data-at='{um['begin']}']").click()
    # The recogniser swallowed it: its text goes, its sound stays.
    person.keys(Keys.ENTER)
    field = person.find("New text")
    field.send_keys(Keys.CONTROL, "a")
    field.send_keys(Keys.DELETE)
    field.send_keys(Keys.ENTER)
    person.not_see("Still listening", 120)

    def swallowed():
        return next((f for f in bench.findings("voice without words") if abs(f["begin"] - um["begin"]) < RATE // 5), None)

    voice = wait(swallowed, 60)
    token = f".lane-sign[data-at='{voice['begin']}']"
    person.driver.find_element(By.CSS_SELECTOR, token).click()
    person.keys(Keys.ENTER)
    field = person.find("New text")
    field.send_keys("um,", Keys.ENTER)
    wait(lambda: not swallowed())
    # It is proposed once it has been fitted to its sound.
    wait(lambda: any(abs(f["begin"] - voice["begin"]) < 4_800 and f["text"] == "um," for f in bench.findings("filler")))
