"""Shaping the episode on the page, as an editor does: with mouse and keys, looking and listening."""

from __future__ import annotations

import json
import urllib.request

import pytest
from conftest import excerpt
from selenium.webdriver import ActionChains, Keys
from selenium.webdriver.common.by import By
from selenium.webdriver.support.ui import Select

from .helpers import head, wait

pytestmark = pytest.mark.e2e

SETTLED = 0.13 * 48_000
"""Ticks. A splice that settled by itself reaches up to 60 ms further, and may fade for 80 instead of 10 ms."""


@pytest.fixture
def cutting(opened):
    return opened


def seconds(person) -> float:
    minutes, rest = person.running_time().split(":")
    return 60 * int(minutes) + float(rest)


def order(person, *words: str) -> bool:
    """Whether words stand on the page in this order."""
    said = person.words()
    places = [said.index(word) if word in said else -1 for word in words]
    return -1 not in places and places == sorted(places)


def written_over(field, text: str) -> None:
    """Type something in the place of what a field holds, and press Enter."""
    field.send_keys(Keys.CONTROL, "a")
    field.send_keys(text + Keys.ENTER)


def sentence(person, word: str) -> None:
    person.word(word).click()
    person.keys("w")


class TestWords:
    def test_a_sentence_is_lifted_out_of_sight_and_put_back_by_its_mark(self, cutting):
        sentence(cutting, "kettle")
        cutting.click("Lift")
        mark = cutting.find("Lifted: Um, did you bring the kettle in?")
        assert not cutting.driver.find_elements(By.XPATH, "//span[contains(@class,'tok')][normalize-space()='kettle']")
        mark.click()
        cutting.keys("b")
        cutting.word("kettle")

    def test_a_passage_is_dragged_to_another_place_and_back_by_undo(self, cutting):
        assert order(cutting, "Mine", "Right")
        time_of = cutting.word("Mine").find_element(By.XPATH, "./ancestor::div[contains(@class,'grid')][1]//*[@data-passage]")
        target = cutting.word("Welcome")
        left = -target.size["width"] // 2 + 2
        ActionChains(cutting.driver).click_and_hold(time_of).move_by_offset(12, 12).move_to_element_with_offset(
            target, left, 0
        ).pause(0.2).release().perform()
        cutting.see("Moved “Mine is red as well.”")
        wait(lambda: order(cutting, "Right", "Mine", "Welcome"))
        cutting.hold(Keys.CONTROL, "z")
        wait(lambda: order(cutting, "Mine", "Right"))

    def test_copied_here_and_pasted_in_another_episode(self, cutting):
        sentence(cutting, "kettle")
        cutting.hold(Keys.CONTROL, "c")
        cutting.see("Copied 0:0")
        show = cutting.demo.get("/api/shows")["shows"][0]["id"]
        other = cutting.demo.post(f"/api/shows/{show}/episodes", {"title": "Best of"})
        cutting.open(f"{cutting.demo.url}/episodes/{other['id']}")
        cutting.see("An empty page")
        cutting.hold(Keys.CONTROL, "v")
        cutting.word("kettle")
        cutting.click("Gather")
        cutting.see("pasted from another episode")

    def test_cut_and_pasted_further_on_and_more_collected(self, cutting):
        whole = seconds(cutting)
        sentence(cutting, "kettle")
        cutting.hold(Keys.CONTROL, "x")
        cutting.find("Lifted: Um, did you bring the kettle in?")
        sentence(cutting, "Mine")
        ActionChains(cutting.driver).key_down(Keys.CONTROL).key_down(Keys.SHIFT).send_keys("c").key_up(Keys.SHIFT).key_up(
            Keys.CONTROL
        ).perform()
        cutting.see("Collected")
        cutting.word("Welcome").click()
        cutting.hold(Keys.CONTROL, "v")
        wait(lambda: order(cutting, "Right", "kettle", "Welcome"))
        wait(lambda: seconds(cutting) > whole)

    def test_everything_before_and_after_and_only_what_is_selected(self, cutting):
        whole = seconds(cutting)
        cutting.word("Welcome").click()
        cutting.keys("[")
        wait(lambda: "struck" in cutting.classes("kettle"))
        assert "struck" not in cutting.classes("Welcome")
        wait(lambda: 16 <= whole - seconds(cutting) <= 18)
        cutting.hold(Keys.CONTROL, "z")
        wait(lambda: "struck" not in cutting.classes("kettle"))
        sentence(cutting, "kettle")
        cutting.hold(Keys.SHIFT, "k")
        wait(lambda: seconds(cutting) < 5)
        assert "struck" not in cutting.classes("kettle")

    def test_selected_by_sentence_passage_and_between_two_marks(self, cutting):
        def picked():
            return [
                e.text for e in cutting.driver.find_elements(By.CSS_SELECTOR, ".tok.picked") if e.text.strip(" 0123456789.")
            ]

        sentence(cutting, "closer")
        wait(lambda: picked() == ["Do", "you", "want", "me", "closer", "to", "it?"])
        cutting.keys("w")
        wait(lambda: picked()[-1] == "are.")
        cutting.keys(Keys.ESCAPE)
        cutting.word("red").click()
        cutting.keys("i")
        cutting.word("kettle").click()
        cutting.keys("o")
        wait(lambda: (picked()[0], picked()[-1]) == ("red", "kettle"))

    def test_tried_without_changing_anything(self, cutting):
        before = head(cutting)["revision"]
        sentence(cutting, "kettle")
        cutting.click("Try")
        cutting.find("Pause")
        wait(lambda: cutting.driver.find_elements(By.CSS_SELECTOR, ".tok[data-now]"))
        cutting.find("Play", 60)
        assert head(cutting)["revision"] == before


