"""What a person does, from an empty Jaskel to a finished file, in the real page."""

from __future__ import annotations

import re
import time
from pathlib import Path

import av
import numpy as np
import pysubs2
import pytest
import soundfile
from conftest import RATE, excerpt, tone, write_media
from selenium.webdriver import ActionChains
from selenium.webdriver.common.by import By
from selenium.webdriver.common.keys import Keys

from .helpers import wait

pytestmark = pytest.mark.e2e


def open_episode(person, running, title="The dry hull, mixed"):
    person.open(running.url)
    person.see(title)
    person.driver.find_element(By.PARTIAL_LINK_TEXT, title).click()
    person.see("words")


def choose_file(person, path: Path):
    person.driver.find_element(By.CSS_SELECTOR, "input[type=file]").send_keys(str(path))


class TestFromARecordingToAFile:
    def test_everything_in_one_sitting(self, person, empty, tmp_path):
        person.open(empty.url)
        person.see("Drop a recording to start")
        person.type("Name of the new show", "Harbour talk")
        person.keys(Keys.ENTER)
        person.see("No episodes yet.")
        person.type("Title of the new episode", "Sails")
        person.click("Make an episode")
        person.see("An empty page")
        choose_file(person, excerpt(tmp_path / "My sails.mp4", "mending-a-sail.mp4", 40))
        person.see("My sails.mp4")
        person.see("640×360 at 25")
        person.see("Transcribed", 200)
        person.see("Hello,")

        # Strike the chatter before the first real sentence, by keyboard.
        before = person.running_time()
        person.word("OK." if person.driver.find_elements(By.XPATH, "//span[normalize-space()='OK.']") else "Okay.").click()
        person.hold(Keys.SHIFT, Keys.ARROW_RIGHT, Keys.ARROW_RIGHT)
        person.keys(Keys.DELETE)
        person.see("saved")
        wait(lambda: person.running_time() != before)

        person.single_files()
        for name in ("MP4 video", "MP3", "SubRip"):
            person.click(name)
        wait(lambda: len(person.find("Finished exports").find_elements(By.CSS_SELECTOR, "a[download]")) == 3, 200)
        (episode,) = [e["id"] for s in empty.get("/api/shows")["shows"] for e in s["episodes"]]
        edition = empty.get(f"/api/episodes/{episode}")["editions"][0]["id"]
        length = empty.get(f"/api/editions/{edition}")["running_time"]
        for export in empty.get(f"/api/episodes/{episode}")["exports"]:
            file = empty.settings.vault / "exports" / export["id"]
            assert export["file_name"].startswith("Harbour talk - Sails.")
            if export["form"] == "srt":
                captions = pysubs2.load(str(file))
                assert captions[-1].end <= length / 48
                assert "mend" in " ".join(event.text for event in captions)
            else:
                with av.open(str(file)) as media:
                    assert abs(media.duration / 1e6 - length / RATE) < 0.07
        assert not person.trouble()


