"""A watched folder: what is laid in it is taken in once it has come to rest, and once."""

from __future__ import annotations

import os
from dataclasses import replace

import pytest
from conftest import Jaskel, tone, write_media

from jaskel.core.problem import Problem
from jaskel.jobs.watched import Watched
from jaskel.settings import Settings


@pytest.fixture
def folder(tmp_path):
    made = tmp_path / "watched"
    made.mkdir()
    return made


@pytest.fixture
def watched(jaskel, folder):
    return Watched(jaskel.workshop.home, folder)


def lay(folder, path, seconds=1.0):
    place = folder / path
    place.parent.mkdir(parents=True, exist_ok=True)
    return write_media(place, tone(seconds))


def told(jaskel):
    """Shows with their episodes, and the recordings of these."""
    return {
        show["name"]: {
            each["title"]: [recording["name"] for recording in jaskel.get(f"/api/episodes/{each['id']}")["recordings"]]
            for each in show["episodes"]
        }
        for show in jaskel.get("/api/shows")["shows"]
    }


def test_files_become_episodes_of_the_show_their_folder_is_called_after(jaskel, watched, folder):
    lay(folder, "Ropewalk/The dry hull.flac")
    lay(folder, "Ropewalk/Two boats/Orla.flac", 1.5)
    lay(folder, "Ropewalk/Two boats/Teo.flac", 2.0)
    assert watched.look() == []  # it may still be growing
    assert len(watched.look()) == 3
    assert told(jaskel) == {"Ropewalk": {"The dry hull": ["The dry hull.flac"], "Two boats": ["Orla.flac", "Teo.flac"]}}
    jaskel.work("prepare")
    assert (folder / "Ropewalk" / "The dry hull.flac").exists()


def test_what_still_grows_is_waited_for(watched, folder):
    place = lay(folder, "Ropewalk/a.flac", 3.0)
    whole = place.read_bytes()
    for share in (0.2, 0.5, 0.9, 1.0):
        place.write_bytes(whole[: int(share * len(whole))])
        assert watched.look() == []
    assert watched.look() == ["Ropewalk/a.flac"]


def test_nothing_is_taken_twice_not_even_after_a_restart(jaskel, watched, folder):
    lay(folder, "Ropewalk/a.flac")
    watched.look()
    assert watched.look()
    again = Watched(jaskel.workshop.home, folder)
    assert [again.look() for _ in range(3)] == [[], [], []]
    lay(folder, "Ropewalk/a.flac", 2.0)  # another file by the same name is another recording
    again.look()
    assert again.look() == ["Ropewalk/a.flac"]
    assert told(jaskel) == {"Ropewalk": {"a": ["a.flac", "a.flac"]}}


def test_what_is_no_media_hidden_or_a_link_is_left_alone(jaskel, watched, folder, tmp_path):
    (folder / "Ropewalk").mkdir()
    (folder / "Ropewalk" / "notes.txt").write_text("not a recording")
    (folder / "Ropewalk" / ".half.flac").write_bytes(b"x")
    (folder / "alone.flac").write_bytes(b"x")
    os.symlink(lay(tmp_path, "elsewhere.flac"), folder / "Ropewalk" / "link.flac")
    for _ in range(3):
        watched.look()
    assert told(jaskel) == {}


def test_a_folder_that_is_not_there_is_told(monkeypatch, tmp_path):
    monkeypatch.setenv("JASKEL_WATCH", str(tmp_path / "nowhere"))
    with pytest.raises(Problem, match="takes a folder that is there"):
        Settings.from_environment()
    monkeypatch.setenv("JASKEL_WATCH", str(tmp_path))
    assert replace(Settings.from_environment()).environment()["JASKEL_WATCH"] == str(tmp_path)


def test_a_show_that_was_deleted_is_made_anew(settings, folder):
    jaskel = Jaskel(settings)
    show = jaskel.post("/api/shows", {"name": "Ropewalk"}, 201)["id"]
    jaskel.client.patch(f"/api/shows/{show}", json={"deleted": True})
    lay(folder, "Ropewalk/a.flac")
    watched = Watched(jaskel.workshop.home, folder)
    watched.look()
    watched.look()
    (kept,) = [each for each in jaskel.get("/api/shows")["shows"] if not each["deleted"]]
    assert kept["id"] != show and [each["title"] for each in kept["episodes"]] == ["a"]
    jaskel.workshop.close()
