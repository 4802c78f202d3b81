"""Fetching from a recording host over real HTTP: a take becomes a session with its guests as voices."""

from __future__ import annotations

from dataclasses import replace
from threading import Thread

import pytest
from conftest import Jaskel
from flask import Flask
from werkzeug.serving import make_server

from jaskel.standins import recording_host


@pytest.fixture
def address():
    app = Flask("host")
    app.register_blueprint(recording_host.api)
    server = make_server("127.0.0.1", 0, app, threaded=True)
    Thread(target=server.serve_forever, daemon=True).start()
    yield f"http://127.0.0.1:{server.port}{recording_host.PREFIX}"
    server.shutdown()


@pytest.fixture
def hosted(settings, address):
    made = Jaskel(replace(settings, recording_host=address))
    yield made
    made.workshop.close()


def test_it_offers_takes_with_a_file_for_each_guest(hosted):
    (session,) = hosted.get(f"/api/episodes/{hosted.episode()['id']}/recording-host")["sessions"]
    guests = [[file["guest"] for file in take["files"]] for take in session["takes"]]
    assert guests == [["Orla Venn"], ["Orla Venn", "Teo Marsh"]]
    assert all(file["size"] > 1_000_000 for take in session["takes"] for file in take["files"])


def test_a_take_arrives_as_a_session_of_its_guests(hosted):
    episode = hosted.episode()["id"]
    hosted.post(f"/api/episodes/{episode}/fetch", {"take": "dry-hull-2", "files": ["orla-2", "teo-2"]}, 202)
    hosted.work("fetch", "prepare", "sync")
    known = hosted.get(f"/api/episodes/{episode}")
    (session,) = known["sessions"]
    voices = {voice["id"]: voice["shown"] for voice in known["voices"]}
    assert session["state"] == "proposed"
    assert [(track["name"], voices[track["voice"]]) for track in session["tracks"]] == [
        ("Orla Venn, take 2.ogg", "Orla Venn"),
        ("Teo Marsh, take 2.ogg", "Teo Marsh"),
    ]
    assert abs(session["tracks"][1]["offset"] - session["tracks"][0]["offset"]) < 480


def test_one_guest_alone_goes_on_the_page(hosted):
    episode = hosted.episode()["id"]
    hosted.post(f"/api/episodes/{episode}/fetch", {"take": "dry-hull-2", "files": ["teo-2"]}, 202)
    hosted.work("fetch", "prepare", "sync")
    known = hosted.get(f"/api/episodes/{episode}")
    assert known["sessions"] == []
    assert [(r["name"], r["placed"], r["state"]) for r in known["recordings"]] == [("Teo Marsh, take 2.ogg", True, "ready")]


def test_files_that_are_not_there_are_refused(hosted):
    episode = hosted.episode()["id"]
    told = hosted.post(f"/api/episodes/{episode}/fetch", {"take": "dry-hull-2", "files": ["nobody"]}, 422)
    assert "does not have these files" in told["detail"]


def test_without_a_host_there_is_none(jaskel):
    assert jaskel.get(f"/api/episodes/{jaskel.episode()['id']}/recording-host") == {"set": False, "sessions": []}


def test_the_simulated_one_is_not_offered_in_shows_of_ones_own(hosted):
    show = hosted.post("/api/shows", {"name": "Harbour talk"}, 201)["id"]
    episode = hosted.post(f"/api/shows/{show}/episodes", {"title": "Sails"}, 201)["id"]
    assert not hosted.get(f"/api/episodes/{episode}/recording-host")["set"]
    hosted.post(f"/api/episodes/{episode}/fetch", {"take": "dry-hull-2", "files": ["teo-2"]}, 422)


def test_a_host_that_does_not_answer_is_said(settings):
    made = Jaskel(replace(settings, recording_host="http://127.0.0.1:9/nothing"))
    assert "does not answer" in made.get(f"/api/episodes/{made.episode()['id']}/recording-host", 422)["detail"]
    made.workshop.close()
