"""The library: folders, archive, deletion with a way back, duplicates, and search over everything that was said."""

from __future__ import annotations

from io import BytesIO

import pytest
from conftest import RATE, tone, write_media
from PIL import Image
from sqlalchemy import event
from test_api import strike

from jaskel.core.transcript import Word
from jaskel.store import library
from jaskel.store.models import Recording
from jaskel.web.app import create_app


@pytest.fixture
def episode(jaskel, tmp_path):
    """An episode in which four words are said."""
    made = jaskel.episode()
    recording = jaskel.upload(made["id"], write_media(tmp_path / "a.flac", tone(10)))["id"]
    jaskel.work()
    jaskel.words(
        recording,
        [Word(t, i * RATE, i * RATE + 9000) for i, t in enumerate(["You", "see", "daylight,", "through", "her", "planks"])],
    )
    return jaskel.get(f"/api/episodes/{made['id']}")


def change(jaskel, episode, status=200, **what):
    body = {"title": None, "folder": None, "archived": None, "deleted": None, **what}
    response = jaskel.client.patch(f"/api/episodes/{episode['id']}", json=body)
    assert response.status_code == status, response.text
    return response.json


def listed(jaskel, episode):
    shows = jaskel.get("/api/shows")["shows"]
    return next(e for show in shows for e in show["episodes"] if e["id"] == episode["id"])


def found(jaskel, words):
    return [(hit["before"], hit["words"], hit["after"]) for hit in jaskel.get(f"/api/search?words={words}")["hits"]]


class TestListing:
    def test_an_episode_tells_its_state_and_length(self, jaskel, episode):
        known = listed(jaskel, episode)
        assert (known["state"], known["length"], known["recordings"]) == ("transcribed", 10 * RATE, 1)

    def test_the_length_follows_the_cuts(self, jaskel, episode):
        strike(jaskel, episode["editions"][0]["id"], 1, (0, 4 * RATE))
        assert listed(jaskel, episode)["length"] == 6 * RATE

    def test_an_episode_tells_what_waits_in_it_and_who_worked_on_it_last(self, jaskel, episode, tmp_path):
        nothing = {"preparing": 0, "failed": 0, "to_transcribe": 0, "to_place": 0}
        assert listed(jaskel, episode)["waiting"] == nothing
        jaskel.upload(episode["id"], write_media(tmp_path / "b.wav", tone(3, 300)))
        assert listed(jaskel, episode)["waiting"] == {**nothing, "preparing": 1}
        jaskel.work("prepare")
        assert listed(jaskel, episode)["waiting"] == {**nothing, "to_transcribe": 1}
        edition = episode["editions"][0]["id"]
        for at, who in enumerate(("Ines", "Orla")):
            revision = jaskel.get(f"/api/editions/{edition}")["revision"]
            operation = {"kind": "strike", "ranges": [{"begin": at * RATE, "end": at * RATE + 9000}]}
            body = {"revision": revision, "operation": operation, "who": who}
            assert jaskel.client.post(f"/api/editions/{edition}/operations", json=body).status_code == 200
        assert listed(jaskel, episode)["who"] == "Orla"

    def test_an_episode_has_a_picture_of_its_own(self, jaskel, episode, tmp_path):
        def picture():
            shown = jaskel.client.get(f"/api/episodes/{episode['id']}/picture")
            assert shown.status_code == 200 and shown.mimetype == "image/jpeg"
            return Image.open(BytesIO(shown.data))

        card = picture()
        assert card.size == (320, 180)
        Image.new("RGB", (800, 400), (200, 30, 40)).save(tmp_path / "red.png")
        jaskel.upload(episode["id"], tmp_path / "red.png")
        jaskel.work()
        red = picture()
        assert red.size == (320, 180) and red.getpixel((160, 90))[1] < 60 < card.getpixel((160, 90))[1]

    def test_the_demo_is_added_to_an_empty_library(self, jaskel):
        shown = jaskel.client.post("/api/demo")
        assert shown.status_code == 201 and shown.json["title"] == "The dry hull"
        (show,) = jaskel.get("/api/shows")["shows"]
        assert [(each["title"], each["waiting"]["preparing"]) for each in show["episodes"]] == [
            ("The dry hull", 4),
            ("The dry hull, mixed", 1),
            ("Mending a torn sail", 1),
        ]

    def test_renamed_laid_in_a_folder_and_archived(self, jaskel, episode):
        change(jaskel, episode, title="The wet hull", folder="Spring", archived=True)
        known = listed(jaskel, episode)
        assert (known["title"], known["folder"], known["archived"]) == ("The wet hull", "Spring", True)

    def test_an_empty_name_is_refused(self, jaskel, episode):
        change(jaskel, episode, 422, title="  ")

    def test_deleted_and_brought_back_with_everything(self, jaskel, episode):
        change(jaskel, episode, deleted=True)
        assert listed(jaskel, episode)["deleted"]
        assert found(jaskel, "daylight") == []
        change(jaskel, episode, deleted=False)
        assert not listed(jaskel, episode)["deleted"]
        assert len(found(jaskel, "daylight")) == 1

    def test_a_show_is_deleted_and_brought_back(self, jaskel, episode):
        show = jaskel.get("/api/shows")["shows"][0]["id"]
        for deleted in (True, False):
            body = {"name": None, "about": None, "deleted": deleted}
            assert jaskel.client.patch(f"/api/shows/{show}", json=body).json["deleted"] == deleted
            assert len(found(jaskel, "daylight")) == (0 if deleted else 1)


