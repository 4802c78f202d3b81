"""Publishing: to the simulated host, read back as a player does, and held against the rules of the podcast namespace."""

from __future__ import annotations

import json
import re
import urllib.request
from dataclasses import replace
from threading import Thread
from uuid import UUID

import feedparser
import pytest
from conftest import RATE, tone, write_media
from flask import Flask
from lxml import etree
from sqlalchemy import select
from werkzeug.serving import make_server

from jaskel.core.transcript import Word
from jaskel.standins.publishing_host import PREFIX, api_in
from jaskel.store.models import Recording, Voice

PODCAST = "{https://podcastindex.org/namespace/1.0}"


@pytest.fixture
def host(tmp_path):
    app = Flask("host")
    app.register_blueprint(api_in(tmp_path / "published"))
    server = make_server("127.0.0.1", 0, app, threaded=True)
    thread = Thread(target=server.serve_forever, daemon=True)
    thread.start()
    yield f"http://127.0.0.1:{server.port}{PREFIX}"
    server.shutdown()


@pytest.fixture
def settings(settings, host):
    return replace(settings, publishing_host=host)


@pytest.fixture
def exported(jaskel, tmp_path):
    episode = jaskel.episode()
    recording = jaskel.upload(episode["id"], write_media(tmp_path / "a.wav", tone(8)))["id"]
    jaskel.work()
    with jaskel.workshop.home.database.write() as session:
        show = session.scalar(select(Recording)).episode.show
        session.add_all(
            [
                Voice(id="o", show_id=show.id, number=1, name="Orla Venn", role="Host"),
                Voice(id="t", show_id=show.id, number=2, name="Teo"),
            ]
        )
    jaskel.words(recording, [Word(f"w{n}.", n * RATE, n * RATE + RATE // 2, 0.9, "ot"[n % 2]) for n in range(8)])
    episode["edition"] = episode["editions"][0]["id"]
    jaskel.post(
        f"/api/episodes/{episode['id']}/chapters", {"edition": episode["edition"], "laid": 0, "title": "Dry <planks>"}, 201
    )
    episode["job"] = jaskel.post(f"/api/editions/{episode['edition']}/exports", {"destination": "podcast"}, 202)["id"]
    jaskel.work("export")
    return episode


def publish(jaskel, episode, status=202, **more):
    body = {"export": episode["job"], "title": "The dry hull & more", "summary": "Why it leaks.\x07", "season": 2, "number": 7}
    told = jaskel.post(f"/api/episodes/{episode['id']}/publish", body | more, status)
    jaskel.work("publish")
    return told


def feed(jaskel, episode):
    return jaskel.get(f"/api/shows/{episode['show_id']}/feed?episode={episode['id']}")


def test_what_was_published_is_read_back_by_a_player(jaskel, exported, host):
    known = feed(jaskel, exported)
    assert known["persons"] == [{"name": "Orla Venn", "role": "host"}, {"name": "Teo", "role": "guest"}]
    assert known["next"] == 1
    jaskel.put(
        f"/api/shows/{exported['show_id']}/feed", {"author": "The yard", "site": "https://yard.example", "language": "en-GB"}
    )
    publish(jaskel, exported, persons=known["persons"])
    known = feed(jaskel, exported)
    assert known["next"] == 8 and known["published"][0]["title"] == "The dry hull & more"
    with urllib.request.urlopen(known["address"]) as answer:
        content = answer.read()
    read = feedparser.parse(content)
    assert not read.bozo and read.feed.title == "Ropewalk" and read.feed.language == "en-GB"
    (entry,) = read.entries
    assert entry.title == "The dry hull & more" and entry.summary == "Why it leaks." and entry.published_parsed
    (enclosure,) = entry.enclosures
    with urllib.request.urlopen(urllib.request.Request(enclosure.href, headers={"Range": "bytes=0-99"})) as sound:
        assert sound.status == 206 and len(sound.read()) == 100
    with urllib.request.urlopen(enclosure.href) as sound:
        assert len(sound.read()) == int(enclosure.length) and enclosure.type == "audio/mpeg"
    follow_the_namespace(etree.fromstring(content))


def follow_the_namespace(root):
    """The rules of the podcast namespace for the elements that are used."""
    channel = root.find("channel")
    assert UUID(channel.findtext(f"{PODCAST}guid")).version == 5
    assert channel.findtext(f"{PODCAST}medium") in ("podcast", "video")
    (item,) = channel.findall("item")
    assert re.fullmatch(r"\d+", item.findtext(f"{PODCAST}season")) and float(item.findtext(f"{PODCAST}episode")) == 7
    (transcript,) = item.findall(f"{PODCAST}transcript")
    assert (
        transcript.get("type") == "text/vtt" and transcript.get("rel") == "captions" and transcript.get("language") == "en-GB"
    )
    with urllib.request.urlopen(transcript.get("url")) as file:
        assert file.read().startswith(b"WEBVTT")
    chapters = item.find(f"{PODCAST}chapters")
    assert chapters.get("type") == "application/json+chapters"
    with urllib.request.urlopen(chapters.get("url")) as file:
        assert json.load(file)["chapters"][0]["title"] == "Dry <planks>"
    people = item.findall(f"{PODCAST}person")
    assert [(each.text, each.get("role"), each.get("group")) for each in people] == [
        ("Orla Venn", "host", "cast"), ("Teo", "guest", "cast")
    ]  # fmt: skip
    assert all(len(each.text) <= 128 for each in people)


def test_published_again_it_is_replaced_and_withdrawn_it_is_gone(jaskel, exported, host):
    publish(jaskel, exported)
    first = feed(jaskel, exported)["published"][0]
    exported["job"] = jaskel.post(f"/api/editions/{exported['edition']}/exports", {"destination": "chapters"}, 202)["id"]
    jaskel.work("export")
    publish(jaskel, exported, number=8)
    (again,) = feed(jaskel, exported)["published"]
    assert again["id"] == first["id"] and again["files"][0].endswith(".m4a")
    with pytest.raises(urllib.error.HTTPError):
        urllib.request.urlopen(first["files"][0])
    jaskel.post(f"/api/episodes/{exported['id']}/withdraw", status=202)
    jaskel.work("withdraw")
    assert feed(jaskel, exported)["published"] == []
    with urllib.request.urlopen(feed(jaskel, exported)["address"]) as answer:
        assert feedparser.parse(answer.read()).entries == []
    with pytest.raises(urllib.error.HTTPError):
        urllib.request.urlopen(again["files"][0])
    jaskel.post(f"/api/episodes/{exported['id']}/withdraw", status=404)


def test_words_alone_are_no_episode(jaskel, exported):
    exported["job"] = jaskel.post(f"/api/editions/{exported['edition']}/exports", {"form": "txt"}, 202)["id"]
    jaskel.work("export")
    assert "no sound or film" in publish(jaskel, exported, 422)["detail"]
    jaskel.client.delete(f"/api/exports/{exported['job']}")
    publish(jaskel, exported, 404)


@pytest.mark.parametrize("name", ["../x", "a%2Fb", ".hidden", "a" * 250, "x\n"])
def test_the_host_takes_no_names_that_lead_elsewhere(host, name):
    request = urllib.request.Request(f"{host}/shows/s/{urllib.request.quote(name, safe='%')}", data=b"x", method="PUT")
    with pytest.raises(urllib.error.HTTPError) as told:
        urllib.request.urlopen(request)
    assert told.value.code in (400, 404)


class TestWithoutAHost:
    @pytest.fixture
    def settings(self, settings):
        return replace(settings, publishing_host="http://127.0.0.1:9/nowhere")

    def test_one_that_does_not_answer_is_told_and_nothing_is_in_the_feed(self, jaskel, exported):
        publish(jaskel, exported)
        assert feed(jaskel, exported)["published"] == []
        (job,) = [each for each in jaskel.get(f"/api/episodes/{exported['id']}")["jobs"] if each["kind"] == "publish"]
        assert "does not answer" in job["trouble"]
