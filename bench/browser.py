"""What a person waits for at the page of a three-hour episode, in headless Chromium."""

from __future__ import annotations

import os
import shutil
import socket
import statistics
import subprocess
import sys
import time
import urllib.request
from collections.abc import Iterator
from contextlib import contextmanager
from pathlib import Path

import psutil
from selenium import webdriver
from selenium.webdriver import ActionChains, Keys
from selenium.webdriver.chrome.service import Service
from selenium.webdriver.common.by import By
from selenium.webdriver.support.ui import WebDriverWait

from bench.figure import Figure
from bench.long_episode import long_episode
from jaskel.settings import Settings

FLAGS = (
    "--headless=new --no-sandbox --disable-gpu --disable-quic --no-first-run --disable-background-networking "
    "--disable-component-update --disable-sync --window-size=1280,800 --autoplay-policy=no-user-gesture-required"
)
FIRST_TEXT = """
const done = arguments[0];
const look = () => (document.querySelector(".tok") ? done(performance.now()) : requestAnimationFrame(look));
look();
"""
SCROLL = """
const done = arguments[0], page = document.querySelector(".page");
let frames = 0, most = 0;
const begun = performance.now();
const step = () => {
  page.scrollTop += 40;
  frames += 1;
  if (frames % 20 === 0) most = Math.max(most, document.querySelectorAll(".tok").length);
  const taken = performance.now() - begun;
  if (taken < 4000) requestAnimationFrame(step);
  else done([frames / (taken / 1000), most]);
};
requestAnimationFrame(step);
"""
WATCH = """
window.painted = null;
let pressed = 0;
window.addEventListener("keydown", () => (pressed = performance.now()), { capture: true, once: true });
new MutationObserver((_, watch) => {
  if (!pressed || !document.querySelector(".tok.struck.picked, .tok.now.struck")) return;
  watch.disconnect();
  requestAnimationFrame(() => (window.painted = performance.now() - pressed));
}).observe(document.querySelector(".page"), { subtree: true, attributes: true, attributeFilter: ["class"] });
"""
WATCH_DRAG = """
const handle = arguments[0], line = handle.parentElement;
window.dragged = window.settled = null;
let moved = 0, left = 0;
const places = () => [...line.querySelectorAll(".handle")].map((each) => each.style.left).join();
const before = places();
window.addEventListener("pointermove", (event) => event.buttons && (moved ||= performance.now()), { capture: true });
window.addEventListener("pointerup", () => (left = performance.now()), { capture: true, once: true });
new MutationObserver((_, watch) => {
  if (moved && !left && !window.dragged) requestAnimationFrame(() => (window.dragged = performance.now() - moved));
  if (!left || places() === before) return;
  watch.disconnect();
  requestAnimationFrame(() => (window.settled = performance.now() - left));
}).observe(line, { subtree: true, childList: true, attributes: true });
"""
WATCH_THRESHOLD = """
window.drawn = null;
let pressed = 0;
arguments[0].addEventListener("keydown", () => (pressed = performance.now()), { capture: true, once: true });
new MutationObserver((_, watch) => {
  if (!pressed) return;
  watch.disconnect();
  requestAnimationFrame(() => (window.drawn = performance.now() - pressed));
}).observe(document.querySelector("[aria-label=Rhythm] p[aria-live]"), { subtree: true, characterData: true, childList: true });
"""
SOUND = """
const last = (mark) => performance.getEntriesByName(mark).at(-1).startTime;
return last("sound begins") - last("play");
"""
HEARD = "return performance.getEntriesByName('sound begins').length"


