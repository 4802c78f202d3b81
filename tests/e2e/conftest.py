"""A running Jaskel, and a browser in front of it."""

from __future__ import annotations

import json
import os
import shutil
import signal
import socket
import sqlite3
import subprocess
import sys
import urllib.request
from collections.abc import Callable, Iterator
from contextlib import closing
from pathlib import Path
from urllib.parse import urlsplit

import psutil
import pytest
from filelock import FileLock
from selenium import webdriver
from selenium.common.exceptions import ElementClickInterceptedException, StaleElementReferenceException
from selenium.webdriver import ActionChains
from selenium.webdriver.chrome.service import Service
from selenium.webdriver.common.by import By
from selenium.webdriver.remote.webelement import WebElement

from jaskel.demo.prepare import prepare
from jaskel.settings import Settings
from jaskel.standins.picture_library import PREFIX
from jaskel.standins.publishing_host import PREFIX as HOST

from .forked import Forked
from .helpers import wait

FLAGS = (
    "--headless=new --no-sandbox --disable-gpu --disable-quic --no-first-run --disable-background-networking "
    "--disable-component-update --disable-sync --window-size=1280,800 --autoplay-policy=no-user-gesture-required"
)


TRIES = 5
"""So often one thing is found again that was drawn anew between being found and being used."""


class Running:
    """A started Jaskel: server and worker on a free port, with a data folder of its own."""

    def __init__(self, data: Path, *, team: bool = False) -> None:
        with socket.socket() as free:
            free.bind(("127.0.0.1", 0))
            self.port = free.getsockname()[1]
        self.url = f"http://127.0.0.1:{self.port}"
        self.settings = Settings(
            data, port=self.port, picture_library=self.url + PREFIX, publishing_host=self.url + HOST, team=team
        )
        self.forked: Forked | None = None

    def start(self) -> None:
        """Start and wait until it answers."""
        self.forked = Forked(self.settings, self.settings.data.with_suffix(".log"))
        wait(self.answers, 90)
        self.forked.begin_work()

    def stop(self) -> None:
        if self.forked:
            self.forked.end()
            self.forked = None

    def answers(self) -> bool:
        try:
            return bool(self.get("/api/me"))
        except OSError:
            return False

    def get(self, path: str) -> dict:
        with urllib.request.urlopen(self.url + path, timeout=60) as response:
            return json.loads(response.read())

    def episode(self, title: str) -> str:
        """The id of an episode of the demo's show."""
        return next(each["id"] for each in self.get("/api/shows")["shows"][0]["episodes"] if each["title"] == title)

    def work(self) -> list[str]:
        """The jobs and how each stands, as the store has them; the server may be gone."""
        with closing(sqlite3.connect(f"file:{self.settings.database}?mode=ro", uri=True)) as store:
            found = store.execute("SELECT kind, state, done, total, attempts, trouble FROM jobs ORDER BY created")
            return [" ".join(map(str, row)) for row in found]

    def post(self, path: str, body: dict) -> dict:
        request = urllib.request.Request(self.url + path, json.dumps(body).encode(), {"Content-Type": "application/json"})
        with urllib.request.urlopen(request, timeout=60) as response:
            return json.loads(response.read())

    def upload(self, episode: str, path: Path) -> dict:
        url = f"{self.url}/api/episodes/{episode}/recordings?name={path.name}"
        request = urllib.request.Request(url, path.read_bytes(), {"Content-Type": "application/octet-stream"})
        with urllib.request.urlopen(request, timeout=60) as response:
            return json.loads(response.read())


class AsPeopleDo(Running):
    """The same by ``jaskel serve``, with the process that looks after server and worker."""

    process: subprocess.Popen[str] | None = None

    def start(self) -> None:
        command = [sys.executable, "-m", "jaskel.cli", "serve", "--data", str(self.settings.data)]
        environment = {**os.environ, **self.settings.environment()}
        self.process = subprocess.Popen(command, env=environment, stdout=subprocess.PIPE, stderr=subprocess.STDOUT, text=True)
        wait(self.answers, 90)

    def children(self) -> dict[str, int]:
        """Process ids of the server's and the worker's process."""
        found = {}
        for child in psutil.Process(self.process.pid).children():
            found[child.cmdline()[-1]] = child.pid
        return found

    def stop(self) -> None:
        if self.process and self.process.poll() is None:
            assert self.interrupted() == 0

    def interrupted(self) -> int:
        """End it by Ctrl+C; gives what it answers the shell."""
        self.process.send_signal(signal.SIGINT)
        code = self.process.wait(40)
        self.process.stdout.close()
        return code


