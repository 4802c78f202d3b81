"""Waiting for what is seen."""

from __future__ import annotations

import json
import time
from collections.abc import Callable
from pathlib import Path

from selenium.common.exceptions import NoSuchElementException, StaleElementReferenceException

PATIENCE = 4
"""So many times as long as an idle machine may need is waited: other tests keep all processors busy meanwhile."""


def wait(true: Callable[[], object], seconds: float = 40) -> object:
    """Wait until something is true, and give it. Elements not there yet, or drawn anew meanwhile, count as not yet."""
    begun = time.monotonic()
    deadline = begun + seconds * PATIENCE
    while True:
        try:
            if value := true():
                return value
        except (NoSuchElementException, StaleElementReferenceException):
            pass
        assert time.monotonic() < deadline, "this did not come about in time"
        # What takes long is not asked for all the time: answering takes the processor from what is waited for.
        time.sleep(min(0.25, max(0.05, (time.monotonic() - begun) / 40)))


def head(person) -> dict:
    """The first edition of the episode that somebody has open, as the server has it."""
    edition = person.demo.get(f"/api/episodes/{person.episode}")["editions"][0]["id"]
    return person.demo.get(f"/api/editions/{edition}")


AXE = Path(__file__).parents[2] / "frontend/node_modules/axe-core/axe.min.js"
RUN = """
const done = arguments[arguments.length - 1];
const told = ({ id, nodes }) => id + ': ' + nodes.map((node) => node.html.slice(0, 200)).join('\\n    ');
axe.run(document, { resultTypes: ['violations'] }).then((found) => done(JSON.stringify(found.violations.map(told))));
"""


def violations(person) -> list[str]:
    """What axe-core finds against what is shown."""
    person.driver.execute_script(AXE.read_text())
    return json.loads(person.driver.execute_async_script(RUN))
