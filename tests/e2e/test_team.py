"""Several people with one episode, each in a browser of their own."""

from __future__ import annotations

import time

import pyotp
import pytest
from selenium.webdriver.common.by import By
from selenium.webdriver.common.keys import Keys
from selenium.webdriver.support.ui import Select

from jaskel.store import accounts
from jaskel.store.home import Home
from jaskel.store.models import Show

from .conftest import Person, Running, browser, copied
from .helpers import violations, wait

pytestmark = pytest.mark.e2e

PASSWORD = "ropes tar and nine kettles"


@pytest.fixture
def team(demo_data, tmp_path):
    """A Jaskel with accounts: Orla keeps it, Teo proofreads the demo's show."""
    running = Running(copied(demo_data, tmp_path / "data"), team=True)
    home = Home(running.settings)
    home.database.migrate()
    with home.database.write() as session:
        accounts.new_account(session, "Orla Quist", "orla@example.org", PASSWORD, keeper=True)
        teo = accounts.new_account(session, "Teo Marsh", "teo@example.org", PASSWORD)
        show = session.query(Show).one()
        accounts.set_role(session, show.id, teo.id, "proofreader")
        running.interview = next(each.id for each in show.episodes if each.title == "The dry hull, mixed")
    home.close()
    running.start()
    yield running
    running.stop()


@pytest.fixture
def other():
    """Somebody at another browser."""
    person = Person(browser())
    yield person
    person.driver.quit()


def sign_in(person, team, name):
    person.open(team.url)
    person.see("Sign in")
    field(person, "mail").send_keys(f"{name}@example.org")
    field(person, "password").send_keys(PASSWORD, Keys.ENTER)
    person.see("Ropewalk")


def field(person, name):
    return person.driver.find_element(By.NAME, name)


def open_interview(person, team):
    person.open(f"{team.url}/episodes/{team.interview}?stage=cut")
    person.word("kettle")


def tabs(person):
    return [each.text for each in person.driver.find_elements(By.CSS_SELECTOR, "nav[aria-label=Stages] button")]


class TestASecondFactor:
    def test_it_is_set_up_asked_for_and_taken_off(self, team, person):
        sign_in(person, team, "orla")
        person.click("Orla Quist")
        person.click("Set up a second factor")
        person.see("Or enter this key:")
        key = person.driver.find_element(By.CSS_SELECTOR, "[role=dialog] .font-mono")
        secret = key.text.replace(" ", "")
        assert violations(person) == []
        field(person, "code").send_keys("000000")
        field(person, "password").send_keys(PASSWORD, Keys.ENTER)
        person.see("Those are not the figures of this half minute.")
        field(person, "code").clear()
        step = step_now()  # figures count from the step before to the one after, and once: there are three to sign in with
        field(person, "code").send_keys(figures(secret, step - 1), Keys.ENTER)
        person.see("Set up the second factor.")
        person.click("Orla Quist")
        person.click("Sign out")
        person.see("Sign in")
        field(person, "mail").send_keys("orla@example.org")
        field(person, "password").send_keys(PASSWORD, Keys.ENTER)
        person.see("Six figures of the app")
        field(person, "code").send_keys(figures(secret, step), Keys.ENTER)
        person.see("Ropewalk")
        person.click("Orla Quist")
        person.see("Take the second factor off")
        person.click("Take the second factor off")
        person.see("Six figures of the app")
        assert violations(person) == []
        field(person, "code").send_keys(figures(secret, step + 1))
        field(person, "password").send_keys(PASSWORD, Keys.ENTER)
        person.see("Took the second factor off.")
        person.click("Orla Quist")
        person.click("Sign out")
        sign_in(person, team, "orla")


HALF_A_MINUTE = 30
TO_TYPE = 5


