"""Cutaways through the API: from a file, from the show's shelf, from the library of pictures."""

# ruff: noqa: F811

from __future__ import annotations

import io
import threading
from dataclasses import replace

import av
import numpy as np
import pytest
from conftest import Jaskel
from flask import Flask
from PIL import Image
from test_exports import exported
from test_retyping import operate
from test_shots_of_editions import talk  # noqa: F401 (a fixture)
from werkzeug.serving import make_server

from jaskel.standins import picture_library

RATE = 48_000


def head(jaskel, talk):
    return jaskel.get(f"/api/editions/{talk['edition']}")


def bring(jaskel, episode, name, data):
    url = f"/api/episodes/{episode}/recordings?name={name}&placed=false&transcribe=false"
    answer = jaskel.client.post(url, data=data)
    assert answer.status_code == 201, answer.json
    jaskel.work()
    return answer.json["id"]


def picture(colour=(20, 200, 20), size=(400, 300), mode="RGB", form="PNG") -> bytes:
    out = io.BytesIO()
    Image.new(mode, size, colour).save(out, form)
    return out.getvalue()


def lay(jaskel, talk, recording, begin=2 * RATE, end=5 * RATE, **more):
    operate(jaskel, talk["edition"], kind="cutaway", recording=recording, begin=begin, end=end, **more)
    return head(jaskel, talk)["cutaways"][-1]


def test_a_picture_lies_over_words_on_the_monitor_and_in_the_film_and_comes_off_again(jaskel, talk):
    still = bring(jaskel, talk["episode"]["id"], "green.png", picture())
    cutaway = lay(jaskel, talk, still)
    assert (cutaway["name"], cutaway["kind"], cutaway["begin"], cutaway["end"]) == ("green.png", "still", 2 * RATE, 5 * RATE)
    layers = jaskel.get(f"/api/editions/{talk['edition']}/plan")["layers"]
    shown = next(layer for layer in layers if layer["begin"] <= 3 * RATE < layer["until"])
    assert [(view["recording"], view["still"]) for view in shown["views"]] == [(still, True)]
    colours = colours_at(jaskel, talk, 1, 3, 6)
    assert np.abs(colours[1] - (20, 200, 20)).max() < 12
    assert np.abs(colours[0] - (20, 200, 20)).max() > 60
    assert np.abs(colours[2] - (20, 200, 20)).max() > 60
    operate(jaskel, talk["edition"], kind="cutaway", **{**sent(cutaway), "on": False})
    assert jaskel.get(f"/api/editions/{talk['edition']}")["cutaways"][0]["on"] is False
    operate(jaskel, talk["edition"], kind="cutaway off", id=cutaway["id"])
    assert head(jaskel, talk)["cutaways"] == []
    thumbnail = jaskel.client.get(f"/api/recordings/{still}/thumbnail")
    assert Image.open(io.BytesIO(thumbnail.data)).size == (320, 180)


def sent(cutaway):
    return {name: value for name, value in cutaway.items() if name not in ("name", "kind")}


def colours_at(jaskel, talk, *seconds):
    film = exported(jaskel, talk["episode"], "mp4")
    with av.open(io.BytesIO(film)) as opened:
        frames = [frame.to_ndarray(format="rgb24") for frame in opened.decode(video=0)]
    return [frames[second * 25][90, 160].astype(int) for second in seconds]


def test_what_shows_through_a_picture_is_the_paper_of_the_house_style(jaskel, talk):
    glass = bring(jaskel, talk["episode"]["id"], "glass.png", picture((0, 0, 0, 0), mode="RGBA"))
    lay(jaskel, talk, glass)
    assert np.abs(colours_at(jaskel, talk, 3)[0] - (0xFC, 0xFB, 0xF7)).max() < 8


