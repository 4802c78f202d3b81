"""Reuse on the page: what is proposed is heard, corrected, named and made into editions and films."""

from __future__ import annotations

import io
import urllib.request

import av
import pytest
from selenium.webdriver.common.by import By
from selenium.webdriver.common.keys import Keys
from selenium.webdriver.support.ui import Select

from .helpers import head, wait

pytestmark = pytest.mark.e2e

RATE = 48_000


def episode(person, demo) -> dict:
    return demo.get(f"/api/episodes/{person.episode}")


def written(person, label: str, text: str) -> None:
    field = person.find(label)
    field.send_keys(Keys.CONTROL, "a")
    field.send_keys(text, Keys.ENTER)


def proposed(person) -> list[str]:
    return [each.text for each in person.driver.find_elements(By.CSS_SELECTOR, "ol[aria-label=Proposed] > li")]


def washes(person) -> int:
    return len(person.driver.find_elements(By.CSS_SELECTOR, ".wash[data-look=proposed]"))


@pytest.fixture
def reusing(opened):
    opened.click("Reuse")
    opened.click("Highlights")
    opened.find("Propose")  # once it is known what is said
    yield opened
    assert opened.trouble() == []


def test_chapters_are_found_named_moved_and_joined(reusing, demo):
    reusing.click("Chapters")
    reusing.click("Find chapters")
    reusing.find("Find anew")
    found = sorted(episode(reusing, demo)["chapters"], key=lambda each: each["at"])
    assert len(found) == 2 and all(each["title"] for each in found)
    # The title of the second stands above the word it begins with, and on the bench.
    reusing.click(f"Go to “{found[1]['title']}”")
    wait(
        lambda: reusing.driver.find_elements(
            By.CSS_SELECTOR, f".lane-bar[data-look=chapter][aria-label='Chapter: {found[1]['title']}']"
        )
    )
    written(reusing, f"Title of the chapter “{found[1]['title']}”", "Who taught him")
    reusing.see("Named the chapter")
    wait(lambda: [each["title"] for each in episode(reusing, demo)["chapters"] if each["by_hand"]] == ["Who taught him"])
    # One that is begun by key at the playhead can be joined again, and undone.
    reusing.driver.find_elements(By.CSS_SELECTOR, ".tok")[8].click()
    reusing.hold(Keys.SHIFT, "c")
    reusing.find("Title of the chapter “New chapter”")
    reusing.click("Join “New chapter” to the chapter before it")
    wait(lambda: len(episode(reusing, demo)["chapters"]) == 2)
    reusing.hold(Keys.CONTROL, "z")
    wait(lambda: len(episode(reusing, demo)["chapters"]) == 3)


def test_an_eighth_is_proposed_corrected_by_hand_and_made_an_edition(reusing, demo):
    reusing.click("Propose")
    wait(lambda: proposed(reusing))
    reusing.find("Go to ", whole=False).click()
    wait(lambda: washes(reusing))
    length = demo.get(f"/api/editions/{head(reusing)['id']}/proposals/highlights")
    assert abs(length["length"] - length["wish"]["length"]) < 0.03 * length["wish"]["length"] + 3 * RATE
    first, *_ = before = proposed(reusing)
    refuse = reusing.find("Refuse what is said at", whole=False)
    refuse.click()
    wait(lambda: proposed(reusing) and first not in proposed(reusing))
    reusing.see("1 refused")
    reusing.find("Keep what is said at", whole=False).click()
    wait(lambda: reusing.driver.find_elements(By.CSS_SELECTOR, "[aria-pressed=true][aria-label^='Keep what is said']"))
    assert len(before) >= 2
    reusing.click("Mark them")
    reusing.see("Marked as good")
    wait(lambda: len(episode(reusing, demo)["selects"]) >= len(proposed(reusing)))
    chosen = demo.get(f"/api/editions/{head(reusing)['id']}/proposals/highlights")["length"]
    written(reusing, "Name of the edition", "Trailer")
    reusing.click("Make an edition")
    reusing.see("Made the edition “Trailer”")
    reusing.find("Edition Trailer")  # it is open
    made = next(each for each in episode(reusing, demo)["editions"] if each["name"] == "Trailer")
    assert abs(made["length"] - chosen) < RATE // 2


