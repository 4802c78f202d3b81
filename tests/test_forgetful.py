"""The folder that forgets what was not synced, by which losses of power are measured."""

from __future__ import annotations

import os
import random

import pytest

from bench.forgetful import Forgetful


class Never(random.Random):
    """Of what was not synced, nothing stays."""

    def randint(self, a, _b):
        return a


@pytest.fixture
def files(tmp_path):
    return Forgetful(tmp_path)


def written(files, path, *writes):
    handle = files.create(path, 0o644)
    for offset, content in writes:
        files.write(path, content, offset, handle)
    return handle


def test_what_was_synced_stays_and_what_came_after_it_is_forgotten(files, tmp_path):
    handle = written(files, "/a", (0, b"acknowledged"))
    files.fsync("/a", 0, handle)
    files.write("/a", b"ACK", 0, handle)
    files.write("/a", b" and more", 12, handle)
    assert (tmp_path / "a").read_bytes() == b"ACKnowledged and more"
    assert files.forget(Never()) == 2
    assert (tmp_path / "a").read_bytes() == b"acknowledged"


def test_a_name_stays_without_what_was_in_it(files, tmp_path):
    files.release("/new", written(files, "/new", (0, b"never synced")))
    files.rename("/new", "/final")
    files.forget(Never())
    assert (tmp_path / "final").read_bytes() == b""


def test_what_was_cut_off_comes_back(files, tmp_path):
    handle = written(files, "/a", (0, b"one two three"))
    files.fsync("/a", 1, handle)
    files.truncate("/a", 3)
    files.write("/a", b"!", 3, handle)
    files.forget(Never())
    assert (tmp_path / "a").read_bytes() == b"one two three"


def test_some_of_it_stays_by_chance_and_always_the_first(tmp_path):
    seen = set()
    for seed in range(20):
        files = Forgetful(tmp_path)
        os.close(written(files, f"/{seed}", (0, b"a"), (1, b"b"), (2, b"c")))
        files.forget(random.Random(seed))
        seen.add((tmp_path / str(seed)).read_bytes())
    assert seen == {b"", b"a", b"ab", b"abc"}
