"""``jaskel export``: by the names people gave, whether or not a server runs."""

from __future__ import annotations

import pytest
from conftest import RATE, tone, write_media

from jaskel.cli import main
from jaskel.core.transcript import Word


@pytest.fixture
def talk(jaskel, tmp_path):
    episode = jaskel.episode()
    recording = jaskel.upload(episode["id"], write_media(tmp_path / "a.wav", tone(5)))["id"]
    jaskel.work()
    jaskel.words(recording, [Word(f"w{n}.", n * RATE, n * RATE + RATE // 2, 0.9) for n in range(5)])
    return jaskel


def export(jaskel, into, *arguments):
    return main(["export", *arguments, "--into", str(into), "--data", str(jaskel.settings.data)])


def test_files_are_written_under_their_names(talk, tmp_path, capsys):
    assert export(talk, tmp_path, "the dry hull", "Programme", "--to", "podcast FEED") == 0
    written = {path.name for path in tmp_path.glob("*Podcast feed*")}
    assert written == {"Ropewalk - The dry hull - Podcast feed.mp3", "Ropewalk - The dry hull - Podcast feed.vtt"}
    assert {line.rsplit("/", 1)[-1] for line in capsys.readouterr().out.splitlines()} == written


@pytest.mark.parametrize(
    ("arguments", "told"),
    [
        (("The wet hull", "Programme", "--to", "Archive"), "no episode called “The wet hull”"),
        (("The dry hull", "Trailer", "--to", "Archive"), "What there is: “Programme”"),
        (("The dry hull", "Programme", "--to", "The moon"), "“Podcast feed”"),
    ],
)
def test_what_is_not_known_is_told_with_what_there_is(talk, tmp_path, capsys, arguments, told):
    assert export(talk, tmp_path, *arguments) == 2
    reason = capsys.readouterr().err
    assert told in reason and reason.count("\n") == 1


def test_two_of_one_name_are_named_by_their_ids(talk, tmp_path, capsys):
    show = talk.get("/api/shows")["shows"][0]["id"]
    other = talk.post(f"/api/shows/{show}/episodes", {"title": "The dry hull"}, 201)["id"]
    assert export(talk, tmp_path, "The dry hull", "Programme", "--to", "Archive") == 2
    assert other in capsys.readouterr().err


def test_what_fails_says_why(talk, tmp_path, capsys):
    edition = talk.get("/api/episodes/" + talk.get("/api/shows")["shows"][0]["episodes"][0]["id"])["editions"][0]["id"]
    body = {"kind": "strike", "ranges": [{"begin": 0, "end": 6 * RATE}], "why": "by hand"}
    revision = talk.get(f"/api/editions/{edition}")["revision"]
    talk.post(f"/api/editions/{edition}/operations", {"revision": revision, "operation": body})
    assert export(talk, tmp_path, "The dry hull", "Programme", "--to", "Archive") == 2
    assert "Put something back" in capsys.readouterr().err
    assert export(talk, tmp_path / "nowhere", "The dry hull", "Programme", "--to", "Archive") == 2
