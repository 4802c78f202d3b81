"""Getting a transcript right, as a person does: retype, find and replace, step through what is unsure, say who speaks."""

from __future__ import annotations

import pytest
import soundfile
from conftest import RATE, truth
from selenium.webdriver import Keys
from selenium.webdriver.common.by import By

from .helpers import wait

pytestmark = pytest.mark.e2e


@pytest.fixture
def reading(opened):
    opened.click("Read")
    return opened


def words(person, text):
    read = "(each) => each.textContent.replace(/^[.,?! ]+|[.,?! ]+$/g, '') === arguments[0]"
    return person.driver.execute_script(f"return [...document.querySelectorAll('.tok')].filter({read})", text)


def test_a_word_is_retyped_and_taken_back(reading):
    whole = reading.running_time()
    reading.word("kettle").click()
    reading.keys(Keys.ENTER)
    reading.find("New text")
    reading.keys("teapot", Keys.ENTER)
    reading.word("teapot")
    reading.see("Retyped “kettle” as “teapot”")
    assert reading.running_time() == whole
    reading.hold(Keys.CONTROL, "z")
    reading.word("kettle")


def test_escape_leaves_it(reading):
    reading.word("kettle").click()
    reading.keys(Keys.ENTER)
    reading.find("New text")
    reading.keys("teapot", Keys.ESCAPE)
    reading.keys(Keys.ARROW_RIGHT)
    assert not words(reading, "teapot")


def test_new_words_are_fitted_to_the_sound(reading):
    reading.word("shipwright").click()
    reading.keys(Keys.ENTER)
    reading.find("New text")
    reading.keys("ship wright", Keys.ENTER)
    reading.word("wright")
    wait(lambda: "loose" not in reading.classes("wright"), 90)


def test_found_everywhere_and_replaced_at_once(reading):
    reading.hold(Keys.CONTROL, "f")
    wait(lambda: reading.driver.switch_to.active_element.get_attribute("aria-label") == "Words to find")
    reading.keys("bring", Keys.ENTER)
    found = reading.find("Find").find_elements(By.CSS_SELECTOR, "[aria-label='Places found'] li")
    assert len(found) >= 1
    wait(lambda: reading.driver.find_elements(By.CSS_SELECTOR, ".tok.picked"))
    assert "bring" in reading.driver.find_element(By.CSS_SELECTOR, ".tok.picked").text
    reading.type("Retype as", "fetch")
    reading.click("All")
    reading.see("fetch")
    wait(lambda: not words(reading, "bring"))
    reading.hold(Keys.CONTROL, "a")  # in the field, where it selects the text
    reading.find("Transcript").click()
    reading.hold(Keys.CONTROL, "z")
    wait(lambda: words(reading, "bring"))


def test_stepping_through_what_is_unsure(reading):
    reading.find("Transcript").click()
    reading.keys("u")
    first = reading.driver.find_element(By.CSS_SELECTOR, ".tok.picked.unsure").get_attribute("data-at")
    reading.keys("a")
    wait(lambda: not reading.driver.find_elements(By.CSS_SELECTOR, f".tok.unsure[data-at='{first}']"))
    reading.keys("u")
    wait(lambda: reading.driver.find_elements(By.CSS_SELECTOR, ".tok.picked.unsure"))
    assert reading.driver.find_element(By.CSS_SELECTOR, ".tok.picked").get_attribute("data-at") != first


def test_a_mixed_recording_gets_its_voices_by_hand(reading):
    reading.word("Welcome").click()
    menu = reading.find("Spoken by")
    menu.find_element(By.XPATH, ".//option[contains(., 'a new voice')]").click()
    reading.type("Name of the new voice", "Orla Venn" + Keys.ENTER)
    reading.find("Voice Orla Venn")
    reading.hold(Keys.CONTROL, "z")
    wait(lambda: not reading.driver.find_elements(By.CSS_SELECTOR, "[aria-label='Voice Orla Venn']"))