def test_four_upright_clips_with_captions_are_made_and_exported_in_one_go(reusing, demo):
    reusing.click("Clips")
    reusing.click("Propose")
    wait(lambda: len(proposed(reusing)) == 4)
    written(reusing, "Name of clip 1", "A dry shed is no kindness")
    assert Select(reusing.find("Shape of the clips")).first_selected_option.text == "upright 9:16"
    reusing.click("Make 4 editions")
    reusing.see("Made 4 editions")
    wait(lambda: len([each for each in episode(reusing, demo)["editions"] if each["shape"] == "upright"]) == 4)
    made = [each for each in episode(reusing, demo)["editions"] if each["shape"] == "upright"]
    assert "A dry shed is no kindness" in [each["name"] for each in made]
    assert all(15 * RATE - RATE // 2 <= each["length"] <= 61 * RATE for each in made)
    wait(lambda: len(episode(reusing, demo)["exports"]) == 4, 300)
    for export in episode(reusing, demo)["exports"]:
        with (
            urllib.request.urlopen(f"{demo.url}/api/exports/{export['id']}/file") as answer,
            av.open(io.BytesIO(answer.read())) as film,
        ):
            picture = film.streams.video[0]
            assert picture.width * 16 == pytest.approx(picture.height * 9, rel=0.01)
            assert film.duration / av.time_base == pytest.approx(export["length"] / RATE, abs=0.2)


def test_titles_summary_and_quotes_lead_to_where_they_were_said(reusing, demo):
    reusing.click("Words")
    told = reusing.driver.find_elements(By.CSS_SELECTOR, "ul[aria-label=Summary] > li")
    assert len(told) == 3
    told[1].find_element(By.TAG_NAME, "button").click()
    wait(lambda: reusing.place() > 1)
    reusing.find("Call the episode", whole=False).click()
    reusing.see("The episode is called")
    wait(lambda: episode(reusing, demo)["title"] != "The dry hull")


def test_selects_of_several_episodes_become_a_story_in_a_chosen_order(reusing, demo):
    first = episode(reusing, demo)
    shows = demo.get("/api/shows")["shows"]
    others = [
        each["id"] for show in shows if show["id"] == first["show_id"] for each in show["episodes"] if each["id"] != first["id"]
    ]
    for number, name in enumerate((first["id"], first["id"], *others[:1])):
        edition = demo.get(f"/api/episodes/{name}")["editions"][0]["id"]
        stretch = {"begin": (20 + 8 * number) * RATE, "end": (26 + 8 * number) * RATE}
        demo.post(f"/api/episodes/{name}/selects", {"edition": edition, "ranges": [stretch], "colour": "moss"})
    reusing.hold(Keys.SHIFT, "g")
    reusing.see("Gathering table")
    lay = lambda: reusing.driver.find_elements(By.CSS_SELECTOR, "[aria-label^='Lay “'][aria-label$='on the table']")  # noqa: E731
    wait(lambda: len(lay()) == 3)
    for button in lay():
        button.click()
    cards = lambda: [each.text for each in reusing.driver.find_elements(By.CSS_SELECTOR, "[data-card]")]  # noqa: E731
    wait(lambda: len(cards()) == 3)
    before = cards()
    handles = reusing.driver.find_elements(By.CSS_SELECTOR, "[data-card] button[aria-label^='Move']")
    handles[2].send_keys(Keys.ARROW_UP)
    wait(lambda: cards() == [before[0], before[2], before[1]])
    written(reusing, "Name of the story", "A story")
    reusing.driver.find_element(By.CSS_SELECTOR, "[role=dialog]").find_element(
        By.XPATH, ".//button[.='Make an edition']"
    ).click()
    reusing.see("Made the edition “A story”")
    reusing.find("Edition A story")
    made = next(each for each in episode(reusing, demo)["editions"] if each["name"] == "A story")
    assert abs(made["length"] - 18 * RATE) < RATE