class TestDuplicates:
    def test_with_everything_and_apart_from_then_on(self, jaskel, episode):
        edition = episode["editions"][0]["id"]
        strike(jaskel, edition, 1, (0, RATE))
        copy = jaskel.post(f"/api/episodes/{episode['id']}/duplicate", {"title": "Second"}, 201)
        twin = copy["editions"][0]["id"]
        assert jaskel.get(f"/api/editions/{twin}")["struck"] == [[0, RATE]]
        words = [t["text"] for p in jaskel.get(f"/api/editions/{twin}/page")["passages"] for t in p["tokens"] if t["k"] == "w"]
        assert "daylight," in words
        jaskel.post(f"/api/editions/{twin}/undo", {"revision": 2})
        assert jaskel.get(f"/api/editions/{twin}")["struck"] == []
        assert jaskel.get(f"/api/editions/{edition}")["struck"] == [[0, RATE]]
        assert jaskel.get(f"/api/editions/{twin}/blocks")["blocks"]

    def test_as_a_template_only_set_up_like_it(self, jaskel, episode):
        copy = jaskel.post(f"/api/episodes/{episode['id']}/duplicate", {"title": "Next", "template": True}, 201)
        assert copy["recordings"] == []
        assert [e["name"] for e in copy["editions"]] == ["Programme"]


class TestSearch:
    def test_words_are_found_whatever_their_capitals_and_commas(self, jaskel, episode):
        assert found(jaskel, "SEE daylight") == [("You", "see daylight,", "through her planks")]

    def test_the_last_word_may_be_a_beginning(self, jaskel, episode):
        assert len(found(jaskel, "through her pla")) == 1
        assert found(jaskel, "thro her") == []

    def test_a_hit_lies_in_the_edition_where_the_word_is(self, jaskel, episode):
        hit = jaskel.get("/api/search?words=daylight")["hits"][0]
        edition = episode["editions"][0]["id"]
        place = jaskel.get(f"/api/editions/{edition}/place?recording={hit['recording_id']}&at={hit['at']}")
        assert place["laid"] == 2 * RATE

    def test_retyped_words_are_found_as_they_are_now(self, jaskel, episode):
        body = {"kind": "retype", "ranges": [{"begin": 2 * RATE, "end": 2 * RATE + 9000}], "text": "moonlight"}
        jaskel.post(f"/api/editions/{episode['editions'][0]['id']}/operations", {"revision": 1, "operation": body})
        assert found(jaskel, "daylight") == []
        assert len(found(jaskel, "moonlight")) == 1

    def test_signs_of_the_query_language_are_only_signs(self, jaskel, episode):
        assert found(jaskel, '"day* OR (') == []
        assert found(jaskel, "%21%3F") == []

    def test_a_thousand_episodes_take_no_more_questions_than_one(self, jaskel):
        home = jaskel.workshop.home
        words = [Word(text, i * 9000, i * 9000 + 8000) for i, text in enumerate(["so", "we", "flood", "her", "slowly"])]
        with home.database.write() as session:
            show = library.new_show(session, "Ropewalk")
            for number in range(1000):
                episode = library.new_episode(session, show, f"Episode {number}")
                recording = Recording(episode_id=episode.id, name="r", digest=str(number), size=1, info={}, length=10 * RATE)
                session.add(recording)
                session.flush()
                extra = [Word("daylight", 9 * RATE, 10 * RATE)] if number == 500 else []
                home.transcripts.extend(session, recording, 0, 10 * RATE, words + extra)
        asked: list[str] = []
        app = create_app(jaskel.settings)
        engine = app.extensions["jaskel"].workshop.home.database.engine
        event.listen(engine, "before_cursor_execute", lambda *a: asked.append(a[2]))
        (hit,) = app.test_client().get("/api/search?words=daylight").json["hits"]
        assert hit["episode"] == "Episode 500"
        assert len(app.test_client().get("/api/shows").json["shows"][0]["episodes"]) == 1000
        assert len(asked) < 20