def step_now():
    """The half minute it is, by its number since 1970, once there is time in it to type its figures."""
    left = HALF_A_MINUTE - time.time() % HALF_A_MINUTE
    if left < TO_TYPE:
        time.sleep(left)
    return int(time.time() // HALF_A_MINUTE)


def figures(secret, step):
    """What an authenticator app shows in a half minute."""
    return pyotp.TOTP(secret).generate_otp(step)


class TestTwoPeople:
    def test_a_proofreader_suggests_and_an_editor_accepts(self, team, person, other):
        sign_in(person, team, "orla")
        sign_in(other, team, "teo")
        open_interview(person, team)
        open_interview(other, team)
        assert tabs(other) == ["Read", "Captions", "Export"] and len(tabs(person)) == 9

        # Delete suggests a cut where one may not cut; the editor sees it, and accepts it.
        before = person.running_time()
        other.word("kettle").click()
        other.keys("w", Keys.DELETE)
        other.see("Suggest a cut")
        other.type("Why it could go", "Nobody needs the kettle")
        other.click("Suggest the cut")
        other.see("Suggested a cut")
        # Where Teo is stands beside the same line, and covers nothing.
        line = "//*[@role='article'][.//*[normalize-space()='kettle']]"
        wait(lambda: person.driver.find_elements(By.XPATH, f"{line}//*[@aria-label='Teo Marsh is here']"))
        person.click("Suggested cut: Nobody needs the kettle")
        person.click("Accept the cut")
        wait(lambda: "struck" in person.classes("kettle"))
        wait(lambda: person.running_time() < before)
        wait(lambda: "struck" in other.classes("kettle"))

        # Words are the proofreader's own affair, and undone by them alone.
        other.word("closer").click()
        other.keys(Keys.ENTER)
        other.keys("nearer", Keys.ENTER)
        person.word("nearer")
        person.find("Undo").click()
        wait(lambda: "struck" not in person.classes("kettle"))
        person.word("nearer")

        # Each sees that the other is here.
        person.find("Teo Marsh is here")
        other.find("Orla Quist is here")
        assert not person.trouble() and not other.trouble()

    def test_what_is_not_for_a_proofreader_is_not_offered(self, team, person, other):
        for each, name in ((person, "orla"), (other, "teo")):
            sign_in(each, team, name)
            open_interview(each, team)
            each.click("Fine")
            wait(lambda each=each: each.driver.find_elements(By.CSS_SELECTOR, ".fine canvas"))
        edges = "[role=slider][aria-label*='the word']"
        wait(lambda: person.driver.find_elements(By.CSS_SELECTOR, edges))
        assert not other.driver.find_elements(By.CSS_SELECTOR, edges)
        for each in (person, other):
            each.click("Captions")
            each.click("Rules")
            each.see("As the show has them")
        person.see("Keep for the show")
        assert "Keep for the show" not in other.page
        other.click("Read")
        other.click("Tell voices apart")
        other.see("Listening to the voices")
        assert not person.trouble() and not other.trouble()

    def test_a_locked_passage_is_left_alone(self, team, person, other):
        sign_in(person, team, "orla")
        sign_in(other, team, "teo")
        open_interview(person, team)
        open_interview(other, team)
        person.word("kettle").click()
        person.keys("w")
        person.hold(Keys.SHIFT, "q")
        person.see("Locked a passage")
        other.find("Locked by Orla Quist")
        other.word("kettle").click()
        other.keys(Keys.ENTER)
        other.keys("pot", Keys.ENTER)
        other.see("Orla Quist has locked this passage")
        person.hold(Keys.SHIFT, "q")
        person.see("Unlocked a passage")

    def test_notes_are_given_on_answered_and_ticked_off(self, team, person, other):
        sign_in(person, team, "orla")
        sign_in(other, team, "teo")
        open_interview(person, team)
        person.word("kettle").click()
        person.hold(Keys.CONTROL, "m")
        person.type("Note", "Is it a kettle?")
        Select(person.find("For")).select_by_visible_text("for Teo Marsh")
        person.click("Add note")
        open_interview(other, team)
        other.click("Note: Is it a kettle?")
        other.type("Answer", "It is.")
        other.click("Send")
        other.see("Teo Marsh: It is.")
        other.keys(Keys.ESCAPE)
        other.hold(Keys.SHIFT, "t")
        other.click("Done: Is it a kettle?")
        other.see("No open notes.")
        assert not other.trouble()


class TestComingIn:
    def test_by_an_invitation_and_as_a_guest(self, team, person, other):
        sign_in(person, team, "orla")
        person.click("More about Ropewalk")
        person.driver.find_element(By.XPATH, "//*[@role='menuitem'][.='People']").click()
        person.type("Who it is for", "Ann Reed")
        Select(person.find("Role")).select_by_visible_text("Exporter")
        person.click("Make a link")
        person.see("Send it to them")
        assert violations(person) == []
        other.open(person.find("Link").get_attribute("value"))
        other.see("Join “Ropewalk”")
        assert violations(other) == []
        for name, typed in [("name", "Ann Reed"), ("mail", "ann@example.org"), ("password", "password1234")]:
            field(other, name).send_keys(typed)
        other.click("Make an account")
        other.see("easily guessed")
        field(other, "password").clear()
        field(other, "password").send_keys("gulls over the wet slipway", Keys.ENTER)
        other.see("Stories from the community boatyard")
        open_interview(other, team)
        assert tabs(other) == ["Export"]
        other.open(team.url)
        other.click("Ann Reed")
        other.driver.find_element(By.XPATH, "//*[@role='menuitem'][.='Sign out']").click()
        other.see("Sign in")

        person.click("Close")
        open_interview(person, team)
        person.word("kettle").click()
        person.keys("w", Keys.DELETE)
        wait(lambda: "struck" in person.classes("kettle"))
        person.hold(Keys.CONTROL, "e")
        person.type("Who the link is for", "Press")
        person.click("Make a link")
        person.see("Send it to your guests")
        other.open(person.find("Link").get_attribute("value"))
        field(other, "name").send_keys("Pat", Keys.ENTER)
        other.see("Your notes")
        assert "kettle" not in other.driver.find_element(By.TAG_NAME, "main").text.split()
        assert violations(other) == []
        other.click("Play")
        wait(lambda: other.driver.find_elements(By.CSS_SELECTOR, "[data-now]"))
        other.click("Pause")
        other.click("Comment on this passage")
        other.type("Your comment", "A fine beginning")
        other.click("Comment")
        other.see("A fine beginning")
        person.click("Close")
        person.find("Note: A fine beginning")
        # The password that was too weak is all a browser complains of.
        assert [each for each in other.trouble() if "invitations/join" not in each] == [] and not person.trouble()