class TestPointing:
    """What the mouse alone leads to: a click, a double click and a right click."""

    def test_a_rest_is_shortened_a_word_retyped_and_all_before_a_word_struck(self, cutting):
        rest = cutting.word("Welcome").find_element(By.XPATH, "./preceding::span[contains(@class,'rest')][1]")
        rest.click()
        whole = head(cutting)["running_time"]
        written_over(cutting.find("Seconds of the rest"), "0.5")
        wait(lambda: head(cutting)["running_time"] < whole - 48_000)
        assert not cutting.driver.find_elements(By.CSS_SELECTOR, "[aria-label='Seconds of the rest']")

        ActionChains(cutting.driver).double_click(cutting.word("kettle")).perform()
        written_over(cutting.find("New text"), "teapot")
        cutting.word("teapot")

        welcome = cutting.word("Welcome")
        time_of = "./ancestor::div[@role='article']//*[@data-passage]"
        assert welcome.find_element(By.XPATH, time_of).text != "0:00"
        ActionChains(cutting.driver).context_click(welcome).perform()
        menu = cutting.find("What can be done here")
        assert "Put back" not in menu.text and "Retype the selection" in menu.text
        menu.find_element(By.XPATH, ".//*[contains(text(), 'Strike everything before here')]").click()
        wait(lambda: "struck" in cutting.classes("teapot"))
        # The margin tells programme time, which begins here now, or on request where that is in the recording.
        margin = lambda: cutting.word("Welcome").find_element(By.XPATH, time_of).text  # noqa: E731
        wait(lambda: margin() == "0:00")
        cutting.hold(Keys.SHIFT, "m")
        wait(lambda: margin() != "0:00")
        ActionChains(cutting.driver).context_click(cutting.word("teapot")).perform()
        assert "Put back the selection" in cutting.find("What can be done here").text
        cutting.keys(Keys.ESCAPE)
        assert not cutting.trouble()


class TestListening:
    def test_wound_back_faster_and_on_again(self, cutting):
        cutting.word("Welcome").click()
        begun = cutting.place()
        cutting.keys("j")
        wait(lambda: cutting.place() < begun - 1)
        cutting.keys("j")
        wait(lambda: cutting.place() < begun - 4)
        cutting.keys("l")
        back = cutting.place()
        wait(lambda: cutting.place() > back + 0.5)
        cutting.keys("k")
        cutting.find("Play")
        assert not cutting.trouble()

    def test_wound_back_to_the_beginning_it_stops(self, cutting):
        cutting.word("Mine").click()
        cutting.keys("j", "j", "j")
        cutting.find("Pause")
        cutting.find("Play")
        assert cutting.place() < 0.5


