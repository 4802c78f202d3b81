"""Made-up requests: each is answered as the description says, none by an error inside."""

from __future__ import annotations

import json
import logging
from collections import Counter
from dataclasses import replace
from datetime import timedelta

import pytest
from conftest import RATE, Jaskel, tone, write_media

from bench.hostile.described import ask_all
from bench.hostile.requests import requests
from jaskel.core.transcript import Word
from jaskel.store import accounts
from jaskel.store.models import EditionRow, now
from jaskel.web.app import create_app
from jaskel.web.schemas.common import ProblemOut

MANY = 420
BASE = "http://127.0.0.1:8750"


@pytest.fixture
def ids(jaskel, tmp_path) -> dict[str, str]:
    """Ids of a show, an episode, an edition, a recording and the rest of it."""
    episode = jaskel.episode()
    made = jaskel.upload(episode["id"], write_media(tmp_path / "a.mp4", tone(6), 150))["id"]
    jaskel.work("prepare", "picture")
    jaskel.words(made, [Word(f"word{i}", i * RATE, i * RATE + RATE // 2) for i in range(6)])
    edition, show = episode["editions"][0]["id"], episode["show_id"]
    export = jaskel.post(f"/api/editions/{edition}/exports", {"form": "wav"}, 202)
    jaskel.work("export")
    text = jaskel.client.post(f"/api/recordings/{made}/texts?name=a.txt", data=b"word0 word1 word2").json
    take = jaskel.post(f"/api/episodes/{episode['id']}/takes", {"name": "Take"}, 201)
    return {
        "show": show,
        "episode": episode["id"],
        "edition": edition,
        "recording": made,
        "export": export["id"],
        "job": export["id"],
        "text": text["id"],
        "take": take["id"],
        "note": jaskel.post(f"/api/episodes/{episode['id']}/notes", {"edition": edition, "laid": 9, "text": "Look"}, 201)["id"],
        "spelling": jaskel.post(f"/api/shows/{show}/spellings", {"term": "Tarn Hythe"}, 201)["id"],
    }


@pytest.fixture
def description(jaskel) -> dict:
    return jaskel.client.application.api_doc


def ask(client, made):
    return client.open(made.path, method=made.method, data=made.body, headers=made.headers)


def test_every_answer_is_one_that_is_described(jaskel, description, ids, caplog):
    caplog.set_level(logging.ERROR, logger="jaskel.web")
    for made in requests(description, ids, MANY, seed=11):
        response = ask(jaskel.client, made)
        assert response.status_code != 500, (made, caplog.text)
        if response.status_code >= 400 and response.data:
            told = ProblemOut.model_validate(json.loads(response.data))
            assert response.mimetype == "application/problem+json"
            assert told.status == response.status_code and told.detail, made
        if response.status_code not in (206, 304, 308, 405, 416):
            described = description["paths"][made.operation][made.method.lower()]["responses"]
            assert str(response.status_code) in described or "default" in described, (made, response.status_code, response.text)
    assert jaskel.get("/api/shows")


@pytest.mark.parametrize(
    "path", ["/assets/missing.js", "/favicon.ico", "/api/" + "x" * 300, "/" + "x" * 300, "/a%00.js", "/api/nothing"]
)
def test_what_is_not_there_is_told_so(jaskel, path):
    assert jaskel.client.get(path).status_code == 404


def test_its_own_addresses_open_the_page(jaskel):
    for path in ("/", "/episodes/0123456789ab", "/index.html"):
        response = jaskel.client.get(path)
        assert response.status_code in (200, 503), path


def test_the_browser_is_told_to_load_nothing_from_elsewhere(jaskel):
    headers = jaskel.client.get("/api/shows").headers
    policy = headers["Content-Security-Policy"]
    assert "frame-ancestors 'none'" in policy and "unsafe" not in policy and "*" not in policy
    assert headers["X-Content-Type-Options"] == "nosniff" and headers["Referrer-Policy"]


@pytest.mark.parametrize("name", ["a\r\nSet-Cookie: b=c", "a\0b", "a\tb\x1b[0m", "\u2028x"])
def test_names_are_lines_and_downloads_work(jaskel, tmp_path, name):
    show = jaskel.post("/api/shows", {"name": name}, 201)
    episode = jaskel.post(f"/api/shows/{show['id']}/episodes", {"title": name}, 201)
    assert not any(c < " " for c in show["name"] + episode["title"])
    jaskel.upload(episode["id"], write_media(tmp_path / "a.wav", tone(2)))
    jaskel.work()
    edition = episode["editions"][0]["id"]
    jaskel.post(f"/api/editions/{edition}/exports", {"form": "wav"}, 202)
    jaskel.work()
    done = jaskel.get(f"/api/episodes/{episode['id']}")["exports"][0]["id"]
    assert jaskel.client.get(f"/api/exports/{done}/file").status_code == 200


def test_valid_and_invalid_requests_are_answered_as_described(jaskel, ids):
    """One of each for every operation that there is, made up from its description by schemathesis."""
    asked = ask_all(jaskel.client.application, ids, 1)
    assert asked.many > 300 and asked.wrong == []


@pytest.mark.parametrize("role", ["proofreader", "exporter", "guest"])
def test_whatever_somebody_asks_for_they_get_no_further_than_their_role(settings, tmp_path, caplog, role):
    """Hundreds of requests change nothing of the cut, and none is answered by an error inside."""
    caplog.set_level(logging.ERROR, logger="jaskel.web")
    keeper = Jaskel(settings)
    episode = keeper.episode()
    recording = keeper.upload(episode["id"], write_media(tmp_path / "a.flac", tone(6)))["id"]
    keeper.work("prepare")
    edition, show = episode["editions"][0]["id"], episode["show_id"]
    with keeper.workshop.home.database.write() as session:
        account = accounts.new_account(session, "Teo", "teo@example.org", "ropes tar and nine kettles")
        if role == "guest":
            row = session.get_one(EditionRow, edition)
            link, _ = accounts.let_guests_in(session, row, "Press", now() + timedelta(days=1))
            secret = accounts.enter(session, link, "Pat")
        else:
            accounts.set_role(session, show, account.id, role)
            secret = accounts.sign_in(session, account)
    app = create_app(replace(settings, team=True))
    client = app.test_client()
    with client.session_transaction(base_url=BASE) as cookie:
        cookie["_user_id"] = secret
    assert client.get("/api/me", base_url=BASE).json["signed_in"]
    ids = {"show": show, "episode": episode["id"], "edition": edition, "recording": recording}
    before = keeper.edition(edition).pieces
    answers = Counter()
    for made in requests(app.api_doc, ids, 300, seed=5):
        if made.operation.startswith(("/api/sign-out", "/api/me/password")):
            continue
        response = ask(client, made)
        assert response.status_code != 500, (made, caplog.text)
        answers[response.status_code] += 1
    assert answers[403] > 40 and answers[401] == 0, answers
    assert keeper.edition(edition).pieces == before
    assert show in {each["id"] for each in keeper.get("/api/shows")["shows"] if not each["deleted"]}
    assert keeper.get(f"/api/episodes/{episode['id']}")["title"] == episode["title"]
    keeper.workshop.close()