class TestGathering:
    @pytest.fixture(autouse=True)
    def opened(self, person, empty):
        show = empty.post("/api/shows", {"name": "Harbour talk"})
        episode = empty.post(f"/api/shows/{show['id']}/episodes", {"title": "Sails"})
        person.open(f"{empty.url}/episodes/{episode['id']}")
        person.see("An empty page")

    def test_bad_files_are_told_apart_and_nothing_stays(self, person, empty, tmp_path):
        (tmp_path / "empty.wav").touch()
        (tmp_path / "letter.mp4").write_text("Dear Orla, this is no film.\n" * 50)
        for name, told in (
            ("empty.wav", "it has no bytes at all"),
            ("letter.mp4", "is not a sound or video file"),
        ):
            choose_file(person, tmp_path / name)
            person.see(told)
        assert not [p for p in empty.settings.vault.rglob("*") if p.is_file()]
        for _ in range(2):
            person.click("Dismiss")
        person.not_see("letter")

    def test_a_cut_off_file_offers_what_can_be_read(self, person, tmp_path):
        path = write_media(tmp_path / "half.flac", tone(8))
        path.write_bytes(path.read_bytes()[: path.stat().st_size // 2])
        choose_file(person, path)
        person.see("breaks off")
        button = person.driver.find_element(By.XPATH, "//button[contains(., 'that can be read')]")
        button.click()
        person.see("No speech was found", 150)

    def test_the_same_file_again_is_offered_for_reuse(self, person, tmp_path):
        path = write_media(tmp_path / "hum.wav", tone(2))
        choose_file(person, path)
        person.see("hum.wav")
        choose_file(person, path)
        person.see("is here already")
        person.click("Use it again")
        person.not_see("is here already")
        wait(lambda: len(person.driver.find_elements(By.XPATH, "//b[normalize-space()='hum.wav']")) == 2)

    def test_a_long_transcript_appears_as_it_is_read_and_can_be_cancelled(self, person, empty, talk, tmp_path):
        sound, _ = soundfile.read(talk, dtype="float32")
        soundfile.write(tmp_path / "long.flac", np.tile(sound, 3), RATE)

        def words() -> int:
            found = re.search(r"(\d+) words", person.page)
            return int(found[1]) if found else 0

        choose_file(person, tmp_path / "long.flac")
        person.see("Transcribing", 150)
        person.see("Hello,", 150)
        assert "Transcribed" not in person.page
        person.click("Cancel: Transcribing")
        person.see("stopped part-way", 150)
        kept = words()
        assert kept
        person.click("Resume")
        wait(lambda: words() > kept, 150)


class TestReadingAndCutting:
    def test_clicking_goes_there_and_playing_marks_words(self, person, demo):
        open_episode(person, demo)
        person.word("kettle").click()
        at = person.place()
        assert at > 9
        person.keys(Keys.SPACE)
        wait(lambda: person.place() > at + 1.0)
        assert len(person.driver.find_elements(By.CSS_SELECTOR, ".tok[data-now]")) == 1
        person.keys(Keys.SPACE)
        person.find("Play")
        stopped = person.place()
        time.sleep(0.3)
        assert person.place() == stopped
        person.hold(Keys.SHIFT, "b")
        wait(lambda: abs(person.place() - max(0, stopped - 5)) < 0.2)
        assert not person.trouble()

    def test_faster_keeps_going_and_is_faster(self, person, demo):
        open_episode(person, demo)
        person.word("kettle").click()
        person.keys("l", "l", "l", "l", "l")
        assert person.driver.find_element(By.CSS_SELECTOR, "select").get_attribute("value") == "2"
        wait(lambda: person.place() > 12)

        begun, at = time.monotonic(), person.place()
        # A busy machine may starve the sound for a moment; what counts is that it does get ahead of the clock.
        wait(lambda: person.place() - at > 2 + 1.3 * (time.monotonic() - begun), 60)
        person.keys("k")
        person.find("Play")

    def test_striking_by_mouse_skips_when_played_as_edited_only(self, person, demo):
        open_episode(person, demo)
        whole = person.running_time()

        def marked(kind: str) -> str | None:
            script = f"return document.querySelector('.tok[data-now]{kind}')?.textContent.trim() ?? null"
            return person.driver.execute_script(script)

        first, last = person.word("Welcome"), person.word("Ropewalk.")
        ActionChains(person.driver).move_to_element(first).click_and_hold().move_to_element(last).pause(0.1).release().perform()
        person.click("Strike")
        person.see("left")
        assert "struck" in person.classes("Welcome")
        assert person.running_time() != whole
        person.word("Welcome").click()
        wait(lambda: marked(".struck") == "Welcome")
        person.keys(Keys.SPACE)
        wait(lambda: marked(":not(.struck)"))
        assert marked(".struck") is None
        person.keys("k")
        person.click("As recorded")
        person.word("Welcome").click()
        person.keys(Keys.SPACE)
        # A busy machine is asked seldom; the struck words together are heard for seconds.
        wait(lambda: marked(".struck") not in (None, "Welcome"))
        person.keys("k")

    def test_put_back_alone_and_all(self, person, demo):
        open_episode(person, demo)
        whole = person.running_time()
        for text in ("kettle", "top."):
            person.word(text).click()
            person.keys(Keys.DELETE)
            wait(lambda text=text: "struck" in person.classes(text))
        person.see("2 · 0:0")
        person.driver.find_element(By.XPATH, "//li[contains(., 'kettle')]//button[normalize-space()='Put back']").click()
        wait(lambda: "struck" not in person.classes("kettle"))
        assert "struck" in person.classes("top.")
        person.click("Put everything back")
        wait(lambda: person.running_time() == whole)

    @pytest.mark.as_people_do
    def test_undo_survives_a_restart(self, person, demo):
        open_episode(person, demo)
        whole = person.running_time()
        person.word("kettle").click()
        person.keys(Keys.DELETE)
        wait(lambda: person.running_time() != whole or "struck" in person.classes("kettle"))
        person.see("saved")
        assert demo.interrupted() == 0
        demo.start()
        open_episode(person, demo)
        assert "struck" in person.classes("kettle")
        person.hold(Keys.CONTROL, "z")
        wait(lambda: "struck" not in person.classes("kettle"))
        assert person.running_time() == whole
        ActionChains(person.driver).key_down(Keys.CONTROL).key_down(Keys.SHIFT).send_keys("z").key_up(Keys.SHIFT).key_up(
            Keys.CONTROL
        ).perform()
        wait(lambda: "struck" in person.classes("kettle"))

    def test_struck_words_can_be_hidden_and_the_page_is_prose(self, person, demo):
        open_episode(person, demo)
        person.word("kettle").click()
        person.keys(Keys.DELETE)
        person.see("saved")
        person.keys("h")
        person.see("hidden")
        assert not person.word("kettle").is_displayed()
        person.click("Prose")
        assert not person.driver.find_elements(By.CSS_SELECTOR, ".page canvas")
        person.keys("h")
        assert person.word("kettle").is_displayed()

    def test_the_page_holds_only_what_is_near(self, person, demo):
        open_episode(person, demo)
        drawn = wait(lambda: person.driver.find_elements(By.CSS_SELECTOR, ".tok"))
        assert 50 < len(drawn) < 700
        strip = person.find("Place in the whole episode")
        ActionChains(person.driver).move_to_element_with_offset(strip, strip.size["width"] // 3, 0).click().perform()
        wait(lambda: person.place() > 200)
        now = wait(lambda: person.driver.find_element(By.CSS_SELECTOR, ".tok[data-now]"))
        assert now.is_displayed()
        assert int(now.get_attribute("data-at")) > 100 * RATE
        assert len(person.driver.find_elements(By.CSS_SELECTOR, ".tok")) < 700

    def test_two_windows_stay_the_same(self, person, demo):
        open_episode(person, demo)
        first = person.driver.current_window_handle
        person.driver.switch_to.new_window("window")
        open_episode(person, demo)
        person.word("kettle").click()
        person.keys(Keys.DELETE)
        person.see("saved")
        second = person.running_time()
        person.driver.close()
        person.driver.switch_to.window(first)
        wait(lambda: "struck" in person.classes("kettle"))
        assert person.running_time() == second

    def test_two_windows_of_three_tabs_still_work(self, person, demo):
        """A browser allows six connections to a server: windows that held one each would leave none."""
        handles = []
        for number in range(7):
            if number:
                person.driver.switch_to.new_window("window" if number == 3 else "tab")
            open_episode(person, demo)
            handles.append(person.driver.current_window_handle)
        person.word("kettle").click()
        person.keys(Keys.DELETE)
        person.see("saved")
        for handle in handles[:-1]:
            person.driver.switch_to.window(handle)
            wait(lambda: "struck" in person.classes("kettle"))
        person.click("Read")
        person.click("Cut")
        for handle in handles[1:]:
            person.driver.switch_to.window(handle)
            person.driver.close()
        person.driver.switch_to.window(handles[0])

    def test_the_monitor_follows_the_sound(self, person, demo):
        open_episode(person, demo)
        # Picture and sound are read at the same moment: between two questions to a busy browser both go on.
        seen_and_heard = """
            const video = [...document.querySelectorAll('video')].find(video => video.parentElement.style.zIndex === '1');
            const [minutes, seconds] = document.querySelector("[aria-label='Place']").textContent.split(':');
            return [video?.currentTime ?? 0, 60 * minutes + Number(seconds)]"""

        def apart() -> float:
            seen, heard = person.driver.execute_script(seen_and_heard)
            return abs(seen - heard - 0.05)  # the place is shown in whole tenths

        person.word("Welcome").click()
        wait(lambda: apart() < 0.1)
        person.keys(Keys.SPACE)
        wait(lambda: person.place() > 19)
        wait(lambda: np.median([apart() for _ in range(5)]) < 0.25)
        person.keys("k")


class TestExporting:
    def test_the_file_is_as_long_as_the_running_time_says(self, person, demo):
        open_episode(person, demo)
        person.word("kettle").click()
        person.keys(Keys.DELETE)
        person.see("saved")
        person.single_files()
        for name in ("WAV", "WebVTT", "Text", "Markdown"):
            person.click(name)
        wait(lambda: len(person.find("Finished exports").find_elements(By.CSS_SELECTOR, "a[download]")) == 4, 200)
        episode = person.episode
        state = demo.get(f"/api/episodes/{episode}")
        length = demo.get(f"/api/editions/{state['editions'][0]['id']}")["running_time"]
        files = {e["form"]: demo.settings.vault / "exports" / e["id"] for e in state["exports"]}
        assert soundfile.info(files["wav"]).frames == length
        assert "kettle" not in files["txt"].read_text()
        assert files["md"].read_text().startswith("# The dry hull, mixed")
        person.driver.find_element(
            By.XPATH, "//button[starts-with(@aria-label, 'Delete') and contains(@aria-label, '.wav')]"
        ).click()
        there = lambda: {each["form"] for each in demo.get(f"/api/episodes/{episode}")["exports"]}  # noqa: E731
        wait(lambda: "wav" not in there())
        person.driver.find_element(By.XPATH, "//button[normalize-space()='Undo']").click()
        wait(lambda: "wav" in there())

    def test_an_export_can_be_cancelled(self, person, demo):
        open_episode(person, demo)
        person.single_files()
        person.click("MP4 video")
        person.click("Cancel: Writing MP4 video")
        person.not_see("Writing MP4 video", 20)
        assert not list((demo.settings.vault / "exports").iterdir())
