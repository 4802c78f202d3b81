"""From a written text to a film, through the API."""
# ruff: noqa: F811

from __future__ import annotations

import json

import numpy as np
import pytest
import soundfile
from conftest import RATE, write_media
from PIL import Image
from test_cutaways_of_editions import library  # noqa: F401

from jaskel.core.transcript import Word

TEXT = """# The dry hull

A wooden boat dries out on land. Her planks shrink in the sun. Water runs in through every seam.

## Bread

Bread needs time more than anything. The dough rises in a warm place. Bake it until the crust sings.
"""
SENTENCES = ["A wooden boat dries out on land.", "Bread needs time more than anything.", "Bake it until the crust sings."]


def film(jaskel, episode, **asked):
    body = {"name": "Short", "sentences": SENTENCES, **asked}
    job = jaskel.post(f"/api/episodes/{episode}/films", body, 202)
    jaskel.work("told")
    known = jaskel.get(f"/api/episodes/{episode}")
    assert [each["trouble"] for each in known["jobs"] if each["id"] == job["id"]] == []
    return next(each for each in known["editions"] if each["name"] == "Short")["id"]


class TestSentences:
    def test_a_file_is_read_and_its_sentences_are_proposed_and_corrected(self, jaskel):
        read = jaskel._checked(jaskel.client.post("/api/articles?name=a.md", data=TEXT.encode()), 200)
        body = {"text": read["text"], "length": 7 * RATE}
        told = jaskel.post("/api/articles/sentences", body, 200)
        assert len(told["sentences"]) == 6 and 0 < sum(each["chosen"] for each in told["sentences"]) < 6
        first = next(at for at, each in enumerate(told["sentences"]) if each["chosen"])
        other = jaskel.post("/api/articles/sentences", {**body, "refused": [first]}, 200)
        assert not other["sentences"][first]["chosen"]
        assert any(each["chosen"] for each in other["sentences"])

    @pytest.mark.parametrize("text", ["", "# Only a heading", "   "])
    def test_a_text_without_sentences_is_told(self, jaskel, text):
        assert jaskel.post("/api/articles/sentences", {"text": text, "length": RATE}, 422)["code"] == "nothing-written"


class TestFilms:
    def test_every_sentence_is_read_and_is_a_passage_with_a_picture(self, library):
        jaskel = library
        episode = jaskel.episode()["id"]
        edition = film(jaskel, episode, titles=True, length=9 * RATE)
        page = jaskel.get(f"/api/editions/{edition}/page")
        said = [" ".join(token["text"] for token in each["tokens"] if token["text"]) for each in page["passages"]]
        assert said == SENTENCES
        head = jaskel.get(f"/api/editions/{edition}")
        assert (len(head["cutaways"]), len(head["graphics"])) == (3, 3) and head["shape"] == "wide"
        assert len({each["recording"] for each in head["cutaways"]}) == 3
        # Rests are eased towards the length that was asked for.
        assert head["running_time"] == pytest.approx(9 * RATE, rel=0.05)
        recordings = jaskel.get(f"/api/episodes/{episode}")["recordings"]
        assert all(each["working_copy"] for each in recordings if each["kind"] == "still")
        sound, _ = soundfile.read(jaskel.workshop.home.vault.sound(self.digest(jaskel, recordings, "read by a machine")))
        assert float(np.abs(sound).max()) > 0.05
        job = jaskel.post(f"/api/editions/{edition}/exports", {"form": "mp4"}, 202)
        jaskel.work("export")
        assert jaskel.client.get(f"/api/exports/{job['id']}/file").status_code == 200

    def digest(self, jaskel, recordings, name):
        from jaskel.store.models import Recording

        with jaskel.workshop.home.database.read() as session:
            return session.get_one(Recording, next(each["id"] for each in recordings if name in each["name"])).digest

    def test_where_nothing_fits_what_is_seen_before_stays(self, library):
        body = [
            "The harbour lies still at dawn.",
            "Invoice number seven is overdue.",
            "Invoice number seven is overdue.",
            "A lighthouse shines at night.",
        ]
        edition = film(library, library.episode()["id"], sentences=body, reader="nobody")
        seen = sorted(library.get(f"/api/editions/{edition}")["cutaways"], key=lambda each: each["begin"])
        # The one picture that fits them is used once, and stays.
        assert len(seen) == 3 and seen[1]["end"] == seen[2]["begin"]

    def test_the_episodes_own_pictures_come_first(self, library, tmp_path):
        jaskel = library
        episode = jaskel.episode()["id"]
        Image.new("RGB", (640, 360), "brown").save(tmp_path / "A loaf of bread with a crust.png")
        own = jaskel.upload(episode, tmp_path / "A loaf of bread with a crust.png")["id"]
        jaskel.work()
        edition = film(jaskel, episode, reader="nobody")
        shown = [each["recording"] for each in jaskel.get(f"/api/editions/{edition}")["cutaways"]]
        assert shown.count(own) == 1 and shown.index(own) in (1, 2)

    def test_a_recording_in_which_somebody_reads_it_is_cut_to_its_sentences(self, jaskel, tmp_path):
        episode = jaskel.episode()["id"]
        words = f"Right um {SENTENCES[0]} no again {SENTENCES[1]} Bake it until {SENTENCES[2]} That was it".split()
        sound = write_media(tmp_path / "read.wav", np.full(len(words) * RATE, 0.1, np.float32))
        recording = jaskel.upload(episode, sound)["id"]
        jaskel.work()
        jaskel.words(recording, [Word(word, at * RATE, at * RATE + RATE // 2) for at, word in enumerate(words)])
        edition = film(jaskel, episode, reader=recording, pictures=False)
        page = jaskel.get(f"/api/editions/{edition}/page")
        heard = " ".join(token["text"] for each in page["passages"] for token in each["tokens"] if token["text"])
        assert heard == " ".join(SENTENCES)

    def test_without_the_library_there_is_a_film_without_pictures(self, jaskel):
        edition = film(jaskel, jaskel.episode()["id"], reader="nobody")
        assert jaskel.get(f"/api/editions/{edition}")["cutaways"] == []

    def test_what_is_missing_is_told_and_nothing_is_left_behind(self, jaskel, tmp_path):
        episode, other = jaskel.episode()["id"], jaskel.episode()["id"]
        recording = jaskel.upload(other, write_media(tmp_path / "a.wav", np.full(RATE, 0.1, np.float32)))["id"]
        jaskel.work()
        body = {"name": "Short", "sentences": SENTENCES}
        for wrong in ({"reader": recording}, {"music": "gone"}):
            assert jaskel.post(f"/api/episodes/{episode}/films", {**body, **wrong}, 404)["code"] == "no-recording"
        jaskel.post(f"/api/episodes/{other}/films", {**body, "reader": recording}, 202)
        jaskel.work("told")
        known = jaskel.get(f"/api/episodes/{other}")
        assert "not known yet" in next(each["trouble"] for each in known["jobs"] if each["kind"] == "told")
        assert len(known["recordings"]) == 1 and len(known["editions"]) == 1
        assert json.dumps(known).count("Short") <= 1
