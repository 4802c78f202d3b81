"""How much of an export is left: told by what its parts took before in the same show."""

from __future__ import annotations

import pytest
from conftest import RATE
from sqlalchemy import select

from jaskel.jobs import pace, progress
from jaskel.jobs.pace import LOUDNESS, SHORTEST, Pace
from jaskel.jobs.progress import Progress
from jaskel.jobs.queue import add_job
from jaskel.store import library
from jaskel.store.home import Home
from jaskel.store.models import Job, Show

LENGTH = 100 * RATE
PARTS = {LOUDNESS: (LENGTH, 5.0), "mp3": (LENGTH, 10.0)}
SECONDS = {LOUDNESS: 30, "mp3": 10}
"""What they take here: the loudness not half, but three times as long."""


@pytest.fixture
def home(settings):
    made = Home(settings)
    made.database.migrate()
    yield made
    made.close()


@pytest.fixture
def episode(home):
    with home.database.write() as session:
        return library.new_episode(session, library.new_show(session, "Ropewalk"), "The dry hull").id


@pytest.fixture
def clock(monkeypatch):
    monkeypatch.setattr(progress, "REPORT_SECONDS", 0.0)
    now = [0.0]
    monkeypatch.setattr(pace, "monotonic", lambda: now[0])
    return now


@pytest.fixture
def work(home, episode, clock):
    """Does an export; gives the share of it that is told to be done after each quarter of each part."""

    def done(parts=PARTS, passes=1.0, attempts=1, come=0, for_="podcast"):
        with home.database.write() as session:
            job = add_job(session, "export", episode, "x", attempts=attempts, come=come, for_=for_)
            job.state, job.attempts, job.done = "running", attempts, come
        shares = []
        working = Pace(home, job, Progress(home, job.id), for_, parts)
        for name, (length, _) in parts.items():
            with working.part(name) as report:
                far = length * (passes if name == LOUDNESS else 1)
                for number in range(1, 5):
                    clock[0] += SECONDS[name] * length / LENGTH / 4
                    report(round(far * number / 4))
                    with home.database.read() as session:
                        known = session.get_one(Job, job.id)
                        shares.append(known.done / known.total)
        with home.database.write() as session:
            working.keep(session)
            session.get_one(Job, job.id).state = "done"
        return shares

    return done


def paces(home) -> dict[str, dict[str, float]]:
    with home.database.read() as session:
        return session.scalars(select(Show)).one().paces


def test_at_first_by_what_parts_take_in_general_and_then_by_what_they_took_here(work):
    assert work()[:5] == pytest.approx([1 / 12, 2 / 12, 3 / 12, 4 / 12, 6 / 12], abs=0.001)
    assert work() == pytest.approx([30 / 160, 60 / 160, 90 / 160, 120 / 160, 130 / 160, 140 / 160, 150 / 160, 1], abs=0.001)


def test_how_often_the_sound_is_gone_through_is_expected_next_time(work):
    first = work(passes=1.6)
    assert first == sorted(first) and first[-1] == pytest.approx(1)
    assert work(passes=1.6)[3] == pytest.approx(0.75, abs=0.001)


def test_a_file_that_is_told_to_be_a_little_longer_is_not_written_again(work, home, episode):
    with home.database.write() as session:
        job = add_job(session, "export", episode, "y")
        job.state = "running"
    working = Pace(home, job, Progress(home, job.id), "wide", {"mp4": (LENGTH, 1.0)})
    with working.part("mp4") as report:
        report(LENGTH + 1)
        with home.database.read() as session:
            known = session.get_one(Job, job.id)
            assert known.done == known.total == LENGTH


def test_each_time_counts_for_half_of_what_is_known(work, home):
    work()
    assert paces(home) == {"podcast": {LOUDNESS: pytest.approx(0.3), "passes": 1, "mp3": pytest.approx(0.1)}}
    SECONDS["mp3"] *= 3
    try:
        work()
    finally:
        SECONDS["mp3"] //= 3
    assert paces(home)["podcast"]["mp3"] == pytest.approx(0.2)


def test_what_another_destination_takes_is_not_told_of_it(work, home):
    work()
    assert work(for_="archive")[3] == pytest.approx(1 / 3, abs=0.001)
    assert {*paces(home)} == {"podcast", "archive"}


def test_a_part_that_is_not_known_yet_leaves_all_to_what_is_so_in_general(work):
    work({"mp3": PARTS["mp3"]})
    assert work()[3] == pytest.approx(1 / 3, abs=0.001)


@pytest.mark.parametrize(
    "how",
    [
        {"attempts": 2},
        {"come": 7},
        {"parts": {"mp3": (SHORTEST - 1, 10.0)}},
    ],
    ids=["begun again", "gone on with", "short"],
)
def test_what_says_nothing_of_the_next_time_is_not_kept(work, home, how):
    work(**how)
    assert paces(home) == {}
