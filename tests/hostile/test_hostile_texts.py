"""Hostile texts are read in time, or refused in words."""

from __future__ import annotations

import time

import pytest
from conftest import RATE

from bench.hostile.texts import CUE, TTML, large, odd, texts
from jaskel.core.problem import Problem
from jaskel.media.text_files import LONGEST, MOST_WORDS, read_text


def read(name: str, content: bytes) -> str:
    try:
        read_text(content, name)
    except Problem as problem:
        return problem.code
    return "read"


def test_a_sample_of_hostile_texts():
    told = {name: read(name, content) for name, content in texts(400, 20_000, seed=3)}
    assert {"entities.ttml", "outside.ttml", "deep.ttml"} <= {name for name, code in told.items() if code == "not-captions"}
    assert "read" in told.values()


@pytest.mark.parametrize("name", large(10))
def test_twice_the_text_takes_no_more_than_some_times_as_long(name):
    def taken(size: int) -> float:
        """Seconds of this thread's own work."""
        content = large(size)[name].encode()
        begun = time.thread_time()
        read(name, content)
        return time.thread_time() - begun

    def in_proportion() -> bool:
        return taken(LONGEST // 5) < 0.3 + 12 * max(taken(LONGEST // 20), 0.02)

    taken(1000)
    assert any(in_proportion() for _ in range(3)), "the slowest of three is the machine's doing, all three are the text's"


def test_frames_and_ticks_are_times():
    text = TTML.format(doctype="", cues=CUE.format("00:00:01:10", "75f"))
    words = read_text(text.encode(), "a.ttml").words
    assert (words[0].start, words[-1].end) == (RATE * 14 // 10, 3 * RATE)


@pytest.mark.parametrize("name", [name for name in odd() if name.startswith("times-")])
def test_no_time_is_no_error_inside(name):
    assert read(name, odd()[name].encode()) in ("read", "not-captions", "empty")


def test_what_is_too_long_says_how_long_it_may_be():
    with pytest.raises(Problem, match=r"it has 2\.5 MB; 2 MB are the most"):
        read_text(b"a" * 2_500_000, "a.txt")
    with pytest.raises(Problem, match=f"{MOST_WORDS:,} are the most"):
        read_text(b"a " * (MOST_WORDS + 9), "a.txt")


def test_a_long_text_holds_nobody_up(jaskel, tmp_path, monkeypatch):
    """It is understood before the transaction in which others would wait for it."""
    from conftest import tone, write_media

    from jaskel.web import texts as web

    episode = jaskel.episode()
    recording = jaskel.upload(episode["id"], write_media(tmp_path / "a.wav", tone(2)))["id"]
    jaskel.work("prepare")
    really = web.read_text

    def while_others_write(content, name):
        jaskel.post("/api/shows", {"name": "Meanwhile"}, 201)
        return really(content, name)

    monkeypatch.setattr(web, "read_text", while_others_write)
    assert jaskel.client.post(f"/api/recordings/{recording}/texts?name=a.txt", data=b"So we begin.").status_code == 201