@pytest.fixture(scope="session")
def demo_data(tmp_path_factory) -> Path:
    """The demo's data, made once by the real recogniser; JASKEL_TEST_DEMO names one that is made already."""
    if ready := os.environ.get("JASKEL_TEST_DEMO"):
        return Path(ready)
    base = tmp_path_factory.getbasetemp()
    # Processes that share the tests share the demo's data, too.
    shared = (base.parent if "PYTEST_XDIST_WORKER" in os.environ else base) / "demo"
    with FileLock(f"{shared}.lock"):
        if not (shared / "data").exists():
            prepare(Settings(shared / "being-made"))
            (shared / "being-made").rename(shared / "data")
    return shared / "data"


def started(request: pytest.FixtureRequest, data: Path) -> Iterator[Running]:
    running = (AsPeopleDo if request.node.get_closest_marker("as_people_do") else Running)(data)
    running.start()
    yield running
    running.stop()


def copied(demo_data: Path, data: Path) -> Path:
    """A copy of the demo's data that one may do with as one likes."""
    shutil.copytree(demo_data, data, ignore=shutil.ignore_patterns("vault"))
    shutil.copytree(demo_data / "vault", data / "vault", copy_function=linked)
    return data


def linked(source: str, target: str) -> None:
    """The same file at a second place: what lies in the vault is replaced or removed, and never written again."""
    try:
        os.link(source, target)
    except OSError:  # on another disk
        shutil.copy2(source, target)


@pytest.fixture
def demo(request: pytest.FixtureRequest, demo_data: Path, tmp_path: Path) -> Iterator[Running]:
    """Jaskel with a fresh copy of the demo."""
    yield from started(request, copied(demo_data, tmp_path / "data"))


@pytest.fixture
def empty(request: pytest.FixtureRequest, tmp_path: Path) -> Iterator[Running]:
    """Jaskel with nothing in it."""
    yield from started(request, tmp_path / "data")


class Found(WebElement):
    """One thing that was found on the page. Drawn anew between being found and being used, it is found again.

    Where several were found, that they are stale says that the page has changed since.
    """

    again: Callable[[], Found | None] | None = None

    def _execute(self, command, params=None):
        for _ in range(TRIES):
            try:
                return super()._execute(command, params)
            except StaleElementReferenceException:
                found = self.again() if self.again else None
                if found is None:
                    raise
                self._id = found.id
        return super()._execute(command, params)


class Patient(webdriver.Chrome):
    """A browser in which one thing that is not there yet is waited for; of several, those there now are given."""

    _web_element_cls = Found

    def find_element(self, by: str = By.ID, value: str | None = None):
        found = wait(lambda: super(Patient, self).find_element(by, value))
        found.again = lambda: next(iter(self.find_elements(by, value)), None)
        return found


