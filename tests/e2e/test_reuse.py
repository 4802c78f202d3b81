"""Reuse on the page: what is proposed is heard, corrected, named and made into editions and films."""

from __future__ import annotations

import io
import urllib.request

import av
import pytest
from docx import Document
from lxml import html
from mutagen.id3 import ID3
from mutagen.mp4 import MP4
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


def exported(person, demo, form: str) -> io.BytesIO:
    """Exports the edition that is open in a form, and gives its file."""
    person.single_files()
    before = {each["id"] for each in episode(person, demo)["exports"]}
    person.click(form)
    made = wait(lambda: next((each for each in episode(person, demo)["exports"] if each["id"] not in before), None), 180)
    return io.BytesIO(fetched(demo, made))


def fetched(demo, export: dict) -> bytes:
    with urllib.request.urlopen(f"{demo.url}/api/exports/{export['id']}/file") as answer:
        return answer.read()


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
    # Its beginning is moved to the word after by an arrow key, as it would be dragged.
    handle = reusing.find("Beginning: Chapter: Who taught him")
    handle.send_keys(Keys.ARROW_RIGHT)
    reusing.see("Moved the chapter")
    wait(lambda: sorted(each["at"] for each in episode(reusing, demo)["chapters"])[1] > found[1]["at"])
    # One that is begun by key at the playhead can be joined again, and undone.
    reusing.driver.find_elements(By.CSS_SELECTOR, ".tok")[8].click()
    reusing.hold(Keys.SHIFT, "c")
    reusing.find("Title of the chapter “New chapter”")
    reusing.click("Join “New chapter” to the chapter before it")
    wait(lambda: len(episode(reusing, demo)["chapters"]) == 2)
    reusing.hold(Keys.CONTROL, "z")
    wait(lambda: len(episode(reusing, demo)["chapters"]) == 3)
    titles = ["New chapter", "Who taught him"]
    assert [each.title for each in MP4(exported(reusing, demo, "MP4 video")).chapters][-2:] == titles
    tags = ID3(exported(reusing, demo, "MP3"))
    assert [each.sub_frames["TIT2"].text[0] for each in tags.getall("CHAP")][-2:] == titles
    assert len(tags.getall("CTOC")) == 1


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
    assert all(15 * RATE - RATE // 2 <= each["length"] <= 63 * RATE for each in made)
    first = demo.get(f"/api/editions/{made[0]['id']}")
    assert first["closing"] == 2 * RATE and [each["kind"] for each in first["graphics"]] == ["title"]
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


def test_ten_selects_of_three_episodes_become_two_minutes_in_a_chosen_order(reusing, demo):
    first = episode(reusing, demo)
    known = next(show for show in demo.get("/api/shows")["shows"] if show["id"] == first["show_id"])["episodes"]
    homes = [first["id"], *[each["id"] for each in known if each["id"] != first["id"]]][:3]
    assert len(homes) == 3
    for number in range(10):
        name = homes[number % 3]
        edition = demo.get(f"/api/episodes/{name}")["editions"][0]["id"]
        stretch = {"begin": (20 + 13 * (number // 3)) * RATE, "end": (32 + 13 * (number // 3)) * RATE}
        demo.post(f"/api/episodes/{name}/selects", {"edition": edition, "ranges": [stretch], "colour": "moss"})
    reusing.hold(Keys.SHIFT, "g")
    reusing.see("Gathering table")
    lay = lambda: reusing.driver.find_elements(By.CSS_SELECTOR, "[aria-label^='Lay “'][aria-label$='on the table']")  # noqa: E731
    wait(lambda: len(lay()) == 10)
    for number in range(10):
        lay()[number].click()
    cards = lambda: [each.text for each in reusing.driver.find_elements(By.CSS_SELECTOR, "[data-card]")]  # noqa: E731
    wait(lambda: len(cards()) == 10)
    before = cards()
    handles = reusing.driver.find_elements(By.CSS_SELECTOR, "[data-card] button[aria-label^='Move']")
    handles[2].send_keys(Keys.ARROW_UP)
    wait(lambda: cards()[:3] == [before[0], before[2], before[1]])
    # One is parted and one half of it taken off; of the last a second is left.
    reusing.find("Part “", whole=False).click()
    wait(lambda: len(cards()) == 11)
    reusing.find("Take “", whole=False).click()
    wait(lambda: len(cards()) == 10)
    reusing.see("left")
    written(reusing, "Name of the story", "A story")
    reusing.driver.find_element(By.CSS_SELECTOR, "[role=dialog]").find_element(
        By.XPATH, ".//button[.='Make an edition']"
    ).click()
    reusing.see("Made the edition “A story”")
    reusing.find("Edition A story")
    made = next(each for each in episode(reusing, demo)["editions"] if each["name"] == "A story")
    assert made["length"] == pytest.approx(114 * RATE, abs=3 * RATE)
    with av.open(exported(reusing, demo, "MP3")) as sound:
        assert sound.duration / av.time_base == pytest.approx(made["length"] / RATE, abs=0.3)


def test_good_stretches_are_marked_by_key_shown_by_colour_and_played_alone(reusing, demo):
    reusing.click("Cut")
    shown = lambda: {  # noqa: E731
        each.get_attribute("data-colour") for each in reusing.driver.find_elements(By.CSS_SELECTOR, ".wash[data-look=select]")
    }
    reusing.word("kettle").click()
    reusing.hold(Keys.SHIFT, "1")
    wait(lambda: shown() == {"amber"})
    reusing.word("Mine").click()
    reusing.hold(Keys.SHIFT, "3")
    wait(lambda: shown() == {"amber", "sky"})
    Select(reusing.find("Selects that are shown")).select_by_value("sky")
    wait(lambda: shown() == {"sky"})
    Select(reusing.find("Selects that are shown")).select_by_value("")
    wait(lambda: len(shown()) == 2)
    reusing.driver.find_elements(By.CSS_SELECTOR, ".tok")[0].click()
    reusing.hold(Keys.SHIFT, "o")
    reusing.see("Only what is marked as good is played")
    reusing.keys("l")
    # After the last of the two, which are a word each, it stops by itself.
    wait(lambda: reusing.find("Play", whole=False).get_attribute("aria-label").startswith("Play") and reusing.place() > 9)
    assert reusing.place() < 14


def test_an_article_goes_out_and_comes_back_as_a_film(reusing, demo, tmp_path):
    reusing.click("Article …")
    field = reusing.find("Text of the article")
    wait(lambda: "kettle" in field.get_attribute("value"))
    reusing.click("Running text, guests quoted")
    field.send_keys(Keys.CONTROL, Keys.END)
    field.send_keys("\n\nThe harbour at dawn lay still. Rain ran down the roof of the boatyard.")
    reusing.click("Keep")
    reusing.see("Kept the article")
    for label in ("Word document", "Web page"):
        reusing.click(label)
    done = lambda: {each["form"]: each for each in episode(reusing, demo)["exports"]}  # noqa: E731
    wait(lambda: {"article docx", "article html"} <= {*done()}, 120)
    document = tmp_path / "article.docx"
    document.write_bytes(fetched(demo, done()["article docx"]))
    assert Document(str(document)).paragraphs[-1].text.endswith("roof of the boatyard.")
    page = html.document_fromstring(fetched(demo, done()["article html"]).decode())
    assert page.findall(".//p")[-1].text_content().endswith("roof of the boatyard.")
    reusing.keys(Keys.ESCAPE)
    reusing.click("Film of a text …")
    chooser = reusing.driver.find_element(By.CSS_SELECTOR, "input[aria-label='File with a text']")
    chooser.send_keys(str(document))
    text = reusing.find("Text of which a film is made")
    wait(lambda: "boatyard" in text.get_attribute("value"))
    reusing.click("Propose sentences")
    said = lambda told: [  # noqa: E731
        each.text.strip()
        for each in reusing.driver.find_elements(
            By.CSS_SELECTOR, f"[aria-label='Sentences of the text'] [role=button][aria-pressed={str(told).lower()}]"
        )
    ]
    wait(lambda: said(True))
    reusing.driver.find_elements(By.CSS_SELECTOR, "[role=button][aria-pressed=true]")[0].send_keys(Keys.ENTER)
    last = reusing.driver.find_elements(By.CSS_SELECTOR, "[aria-label='Sentences of the text'] [role=button]")[-1]
    if last.get_attribute("aria-pressed") == "false":
        last.click()
    reusing.click("Propose again")
    told = wait(lambda: said(True))
    assert told[-1] == "Rain ran down the roof of the boatyard."
    written(reusing, "Name of the film", "Told again")
    Select(reusing.find("Music under the film")).select_by_value("library")
    reusing.click("Make the film")
    reusing.see("Made the film “Told again”", 120)
    edition = next(each["id"] for each in episode(reusing, demo)["editions"] if each["name"] == "Told again")
    made = demo.get(f"/api/editions/{edition}")
    assert made["running_time"] == pytest.approx(40 * RATE, abs=4 * RATE)
    assert len(made["cutaways"]) >= len(said(True)) and len(made["beds"]) == 1
    with av.open(exported(reusing, demo, "MP4 video")) as film:
        assert (film.streams.video[0].width, film.streams.video[0].height) == (1280, 720)
        assert film.duration / av.time_base == pytest.approx(made["running_time"] / RATE, abs=0.3)
        seen = [frame.to_ndarray(format="rgb24").mean((0, 1)) for frame in film.decode(video=0) if frame.pts % 50 == 0]
    assert len({tuple(each.round(-1)) for each in seen}) > 4