class TestFine:
    @pytest.fixture
    def fine(self, cutting):
        cutting.word("kettle").click()
        cutting.keys(Keys.DELETE)
        # The page strikes at once; what is measured below is what the server has made of it.
        wait(lambda: head(cutting)["struck"])
        cutting.click("Fine")
        cutting.word("kettle")
        return cutting

    def edge(self, person, label: str):
        return wait(
            lambda: next(iter(person.driver.find_elements(By.CSS_SELECTOR, f"[role=slider][aria-label^='{label}']")), None)
        )

    def drag(self, person, label: str, by: int, *held: str) -> None:
        def dragged() -> bool:
            chain = ActionChains(person.driver)
            for key in held:
                chain.key_down(key)
            chain.drag_and_drop_by_offset(self.edge(person, label), by, 0)
            for key in held:
                chain.key_up(key)
            chain.perform()
            return True

        wait(dragged)

    def test_an_edge_is_dragged_and_nudged_and_heard(self, fine):
        (begin, end), *_ = head(fine)["struck"]
        self.drag(fine, "End before", -60)
        wait(lambda: head(fine)["struck"][0][0] < begin - 2400)
        fine.see("Moved the edges of the splice")
        fine.find("Pause")
        fine.keys("k")
        dragged = head(fine)["struck"][0][0]
        self.edge(fine, "Beginning after").send_keys(Keys.ARROW_RIGHT)
        wait(lambda: head(fine)["struck"][0] == [dragged, end + 480])
        fine.hold(Keys.CONTROL, "z", "z")
        wait(lambda: head(fine)["struck"][0] == [begin, end])

    def test_both_edges_are_rolled_by_dragging_and_what_follows_is_slipped(self, fine):
        wait(lambda: len(head(fine)["struck"]) == 1)
        ((begin, end),) = head(fine)["struck"]
        whole = head(fine)["running_time"]
        self.drag(fine, "End before", -40, Keys.ALT)
        wait(lambda: head(fine)["struck"][0][0] < begin - 2400)
        rolled = head(fine)["struck"][0]
        assert rolled[1] - rolled[0] == end - begin
        assert abs(head(fine)["running_time"] - whole) <= SETTLED
        fine.hold(Keys.CONTROL, "z")
        wait(lambda: head(fine)["struck"] == [[begin, end]])
        fine.find("Play")  # the splice is still heard when it is undone: that ends by itself
        assert fine.place() < 20
        fine.word("top.").click()
        fine.click("Score")
        fine.word("top.").click()
        fine.keys(Keys.DELETE)
        wait(lambda: len(head(fine)["struck"]) == 2)
        fine.see("of 2 ·")  # the page knows of both splices

        def at_the_first() -> bool:
            there = "1 of 2 ·" in fine.page
            if not there:
                fine.keys(Keys.SHIFT + "n")
            return there

        wait(at_the_first)
        whole, second = head(fine)["running_time"], head(fine)["struck"][1]
        fine.click("What follows (slip): 40 ms")
        wait(lambda: head(fine)["struck"] == [[begin, end + 1920], [second[0] + 1920, second[1]]])
        assert abs(head(fine)["running_time"] - whole) <= 2 * SETTLED

    def test_sound_within_a_rest_is_struck(self, fine):
        lines = fine.driver.find_elements(By.CSS_SELECTOR, ".fine canvas")
        chain = ActionChains(fine.driver).move_to_element_with_offset(lines[0], -300, 0).click_and_hold()
        chain.move_by_offset(40, 0).pause(0.1).release().perform()
        fine.keys(Keys.DELETE)
        wait(lambda: len(head(fine)["struck"]) == 2)
        begin, end = head(fine)["struck"][0]
        assert 0.05 < (end - begin) / 48_000 < 0.4

    def test_the_end_of_a_word_is_put_right(self, fine):
        def length():
            edition = fine.demo.get(f"/api/episodes/{fine.episode}")["editions"][0]["id"]
            page = fine.demo.get(f"/api/editions/{edition}/page")
            return next(t["len"] for p in page["passages"] for t in p["tokens"] if t["text"] == "bring")

        before = length()
        self.drag(fine, "End of the word bring", -14)
        wait(lambda: length() < before)

    def test_closer_and_wider_by_key(self, fine):
        many = len(fine.driver.find_elements(By.CSS_SELECTOR, ".fine .word"))
        fine.keys("+")
        wait(lambda: len(fine.driver.find_elements(By.CSS_SELECTOR, ".fine .word")) < many)