class Person:
    """Somebody at the browser, who finds things by what they say."""

    def __init__(self, driver: webdriver.Chrome) -> None:
        self.driver = driver

    def open(self, url: str) -> None:
        self.driver.get(url)

    @property
    def episode(self) -> str:
        """The id of the episode that is open."""
        return urlsplit(self.driver.current_url).path.rsplit("/", 1)[1]

    @property
    def page(self) -> str:
        """All text that is on the page, as the browser itself reads it."""
        return self.driver.execute_script(r"return (document.body?.innerText ?? '').replace(/\u00a0/g, ' ')")

    def see(self, text: str, seconds: float = 40) -> None:
        wait(lambda: text in self.page, seconds)

    def not_see(self, text: str, seconds: float = 40) -> None:
        wait(lambda: text not in self.page, seconds)

    def find(self, label: str, seconds: float = 40, *, whole: bool = True) -> Found:
        """A control or region by its label or its text; unless ``whole``, by the beginning of its label."""
        quoted = json.dumps(label, ensure_ascii=False)
        path = (
            f"//*[starts-with(@aria-label, {quoted})]"
            if not whole
            else (
                f"//*[@aria-label={quoted}] | //button[normalize-space()={quoted}] | //a[normalize-space()={quoted}]"
                f" | //*[@role='radio' or @role='menuitem'][normalize-space()={quoted}] | //summary[normalize-space()={quoted}]"
            )
        )

        def shown() -> Found | None:
            return next((each for each in self.driver.find_elements(By.XPATH, path) if each.is_displayed()), None)

        return self.patiently(shown, seconds)

    def patiently(self, found: Callable[[], Found | None], seconds: float) -> Found:
        """One thing that is waited for, and found again where it is drawn anew."""
        one = wait(found, seconds)
        one.again = found
        return one

    def click(self, label: str, *, whole: bool = True) -> None:
        def clicked() -> bool:
            button = self.find(label, whole=whole)
            if not button.is_enabled() or button.get_attribute("aria-disabled") == "true":
                return False
            try:
                button.click()
            except ElementClickInterceptedException:  # half of it is under the edge of what scrolls
                self.driver.execute_script("arguments[0].scrollIntoView({ block: 'center' })", button)
                return False
            return True

        wait(clicked)  # drawn anew meanwhile, it is found again

    def single_files(self) -> None:
        """Opens Export, and in it every form by itself."""
        self.click("Export")
        if not self.find("Every form by itself").find_element(By.XPATH, "ancestor-or-self::details").get_attribute("open"):
            self.click("Every form by itself")

    def type(self, label: str, text: str) -> None:
        self.find(label).send_keys(text)

    def keys(self, *keys: str) -> None:
        ActionChains(self.driver).send_keys(*keys).perform()

    def hold(self, modifier: str, *keys: str) -> None:
        ActionChains(self.driver).key_down(modifier).send_keys(*keys).key_up(modifier).perform()

    def word(self, text: str, seconds: float = 40):
        """The first word on the page that reads so."""
        quoted = json.dumps(text, ensure_ascii=False)
        path = f"//span[contains(@class,'tok') or contains(@class,'word')][normalize-space()={quoted}]"
        return self.patiently(lambda: next(iter(self.driver.find_elements(By.XPATH, path)), None), seconds)

    def words(self) -> list[str]:
        """What all words on the page say, in their order; asked for at once, for each question takes its time."""
        read = "return [...document.querySelectorAll('.tok')].map((each) => each.textContent.trim()).filter(Boolean)"
        return self.driver.execute_script(read)

    def classes(self, text: str) -> set[str]:
        return set(self.word(text).get_attribute("class").split())

    def running_time(self) -> str:
        return self.find("Running time").text

    def place(self) -> float:
        """Seconds at the playhead."""
        minutes, seconds = self.find("Place").text.split(":")
        return 60 * int(minutes) + float(seconds)

    def trouble(self) -> list[str]:
        """What the browser complains of."""
        return [entry["message"] for entry in self.driver.get_log("browser") if entry["level"] == "SEVERE"]


def browser() -> Patient:
    options = webdriver.ChromeOptions()
    options.binary_location = shutil.which("chromium")
    for flag in FLAGS.split():
        options.add_argument(flag)
    options.set_capability("goog:loggingPrefs", {"browser": "ALL"})
    return Patient(options=options, service=Service(shutil.which("chromedriver")))


@pytest.fixture(scope="session")
def driver() -> Iterator[webdriver.Chrome]:
    driver = browser()
    yield driver
    driver.quit()


@pytest.hookimpl(wrapper=True)
def pytest_runtest_makereport(item: pytest.Item, call: pytest.CallInfo):
    """When a person did not come through, say what stood on the page, and keep a picture of it."""
    report = yield
    person = getattr(item, "funcargs", {}).get("person")
    if report.when == "call" and report.failed and person:
        picture = item.config.rootpath / "data" / "failed" / f"{item.name}.png"
        picture.parent.mkdir(parents=True, exist_ok=True)
        person.driver.save_screenshot(str(picture))
        running = item.funcargs.get("empty") or item.funcargs.get("demo")
        report.sections.append(("The work", "\n".join(running.work()) if running else ""))
        report.sections.append(("The page", person.page))
        report.sections.append(("The browser", "\n".join(person.trouble())))
    return report


@pytest.fixture
def person(driver: webdriver.Chrome) -> Iterator[Person]:
    driver.get("about:blank")
    driver.get_log("browser")  # what earlier tests left
    yield Person(driver)
    driver.get("about:blank")


@pytest.fixture
def opened(person: Person, demo: Running) -> Person:
    """Somebody who has opened the demo's interview in one file."""
    person.demo = demo
    person.open(f"{demo.url}/episodes/{demo.episode('The dry hull, mixed')}")
    person.word("kettle")
    return person