def figures(folder: Path) -> Iterator[Figure]:
    """Opening, scrolling, striking and playing."""
    with socket.socket() as free:
        free.bind(("127.0.0.1", 0))
        port = free.getsockname()[1]
    settings, episode, _ = long_episode(folder / "browser", port)
    url = f"http://127.0.0.1:{port}/episodes/{episode}"
    with _serving(settings) as (started, process), _browser() as browser:
        yield Figure("a second start, until it answers", f"{started:.1f} s", "< 5 s", started < 5)
        opened = []
        for _ in range(4):
            browser.get(url)
            opened.append(browser.execute_async_script(FIRST_TEXT) / 1000)
        yield Figure("opening a three-hour episode, first time", f"{opened[0]:.2f} s", "≤ 1.5 s", opened[0] <= 1.5)
        again = statistics.median(opened[1:])
        yield Figure("opening it again, median of 3", f"{again:.2f} s", "≤ 1.5 s", again <= 1.5)
        rate, tokens = browser.execute_async_script(SCROLL)
        yield Figure("scrolling, frames a second", f"{rate:.0f}", "≥ 50", rate >= 50)
        yield Figure("words and rests in the document while scrolling", f"{tokens}", "≤ 3000", tokens <= 3000)
        browser.get(url)
        browser.execute_async_script(FIRST_TEXT)
        painted, sounded = [], []
        for index in range(20, 32):
            words = browser.find_elements(By.CSS_SELECTOR, ".tok:not(.rest):not(.struck)")
            words[index].click()
            browser.execute_script(WATCH)
            ActionChains(browser).send_keys(Keys.DELETE).perform()
            painted.append(WebDriverWait(browser, 10).until(lambda d: d.execute_script("return window.painted")))
            words[index - 2].click()
            ActionChains(browser).send_keys(Keys.SPACE).perform()
            WebDriverWait(browser, 10).until(lambda d: d.execute_script(HEARD) > len(sounded))
            sounded.append(browser.execute_script(SOUND))
            ActionChains(browser).send_keys("k").perform()
        paint, sound = statistics.median(painted), statistics.median(sounded)
        yield Figure("key to painted strike, median of 12", f"{paint:.0f} ms", "≤ 100 ms", paint <= 100)
        yield Figure("edit, then play: until sound, median of 12", f"{sound:.0f} ms", "≤ 300 ms", sound <= 300)
        dragged = [_drag(browser, by) for by in (-40, 36, -44, 32, -48, 28)]
        drawn, settled = (statistics.median(times) for times in zip(*dragged, strict=True))
        yield Figure("Fine: a move of the mouse until drawn, median of 6", f"{drawn:.0f} ms", "≤ 100 ms", drawn <= 100)
        yield Figure("Fine: edge let go until drawn as it is then", f"{settled:.0f} ms", "≤ 100 ms", settled <= 100)
        thresholds = _thresholds(browser)
        yield Figure("Tidy: a threshold moved until drawn, median of 8", f"{thresholds:.0f} ms", "≤ 100 ms", thresholds <= 100)
        held = max(child.memory_info().rss for child in psutil.Process(process).children(recursive=True) if _serves(child))
        yield Figure("memory of the server afterwards", f"{held / 1e6:.0f} MB", "≤ 300 MB", held <= 300e6)


def _drag(browser: webdriver.Chrome, by: int) -> tuple[float, float]:
    """Drag an edge in Fine: milliseconds from a move to its mark, and from letting go to the edge at its new place."""
    if not browser.find_elements(By.CSS_SELECTOR, ".fine"):
        browser.find_element(By.XPATH, "//*[@role='radio'][normalize-space()='Fine']").click()
    handle = WebDriverWait(browser, 20).until(lambda d: d.find_elements(By.CSS_SELECTOR, "[aria-label^='End before']"))[0]
    browser.execute_script(WATCH_DRAG, handle)
    chain = ActionChains(browser).click_and_hold(handle).pause(0.2).move_by_offset(by, 0).pause(0.5).release()
    chain.perform()
    drawn = WebDriverWait(browser, 10).until(lambda d: d.execute_script("return window.dragged"))
    settled = WebDriverWait(browser, 10).until(lambda d: d.execute_script("return window.settled"))
    return drawn, settled


def _thresholds(browser: webdriver.Chrome) -> float:
    """Move what counts as a long rest by keys: milliseconds from each to the histogram and the numbers that go with it."""
    browser.find_element(By.XPATH, "//button[normalize-space()='Tidy']").click()
    kind = "//button[starts-with(@aria-label, 'Long rests: ')]"
    WebDriverWait(browser, 30).until(lambda d: d.find_elements(By.XPATH, kind))[0].click()
    handle = WebDriverWait(browser, 30).until(lambda d: d.find_elements(By.CSS_SELECTOR, "[aria-label='Rests are long from']"))[
        0
    ]
    drawn = []
    for key in (Keys.ARROW_RIGHT, Keys.ARROW_LEFT) * 4:
        browser.execute_script(WATCH_THRESHOLD, handle)
        handle.send_keys(key)
        drawn.append(WebDriverWait(browser, 10).until(lambda d: d.execute_script("return window.drawn")))
    return statistics.median(drawn)


def _serves(process: psutil.Process) -> bool:
    return any("server" in part for part in process.cmdline())


@contextmanager
def _serving(settings: Settings) -> Iterator[tuple[float, int]]:
    command = [sys.executable, "-m", "jaskel.cli", "serve", "--data", str(settings.data)]
    process = subprocess.Popen(command, env={**os.environ, **settings.environment()}, stdout=subprocess.DEVNULL)
    begun = time.monotonic()
    try:
        while True:
            try:
                urllib.request.urlopen(f"http://127.0.0.1:{settings.port}/api/shows", timeout=1).close()
                break
            except OSError:
                time.sleep(0.02)
        yield time.monotonic() - begun, process.pid
    finally:
        process.terminate()
        process.wait()


@contextmanager
def _browser() -> Iterator[webdriver.Chrome]:
    options = webdriver.ChromeOptions()
    options.binary_location = shutil.which("chromium")
    for flag in FLAGS.split():
        options.add_argument(flag)
    browser = webdriver.Chrome(options=options, service=Service(shutil.which("chromedriver")))
    browser.set_script_timeout(30)
    try:
        yield browser
    finally:
        browser.quit()
