"""A transcript that is made anew: corrections stay, and where it comes to nothing the old words come back."""

from __future__ import annotations

import pytest
from conftest import RATE, tone, write_media

from jaskel.core.problem import Problem
from jaskel.core.transcript import Word, with_corrections
from jaskel.jobs import transcribe as transcribing
from jaskel.jobs.carry_out import carry_out
from jaskel.jobs.progress import Interrupted
from jaskel.jobs.queue import cancel
from jaskel.speech.language import Spoken
from jaskel.speech.transcribe import Part
from jaskel.store.models import Recording


def words(*texts, confidence=0.9):
    return tuple(Word(text, (index + 1) * RATE, (index + 1) * RATE + RATE // 2, confidence) for index, text in enumerate(texts))


class TestCorrections:
    def test_what_was_typed_stands_in_the_place_of_what_lies_there(self):
        old = (*words("so", "we"), Word("Ropewalk", 3 * RATE, 4 * RATE, 1.0))
        new = words("so", "oui", "rope", "walk")
        assert [word.text for word in with_corrections(new, old)] == ["so", "oui", "Ropewalk", "walk"]

    def test_words_beside_it_give_way(self):
        old = (Word("Ropewalk", 2 * RATE, 4 * RATE, 1.0),)
        new = (
            Word("in", RATE, 2 * RATE + 100),
            Word("rope", 2 * RATE + 100, 3 * RATE),
            Word("now", 3 * RATE + 40_000, 6 * RATE),
        )
        kept = with_corrections(new, old)
        assert [(word.text, word.start, word.end) for word in kept] == [
            ("in", RATE, 2 * RATE), ("Ropewalk", 2 * RATE, 4 * RATE), ("now", 4 * RATE, 6 * RATE),
        ]  # fmt: skip

    def test_without_corrections_it_is_the_new_one(self):
        assert with_corrections(words("a"), words("b", "c")) == words("a")


class Known:
    """A recording that is transcribed already, with a correction; what is heard in it from now on is given."""

    def __init__(self, jaskel, path, monkeypatch):
        self.jaskel, self.monkeypatch = jaskel, monkeypatch
        self.episode = jaskel.episode()["id"]
        self.id = jaskel.upload(self.episode, write_media(path, tone(6)))["id"]
        jaskel.work()
        jaskel.words(self.id, words("bon", "journo"))
        edition = jaskel.get(f"/api/episodes/{self.episode}")["editions"][0]["id"]
        revision = jaskel.get(f"/api/editions/{edition}")["revision"]
        stretch = [{"begin": 2 * RATE, "end": 2 * RATE + RATE // 2}]
        body = {"kind": "retype", "ranges": stretch, "text": "Giorno"}
        jaskel.post(f"/api/editions/{edition}/operations", {"revision": revision, "operation": body})

    def hears(self, *found, refusal=None):
        def transcribe(_sound, length, *_):
            yield Part(0, length, words(*found))
            if refusal:
                raise refusal

        self.monkeypatch.setattr(transcribing, "transcribe", transcribe)

    def again(self, language):
        self.jaskel.client.patch(f"/api/recordings/{self.id}", json={"language": language})
        self.jaskel.post(f"/api/recordings/{self.id}/transcript?anew=true")

    def job(self):
        return self.jaskel.get(f"/api/episodes/{self.episode}")["jobs"][-1]

    def stands(self):
        """Its words, how its transcript stands, and its language."""
        home = self.jaskel.workshop.home
        with home.database.read() as session:
            known = session.get_one(Recording, self.id)
            return [word.text for word in home.transcripts.of(session, known).words], known.transcript_state, known.language


@pytest.fixture
def known(jaskel, tmp_path, monkeypatch):
    monkeypatch.setattr(transcribing, "recogniser_for", lambda *_: None)
    monkeypatch.setattr(transcribing, "spoken_in", lambda *_: Spoken("it", 0.99))
    return Known(jaskel, tmp_path / "a.wav", monkeypatch)


def test_it_is_heard_again_and_corrections_stay(jaskel, known):
    jaskel.post(f"/api/recordings/{known.id}/transcript", status=422)
    known.hears("buon", "iorno", "a", "tutti")
    known.again("auto")
    jaskel.work("transcribe")
    assert known.stands() == (["buon", "Giorno", "a", "tutti"], "done", "it")


def test_where_it_fails_the_old_words_come_back(jaskel, known):
    known.hears("niente", refusal=Problem("no-weights", "There are no weights."))
    known.again("it")
    jaskel.work("transcribe")
    assert known.stands() == (["bon", "Giorno"], "done", "it")


def test_tried_again_after_that_it_is_made(jaskel, known):
    known.hears("niente", refusal=Problem("no-weights", "There are no weights."))
    known.again("it")
    jaskel.work("transcribe")
    known.hears("buon", "iorno")
    jaskel.post(f"/api/jobs/{known.job()['id']}/retry")
    jaskel.work("transcribe")
    assert known.stands() == (["buon", "Giorno"], "done", "it")


def test_cancelled_while_it_waits_nothing_has_happened(jaskel, known):
    known.again("it")
    cancel(jaskel.workshop.home, known.job()["id"])
    assert known.stands() == (["bon", "Giorno"], "done", "it")


def test_interrupted_it_goes_on_and_the_old_words_are_not_lost(jaskel, known):
    known.hears("buon", refusal=Interrupted())
    known.again("it")
    carry_out(jaskel.workshop, known.job()["id"])
    assert known.stands()[0] == ["buon"]
    cancel(jaskel.workshop.home, known.job()["id"])
    assert known.stands() == (["bon", "Giorno"], "done", "it")
