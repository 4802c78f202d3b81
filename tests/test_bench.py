"""Every group of the bench can at least be begun: a figure that cannot be measured is no figure."""

from __future__ import annotations

import importlib

import pytest

from bench.__main__ import GROUPS


@pytest.mark.parametrize("group", GROUPS)
def test_it_is_there(group):
    assert callable(importlib.import_module(f"bench.{group}").figures)


def test_what_is_measured_in_processes_of_its_own_is_written_in_todays_words():
    from bench.memory import WORK

    wanted = "\n".join(line for line in WORK.splitlines() if line.startswith(("import ", "from ")))
    exec(wanted, {})  # the names that it imports are there