class TestRestsAndSplices:
    def test_a_rest_is_made_shorter_longer_and_put_in(self, cutting):
        rest = cutting.word("Welcome").find_element(By.XPATH, "./preceding::span[contains(@class,'rest')][1]")
        ActionChains(cutting.driver).double_click(rest).perform()
        field = cutting.find("Seconds of the rest")
        whole = head(cutting)["running_time"]
        kept = float(field.get_attribute("value"))
        assert kept > 2
        for wanted in (0.5, 3.5):
            field = cutting.find("Seconds of the rest")
            field.send_keys(Keys.CONTROL, "a")
            field.send_keys(str(wanted))
            cutting.click("Set")
            wait(lambda wanted=wanted: abs((head(cutting)["running_time"] - whole) / 48_000 - (wanted - kept)) < 0.04)
            cutting.hold(Keys.CONTROL, "z")
            wait(lambda: head(cutting)["running_time"] == whole)
        cutting.word("Welcome").click()
        cutting.hold(Keys.SHIFT, "r")
        cutting.see("Put in a rest of 0.5 s")

    def test_a_splice_is_heard_alone_and_made_otherwise(self, cutting):
        cutting.word("kettle").click()
        cutting.keys(Keys.DELETE)
        cutting.see("1 of 1")
        cutting.keys("s")
        cutting.find("Pause")
        places = []
        wait(lambda: places.append(cutting.place()) or (len(places) > 3 and places[-1] < places[-2] - 0.5))
        cutting.keys("k")
        before = head(cutting)["running_time"]
        field = cutting.find("Crossfade in milliseconds")
        field.send_keys(Keys.CONTROL, "a")
        field.send_keys("80", Keys.ENTER)
        wait(lambda: head(cutting)["running_time"] == before + 70 * 48)
        lead = cutting.find("Sound before picture in milliseconds")
        lead.send_keys(Keys.CONTROL, "a")
        lead.send_keys("200", Keys.ENTER)
        cutting.click("Reset this splice")
        wait(lambda: head(cutting)["running_time"] == before)

    def test_parted_where_one_is(self, cutting):
        cutting.word("Welcome").click()
        cutting.keys("y")
        splice = wait(lambda: cutting.driver.find_element(By.CSS_SELECTOR, ".lane-between[data-look=splice]"))
        assert abs(splice.rect["x"] + splice.rect["width"] / 2 - cutting.word("Welcome").rect["x"]) <= 1


class TestStaves:
    def test_one_voice_is_muted_where_it_was_selected_on_its_stave(self, person, empty, tmp_path):
        show = empty.post("/api/shows", {"name": "Ropewalk"})["id"]
        episode = empty.post(f"/api/shows/{show}/episodes", {"title": "Two microphones"})["id"]
        tracks = []
        for name in ("interview-orla.ogg", "interview-teo.ogg"):
            url = f"{empty.url}/api/episodes/{episode}/recordings?name={name}&placed=false&transcribe=false"
            sound = excerpt(tmp_path / name, name, 60).read_bytes()
            request = urllib.request.Request(url, sound, {"Content-Type": "application/octet-stream"})
            tracks.append(json.loads(urllib.request.urlopen(request).read())["id"])
        session = empty.post(f"/api/episodes/{episode}/sessions", {"recordings": tracks})["id"]
        wait(lambda: empty.get(f"/api/episodes/{episode}")["sessions"][0]["state"] == "proposed", 90)
        empty.post(f"/api/sessions/{session}/join", {})
        person.open(f"{empty.url}/episodes/{episode}")
        person.click("Fine")
        line = wait(lambda: next(iter(person.driver.find_elements(By.CSS_SELECTOR, ".fine canvas")), None))
        chain = ActionChains(person.driver).move_to_element_with_offset(line, -200, 20).click_and_hold()
        chain.move_by_offset(150, 0).pause(0.1).release().perform()
        person.click("Cut")
        person.see("one voice is selected")
        edition = empty.get(f"/api/episodes/{episode}")["editions"][0]["id"]
        button = wait(lambda: person.driver.find_elements(By.CSS_SELECTOR, "[aria-label^='Mute']"))
        assert len(button) == 1
        button[0].click()
        (level,) = wait(lambda: empty.get(f"/api/editions/{edition}")["levels"])
        assert (level["track"], level["decibels"]) == (tracks[1], -120)
        person.see("muted")


