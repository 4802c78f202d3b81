"""Work that is done ahead, in groups, and by other processes."""

from __future__ import annotations

import os
import subprocess
import sys
import threading
import time
from pathlib import Path

import psutil
import pytest

from jaskel.speech.pipeline import begun_ahead, elsewhere, grouped

STARTS_ANOTHER = """
import os, sys, time
from jaskel.speech.pipeline import elsewhere
from test_pipeline import process_id

if __name__ == "__main__":
    with elsewhere() as apply:
        print(*apply(process_id, range(1)), flush=True)
        time.sleep(60)
"""


def process_id(_: int) -> int:
    return os.getpid()


def fails_at_three(number: int) -> int:
    if number == 3:
        raise ValueError("three")
    return number * number


def test_results_come_in_order_though_later_ones_are_done_first():
    later = threading.Event()

    def work(number: int) -> int:
        if number == 0:
            assert later.wait(10)
        later.set()
        return number * number

    assert list(begun_ahead(work, range(5))) == [(n, n * n) for n in range(5)]


def test_first_groups_are_small_and_nothing_is_lost():
    assert list(grouped(range(9), 4)) == [[0], [1, 2], [3, 4, 5, 6], [7, 8]]
    assert list(grouped([], 4)) == []


def test_other_processes_do_the_work_in_order():
    with elsewhere() as apply:
        assert os.getpid() not in set(apply(process_id, range(6)))
        assert list(apply(abs, [-1, 2, -3])) == [1, 2, 3]
    with elsewhere(worthwhile=False) as apply:
        assert set(apply(process_id, range(3))) == {os.getpid()}


def test_an_error_there_is_raised_here():
    with elsewhere() as apply, pytest.raises(ValueError, match="three"):
        list(apply(fails_at_three, range(6)))


def test_they_end_with_the_process_that_started_them(tmp_path):
    script = tmp_path / "starts.py"
    script.write_text(STARTS_ANOTHER)
    started = subprocess.Popen(
        [sys.executable, script],
        stdout=subprocess.PIPE,
        text=True,
        env={**os.environ, "PYTHONPATH": os.pathsep.join((os.getcwd(), str(Path(__file__).parent)))},
    )
    assert started.stdout is not None
    other = psutil.Process(int(started.stdout.readline()))
    started.kill()
    started.wait()
    until = time.monotonic() + 20
    while other.is_running() and other.status() != psutil.STATUS_ZOMBIE:
        assert time.monotonic() < until, "it goes on without anybody to work for"
        time.sleep(0.05)