def test_the_shelf_holds_what_other_episodes_of_the_show_have_used(jaskel, talk):
    show = talk["episode"]["show_id"]
    bring(jaskel, talk["episode"]["id"], "green.png", picture())
    (known,) = jaskel.get(f"/api/shows/{show}/shelf")["recordings"]
    other = jaskel.post(f"/api/shows/{show}/episodes", {"title": "Another"}, 201)["id"]
    body = {"recording_id": known["id"], "transcribe": False}
    taken = jaskel.post(f"/api/episodes/{other}/recordings/reuse", body, 201)
    assert taken["id"] != known["id"]
    assert len(jaskel.get(f"/api/shows/{show}/shelf")["recordings"]) == 1  # one picture is there once


def test_what_cannot_be_seen_is_refused(jaskel, talk):
    revision = head(jaskel, talk)["revision"]

    def code(**operation):
        body = {"revision": revision, "operation": {"kind": "cutaway", "begin": 0, "end": RATE, **operation}}
        return jaskel.client.post(f"/api/editions/{talk['edition']}/operations", json=body).json["code"]

    still = bring(jaskel, talk["episode"]["id"], "green.png", picture())
    assert code(recording="nobody") == "no-recording"
    assert code(recording=talk["episode"]["recordings"][0]["id"]) == "no-picture"
    assert code(recording=still, begin=RATE, end=RATE) == "no-words"
    assert code(recording=still, first=[0.5, 0, 0.8, 0.8]) == "no-part"
    assert code(recording=still, id="x") == "no-cutaway"
    assert code(recording=talk["cameras"][0], place=10**9) == "past-its-end"


@pytest.fixture
def library(jaskel, settings):
    """Jaskel with the library of pictures that ships, on an address of its own."""
    app = Flask("library")
    app.register_blueprint(picture_library.api)
    server = make_server("127.0.0.1", 0, app)
    threading.Thread(target=server.serve_forever, daemon=True).start()
    made = Jaskel(replace(settings, picture_library=f"http://127.0.0.1:{server.port}{picture_library.PREFIX}"))
    yield made
    made.workshop.close()
    server.shutdown()


def test_the_library_is_searched_by_words_and_by_meaning_and_taken_from_once(library):
    found = library.get("/api/pictures?text=lighthouse")["pictures"]
    assert found[0]["id"] == "lighthouse"
    meant = library.get("/api/pictures?text=She sewed the torn canvas together again all evening")["pictures"]
    assert meant[0]["id"] == "needle-and-seam"
    everything = library.get("/api/pictures")["pictures"]
    assert {each["kind"] for each in everything} == {"still", "film"}
    assert (
        library.get("/api/pictures?text=tax return form for the accountant")["pictures"][3:] == []
    )  # words that stand for nothing it has
    preview = library.client.get("/api/pictures/fog/preview")
    assert Image.open(io.BytesIO(preview.data)).format == "JPEG"
    episode = library.episode()["id"]
    body = {"picture": "fog", "text": "mist"}
    taken = library.post(f"/api/episodes/{episode}/pictures", body, 201)
    library.work()
    again = library.post(f"/api/episodes/{episode}/pictures", body, 201)
    assert (again["id"], taken["name"]) == (taken["id"], "Fog drifts over the water and hides a boat")
    (recording,) = library.get(f"/api/episodes/{episode}")["recordings"]
    assert (recording["kind"], recording["working_copy"], recording["placed"]) == ("video", True, False)
    gone = library.client.post(f"/api/episodes/{episode}/pictures", json={"picture": "nothing", "text": ""})
    assert (gone.status_code, gone.json["code"]) == (404, "no-picture")


def test_without_a_library_or_with_one_that_is_away_one_is_told(jaskel, settings):
    assert jaskel.client.get("/api/pictures").json["code"] == "no-library"
    away = Jaskel(replace(settings, picture_library="http://127.0.0.1:9/nothing"))
    assert away.client.get("/api/pictures").json["code"] == "library-away"
    away.workshop.close()