def test_a_voice_of_an_earlier_episode_is_known_again_and_proposed(person, empty, talk, tmp_path):
    show = empty.post("/api/shows", {"name": "Ropewalk"})["id"]
    sound, _ = soundfile.read(talk)

    def episode(title: str, begin: int, end: int) -> str:
        made = empty.post(f"/api/shows/{show}/episodes", {"title": title})["id"]
        soundfile.write(tmp_path / f"{title}.wav", sound[begin * RATE : end * RATE], RATE)
        empty.upload(made, tmp_path / f"{title}.wav")
        wait(lambda: empty.get(f"/api/episodes/{made}")["recordings"][0]["transcript"] == "done", 120)
        person.open(f"{empty.url}/episodes/{made}")
        person.click("Read")
        person.driver.find_element(By.CSS_SELECTOR, ".tok:not(.rest)").click()
        return made

    episode("first", 10, 42)
    wait(lambda: person.driver.find_element(By.XPATH, "//label[contains(., 'from here on')]/input")).click()
    menu = person.find("Spoken by")
    menu.find_element(By.XPATH, ".//option[contains(., 'a new voice')]").click()
    person.type("Name of the new voice", "Ines Calder" + Keys.ENTER)
    person.find("Voice Ines Calder")
    second = episode("second", 42, 74)
    person.click("Tell voices apart")

    def proposed():
        shown = person.driver.find_elements(By.CSS_SELECTOR, "button[aria-label^='Voice ']")
        return next((each for each in shown if "Ines Calder?" in each.text), None)

    wait(proposed, 90)
    wait(lambda: proposed().click() is None)
    person.see("It sounds like Ines Calder.")
    person.click("It is Ines Calder")
    person.find("Voice Ines Calder")
    assert "Ines Calder" in [voice["shown"] for voice in empty.get(f"/api/episodes/{second}")["voices"]]


def test_a_passage_begins_where_one_says(reading):
    def beginnings():
        return [
            row.find_element(By.CSS_SELECTOR, ".tok").text for row in reading.driver.find_elements(By.CSS_SELECTOR, ".score")
        ]

    assert "kettle" not in beginnings()
    reading.word("kettle").click()
    reading.keys("p")
    wait(lambda: "kettle" in beginnings())
    reading.hold(Keys.SHIFT, "p")
    wait(lambda: "kettle" not in beginnings())


def test_a_script_is_brought_and_becomes_the_transcript(reading, tmp_path):
    said = sorted((w for w in truth("interview")["words"] if w["kind"] == "speech"), key=lambda word: word["start"])
    script = tmp_path / "script.txt"
    script.write_text(" ".join(word["text"] for word in said) + " Mind the tide as you go home tonight.")
    wait(lambda: reading.driver.find_element(By.CSS_SELECTOR, "input[aria-label^='Text for']")).send_keys(str(script))
    reading.see("plain text")
    reading.click("Make it the transcript")
    reading.see("It is the transcript now", 240)
    reading.see("1 stretch was never said")
    reading.click("Tidy")
    reading.see("Beside the script", 60)
    wait(lambda: reading.driver.find_element(By.XPATH, "//summary[contains(., 'Beside the script')]")).click()
    told = reading.find("The script beside what was said").find_elements(By.TAG_NAME, "li")
    assert [line.text for line in told if "never said" in line.text] == ["Mind the tide as you go home tonight.\nnever said"]
    reading.click("Read")
    reading.hold(Keys.CONTROL, "f")
    reading.keys("Thirty two")
    wait(lambda: reading.find("Find").find_elements(By.CSS_SELECTOR, "[aria-label='Places found'] li"))
    reading.find("Transcript").click()
    reading.hold(Keys.CONTROL, "z")
    wait(lambda: not reading.find("Find").find_elements(By.CSS_SELECTOR, "[aria-label='Places found'] li"))
    assert not reading.trouble()


def test_a_house_spelling_is_put_right_everywhere_and_taken_back(reading):
    assert words(reading, "Ropewalk")  # one that came with the show
    reading.type("Name or term", "ship-wright")
    reading.click("Add")
    reading.find("Take ship-wright off the list")
    reading.click("Put this episode right")
    wait(lambda: words(reading, "ship-wright"), 60)
    reading.find("Transcript").click()
    reading.hold(Keys.CONTROL, "z")
    wait(lambda: words(reading, "shipwright") and not words(reading, "ship-wright"))
    reading.click("Take ship-wright off the list")
    reading.see("“ship-wright” is no longer a house spelling")
    reading.driver.find_element(By.XPATH, "//*[@role='status']//button[.='Undo']").click()
    reading.find("Take ship-wright off the list")
