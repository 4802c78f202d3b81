"""For everybody: what axe-core finds in each stage and view, in both themes, and what a screen reader is given to read."""

import re

import pytest
from selenium.webdriver.common.by import By
from selenium.webdriver.common.keys import Keys

from .helpers import violations, wait

STAGES = ("Gather", "Read", "Cut", "Tidy", "Sound", "Picture", "Captions", "Reuse", "Export")


OPENS = {"Picture": ("Framings of the show …", "New framing", "Over it", "Pictures", "House style …")}
"""What of a bench is opened by hand."""


def bench(person, stage: str) -> None:
    person.click(stage)
    wait(lambda: person.driver.find_element(By.CSS_SELECTOR, f"section[aria-label={stage}]"))
    for name in OPENS.get(stage, ()):
        person.click(name)
    if stage == "Picture":
        person.find("Lay “", whole=False)  # what the library has is there


@pytest.fixture
def reading(opened):
    yield opened
    assert opened.trouble() == []


def test_nothing_is_found_against_any_view(reading):
    found = {}
    reading.word("kettle").click()
    reading.keys(Keys.DELETE)
    reading.see("saved,")
    for theme in ("light", "dark"):
        for stage in STAGES:
            bench(reading, stage)
            found[theme, stage] = violations(reading)
        for magnification in ("Prose", "Fine", "Score"):
            reading.click(magnification)
            found[theme, magnification] = violations(reading)
        for panel in ("h", "e", "k"):
            reading.hold(Keys.CONTROL, panel)
            wait(lambda: reading.driver.find_element(By.CSS_SELECTOR, "[role=dialog]"))
            found[theme, f"Ctrl+{panel}"] = violations(reading)
            reading.keys(Keys.ESCAPE)
            wait(lambda: not reading.driver.find_elements(By.CSS_SELECTOR, "[role=dialog]"))
        reading.click("Light or dark")
    reading.open(reading.demo.url)
    reading.see("The dry hull")
    found["light", "library"] = violations(reading)
    assert {view: each for view, each in found.items() if each} == {}


def test_the_transcript_is_a_document_to_a_screen_reader(reading):
    reading.word("kettle").click()
    reading.keys(Keys.DELETE)
    reading.see("saved,")
    tree = reading.driver.execute_cdp_cmd("Accessibility.getFullAXTree", {})["nodes"]
    nodes = {node["nodeId"]: node for node in tree if not node.get("ignored")}
    named = lambda role: [node for node in nodes.values() if node["role"]["value"] == role]  # noqa: E731
    assert [node["name"]["value"] for node in named("document")] == ["Transcript"]
    passages = [node["name"]["value"] for node in named("article")]
    assert len(passages) > 5
    assert all(name.split(", ")[-1].count(":") == 1 for name in passages)
    assert len(named("deletion")) == 1
    rests = [node["name"]["value"] for node in named("image") if "rest of" in node["name"]["value"]]
    assert "rest of 1.1 seconds" in rests
    assert any(node.get("description", {}).get("value") == "unsure" for node in tree)


def test_nothing_is_written_smaller_than_twelve_pixels(reading):
    small = """
    const found = [];
    for (const element of document.querySelectorAll('body *')) {
      const own = [...element.childNodes].some((node) => node.nodeType === 3 && node.textContent.trim());
      const size = parseFloat(getComputedStyle(element).fontSize);
      const drawn = element.getClientRects().length && !element.closest('svg');
      if (own && size < 12 && drawn) found.push(size + ' ' + element.outerHTML.slice(0, 120));
    }
    return found;
    """
    for stage in STAGES:
        bench(reading, stage)
        assert reading.driver.execute_script(small) == []
    reading.click("Fine")
    wait(lambda: reading.driver.find_element(By.CSS_SELECTOR, ".fine .word"))
    assert reading.driver.execute_script(small) == []


WIDE = """
return [...document.querySelectorAll('button, input, select, a, [role=slider]')].filter((each) => {
  const { width, left, right } = each.getBoundingClientRect();
  return width && (left < -1 || right > innerWidth + 1);
}).map((each) => each.ariaLabel || each.textContent);
"""


