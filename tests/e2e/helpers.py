"""Waiting for what is seen."""

from __future__ import annotations

import time
from collections.abc import Callable

from selenium.common.exceptions import StaleElementReferenceException


def wait(true: Callable[[], object], seconds: float = 40) -> object:
    """Wait until something is true, and give it. Elements that were drawn anew meanwhile count as not yet."""
    begun = time.monotonic()
    deadline = begun + seconds
    while True:
        try:
            if value := true():
                return value
        except StaleElementReferenceException:
            pass
        assert time.monotonic() < deadline, "this did not come about in time"
        # What takes long is not asked for all the time: answering takes the processor from what is waited for.
        time.sleep(min(0.25, max(0.05, (time.monotonic() - begun) / 40)))
