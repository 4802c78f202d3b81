"""A virus scanner, where one is set, is shown what comes in before it is kept."""

from __future__ import annotations

from dataclasses import replace

import pytest
from conftest import Jaskel, write_media
from test_sessions import tone

SCANNER = """sh -c 'if grep -q "a virus" "$1"; then exit 1; fi' scanner"""
"""Finds what contains these words. The path of a file follows, as $1."""


@pytest.fixture
def scanned(settings):
    made = []

    def begin(command):
        made.append(Jaskel(replace(settings, scanner=command)))
        return made[-1]

    yield begin
    for each in made:
        each.workshop.close()


@pytest.fixture
def infected(tmp_path):
    """A sound that can be read, with something after it."""
    path = write_media(tmp_path / "talk.wav", tone(1))
    path.write_bytes(path.read_bytes() + b"a virus")
    return path


def test_what_it_finds_something_in_is_not_taken(scanned, infected, tmp_path):
    jaskel = scanned(SCANNER)
    episode = jaskel.episode()["id"]
    assert jaskel.upload(episode, infected, 422)["code"] == "virus-found"
    assert jaskel.get(f"/api/episodes/{episode}")["recordings"] == []
    vault = jaskel.workshop.home.vault.root
    assert not [path for path in vault.rglob("*") if path.is_file()]
    assert jaskel.upload(episode, write_media(tmp_path / "clean.wav", tone(2)))["name"] == "clean.wav"


@pytest.mark.parametrize("command", ["sh -c 'exit 2'", "no-such-scanner"])
def test_one_that_cannot_tell_lets_nothing_in(scanned, tmp_path, command):
    jaskel = scanned(command)
    told = jaskel.upload(jaskel.episode()["id"], write_media(tmp_path / "talk.wav", tone(1)), 422)
    assert told["code"] == "no-scanner" and "does not answer" in told["detail"]


def test_fonts_and_weights_are_shown_to_it(scanned):
    jaskel = scanned(SCANNER)
    episode = jaskel.episode()
    answer = jaskel.client.post(f"/api/shows/{episode['show_id']}/fonts?name=a.ttf", data=b"a virus")
    assert answer.json["code"] == "virus-found"
    weights = jaskel.post("/api/weights", {"name": "large"}, 201)["id"]
    answer = jaskel.client.put(f"/api/weights/{weights}/files/model.bin", data=b"a virus")
    assert answer.json["code"] == "virus-found"
    assert not [path for path in (jaskel.settings.weights(weights), jaskel.settings.fonts) for path in path.iterdir()]


def test_processes_that_are_started_have_it_too(settings):
    assert replace(settings, scanner=SCANNER).environment()["JASKEL_SCANNER"] == SCANNER