class TestTheWhole:
    def test_a_target_is_shown_against_the_running_time(self, cutting):
        cutting.type("Target length", "4:30" + Keys.ENTER)
        wait(lambda: "over 4:30" in cutting.find("Target").text)

    def test_cards_count_in_the_length_and_are_seen(self, cutting):
        whole = seconds(cutting)
        for name, text in (("opening", "4"), ("closing", "3")):
            field = cutting.find(f"Seconds of the {name} card")
            field.send_keys(Keys.CONTROL, "a")
            field.send_keys(text, Keys.ENTER)
            wait(lambda name=name: head(cutting)[name] > 0)
        wait(lambda: 6.5 <= seconds(cutting) - whole <= 7.5)
        cutting.keys(Keys.ESCAPE)
        cutting.word("Welcome").click()
        card = cutting.driver.find_element(By.CSS_SELECTOR, "figure[aria-label=Monitor] img")
        wait(lambda: card.value_of_css_property("opacity") == "0")
        cutting.keys(Keys.HOME)
        wait(lambda: card.value_of_css_property("opacity") == "1")

    def test_an_edition_has_its_own_shape_of_picture(self, cutting):
        cutting.hold(Keys.CONTROL, "e")
        cutting.type("Name of the new edition", "Clip")
        cutting.click("Copy of this one")
        cutting.find("Edition Clip")
        cutting.hold(Keys.CONTROL, "e")
        Select(cutting.find("Picture of Clip")).select_by_visible_text("upright, 9:16")
        cutting.keys(Keys.ESCAPE)
        monitor = wait(lambda: cutting.find("Monitor"))
        wait(lambda: abs(monitor.rect["width"] / monitor.rect["height"] - 9 / 16) < 0.02)
        shapes = {each["name"]: each["shape"] for each in cutting.demo.get(f"/api/episodes/{cutting.episode}")["editions"]}
        assert shapes == {"Programme": "as recorded", "Clip": "upright"}

    def test_an_edition_is_copied_compared_and_left_again(self, cutting):
        cutting.hold(Keys.CONTROL, "e")
        cutting.type("Name of the new edition", "Trailer")
        cutting.click("Copy of this one")
        cutting.find("Edition Trailer")
        sentence(cutting, "kettle")
        cutting.keys(Keys.DELETE)
        wait(lambda: "struck" in cutting.classes("kettle"))
        cutting.hold(Keys.CONTROL, "e")
        # It is drawn anew once both have been compared.
        wait(lambda: "did you bring the kettle in?" in cutting.find("Only in Programme").text)
        cutting.click("Programme")
        cutting.find("Edition Programme")
        wait(lambda: "struck" not in cutting.classes("kettle"))

    def test_a_deleted_edition_comes_back(self, cutting):
        cutting.hold(Keys.CONTROL, "e")
        cutting.type("Name of the new edition", "Trailer")
        cutting.click("Copy of this one")
        cutting.find("Edition Trailer")
        cutting.hold(Keys.CONTROL, "e")
        cutting.click("Delete Programme")
        wait(lambda: not cutting.driver.find_elements(By.XPATH, "//button[@aria-label='Delete Programme']"))
        cutting.keys(Keys.ESCAPE)
        cutting.see("Deleted the edition “Programme”")
        cutting.driver.find_element(By.CSS_SELECTOR, "[role=status] button").click()
        episode = f"/api/episodes/{cutting.episode}"
        wait(lambda: {each["name"] for each in cutting.demo.get(episode)["editions"]} == {"Programme", "Trailer"})

    def test_a_good_stretch_is_marked_seen_moved_and_taken_off(self, cutting):
        def washed() -> float:
            return sum(each.rect["width"] for each in cutting.driver.find_elements(By.CSS_SELECTOR, ".wash[data-colour=moss]"))

        sentence(cutting, "kettle")
        cutting.click("Mark as good, in moss")
        wait(washed)
        cutting.word("top.").click()
        cutting.find("Select, moss").click()
        wait(lambda: "picked" in cutting.classes("kettle"))
        # Its end is dragged to another word, given up once by Escape.
        whole = washed()
        end, word = cutting.find("End: Select, moss"), cutting.word("bring")
        drag = ActionChains(cutting.driver).click_and_hold(end).move_to_element(word).pause(0.1)
        drag.perform()
        wait(lambda: washed() < whole)
        cutting.keys(Keys.ESCAPE)
        wait(lambda: washed() == whole)
        ActionChains(cutting.driver).release().perform()
        ActionChains(cutting.driver).click_and_hold(end).move_to_element(word).pause(0.1).release().perform()
        cutting.see("Moved an end of the select")
        shorter = wait(lambda: washed() < whole and washed())
        cutting.hold(Keys.CONTROL, "z")
        wait(lambda: washed() == whole)
        cutting.click("Redo")
        wait(lambda: washed() == shorter)
        cutting.find("Select, moss").click()
        cutting.click("Remove")
        wait(lambda: not washed())
        cutting.hold(Keys.CONTROL, "z")
        wait(washed)
        assert head(cutting)["revision"] == 1

    def test_the_history_is_read_and_gone_back_in_without_losing_what_came_after(self, cutting):
        for text in ("kettle", "top."):
            cutting.word(text).click()
            cutting.keys(Keys.DELETE)
            wait(lambda text=text: "struck" in cutting.classes(text))
        cutting.click("History")
        cutting.type("Your name", "Orla")
        steps = cutting.find("Steps")
        wait(lambda: "struck “kettle”" in steps.text)
        steps.find_element(By.XPATH, ".//button[contains(., 'struck “kettle”')]").click()
        cutting.type("Name of the version", "First listen" + Keys.ENTER)
        wait(lambda: "First listen" in cutting.find("Steps").text)
        cutting.click("Compare with now")
        wait(lambda: "top." in cutting.find("Only then").text)
        cutting.click("Go back to this")
        wait(lambda: "struck" not in cutting.classes("top."))
        assert "struck" in cutting.classes("kettle")
        cutting.click("History")
        wait(lambda: "Orla" in cutting.find("Steps").text and "struck “top.”" in cutting.find("Steps").text)
        cutting.keys(Keys.ESCAPE)
        cutting.hold(Keys.CONTROL, "z")
        wait(lambda: "struck" in cutting.classes("top."))

    def test_every_action_by_name_and_keys_of_ones_own(self, cutting):
        cutting.word("kettle").click()
        cutting.hold(Keys.CONTROL, "k")
        cutting.type("Action", "strike the sel" + Keys.ENTER)
        wait(lambda: "struck" in cutting.classes("kettle"))
        cutting.keys("?")
        cutting.click("Key for Put back the selection")
        cutting.keys("g")
        wait(lambda: cutting.find("Key for Put back the selection").text == "G")
        cutting.keys(Keys.ESCAPE)
        cutting.word("kettle").click()
        cutting.keys("g")
        wait(lambda: "struck" not in cutting.classes("kettle"))

    def test_a_note_is_written_in_the_margin_and_deleted(self, cutting):
        cutting.word("kettle").click()
        cutting.hold(Keys.CONTROL, "m")
        cutting.type("Note", "Is that the tea again?")
        cutting.click("Add note")
        cutting.find("Note: Is that the tea again?").click()
        # What is being written in it stays when other marks change meanwhile.
        cutting.find("Note").send_keys(" Ask Orla.")
        stretch = {"ranges": [{"begin": 0, "end": 96_000}], "colour": "moss", "edition": head(cutting)["id"]}
        cutting.demo.post(f"/api/episodes/{cutting.episode}/selects", stretch)
        wait(lambda: cutting.driver.find_elements(By.CSS_SELECTOR, ".lane-bracket"))
        assert cutting.find("Note").get_attribute("value") == "Is that the tea again? Ask Orla."
        cutting.click("Delete note")
        wait(lambda: not cutting.driver.find_elements(By.CSS_SELECTOR, "[aria-label^='Note: ']"))