@pytest.mark.parametrize(("width", "height", "magnified"), [(1024, 700, 1), (640, 400, 2)])
def test_a_small_or_magnified_window_loses_nothing(reading, width, height, magnified):
    size = {"width": width, "height": height, "deviceScaleFactor": magnified, "mobile": False}
    reading.driver.execute_cdp_cmd("Emulation.setDeviceMetricsOverride", size)
    try:
        for stage in STAGES:
            bench(reading, stage)
            assert reading.driver.execute_script(WIDE) == []
        for name in ("Edition Programme", "Place in the whole episode", "Light or dark"):
            assert reading.find(name).rect["width"] > 20
        reading.click("Edition Programme")
        wait(lambda: reading.driver.find_element(By.CSS_SELECTOR, "[role=dialog]"))
        assert reading.driver.execute_script(WIDE) == []
        reading.keys(Keys.ESCAPE)
        reading.click("Cut")
        reading.find("Set target").location_once_scrolled_into_view  # noqa: B018
        reading.find("Set target")
    finally:
        reading.driver.execute_cdp_cmd("Emulation.clearDeviceMetricsOverride", {})


# A group of which one is down hands the focus on to that one.
TABBABLE = """
const inside = document.querySelector(arguments[0]);
const every = [...inside.querySelectorAll('button, input, select, a[href], summary, textarea, [tabindex="0"]')];
const group = (each) => each.type === 'radio' || each.role === 'radiogroup';
window.wanted = every.filter((each) => each.tabIndex >= 0 && !each.disabled && each.checkVisibility() && !group(each));
window.reached = new Set();
return window.wanted.length;
"""
REACHED = "window.reached.add(document.activeElement); return document.activeElement.tagName;"
MISSED = "return window.wanted.filter((each) => !window.reached.has(each)).map((each) => each.outerHTML.slice(0, 200));"


def tabbed_through(person, inside: str) -> list[str]:
    """What the Tab key does not reach of what can be reached inside an element."""
    count = person.driver.execute_script(TABBABLE, inside)
    assert count > 0
    for _ in range(count + 40):
        person.keys(Keys.TAB)
        person.driver.execute_script(REACHED)
        if not person.driver.execute_script(MISSED):
            return []
    return person.driver.execute_script(MISSED)


def test_a_tour_by_keyboard_alone(reading):
    driver = reading.driver
    said = driver.find_element(By.CSS_SELECTOR, "main [aria-live]")
    reading.keys(Keys.ARROW_RIGHT)
    wait(lambda: said.get_attribute("textContent"))
    first = said.get_attribute("textContent")
    reading.keys(Keys.ARROW_DOWN)
    wait(lambda: said.get_attribute("textContent") != first)
    for number, stage in enumerate(STAGES, 1):
        driver.execute_script("document.activeElement.blur()")
        reading.keys(str(number))
        wait(lambda stage=stage: driver.find_element(By.CSS_SELECTOR, f"section[aria-label={stage}]"))
        assert tabbed_through(reading, "aside") == [], stage
    driver.execute_script("document.activeElement.blur()")
    for panel in ("h", "e", "k"):
        reading.hold(Keys.CONTROL, panel)
        wait(lambda: driver.find_element(By.CSS_SELECTOR, "[role=dialog]"))
        assert tabbed_through(reading, "[role=dialog]") == [], panel
        assert driver.execute_script("return Boolean(document.activeElement.closest('[role=dialog]'))")
        reading.keys(Keys.ESCAPE)
        wait(lambda: not driver.find_elements(By.CSS_SELECTOR, "[role=dialog]"))
    # The place in the whole episode is a slider that says where one is.
    strip = reading.find("Place in the whole episode")
    driver.execute_script("arguments[0].focus()", strip)
    reading.keys(Keys.HOME, Keys.PAGE_DOWN, Keys.ARROW_RIGHT)
    wait(lambda: re.fullmatch(r"0:3\d of 5:35", strip.get_attribute("aria-valuetext")))
    assert strip.get_attribute("aria-valuenow").startswith("3")
    assert strip.get_attribute("aria-valuemax") in ("335", "336")
