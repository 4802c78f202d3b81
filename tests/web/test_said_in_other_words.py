"""Finding what was said by what it means, in the whole library."""

from __future__ import annotations

from itertools import pairwise

import numpy as np
import pytest
from conftest import RATE, write_media

from jaskel.core.reuse.stretches import TOGETHER, stretches_of
from jaskel.core.transcript import Word
from jaskel.store.meant import MeantFiles
from jaskel.store.models import Recording

BOATS = """The hull shrinks when she stands on land and the planks open up. My father taught me to knead the dough until it
sings. Nobody in this village remembers who built the lighthouse. The orchestra rehearses in an old theatre by the river."""


def words(text, at=0):
    said = text.split()
    return [Word(word, at + n * RATE // 2, at + n * RATE // 2 + RATE * 2 // 5) for n, word in enumerate(said)]


@pytest.fixture
def talk(jaskel, tmp_path):
    episode = jaskel.episode()["id"]
    recording = jaskel.upload(episode, write_media(tmp_path / "talk.wav", np.full(60 * RATE, 0.1, np.float32)))["id"]
    jaskel.work()
    said(jaskel, recording, BOATS)
    return recording


def said(jaskel, recording, text, language="en"):
    jaskel.words(recording, words(text))
    with jaskel.workshop.home.database.write() as session:
        session.get_one(Recording, recording).language = language


def search(jaskel, text, **query):
    more = "".join(f"&{name}={value}" for name, value in query.items())
    return jaskel.get(f"/api/search/meaning?words={text}{more}")


def index(jaskel):
    waiting = jaskel.post("/api/search/index", status=202)["waiting"]
    jaskel.work("meant")
    return waiting


def test_what_was_said_in_other_words_is_found_once_it_is_indexed(jaskel, talk):
    assert search(jaskel, "boats that dry out") == {"hits": [], "waiting": 1}
    assert (index(jaskel), index(jaskel)) == (1, 0)
    found = search(jaskel, "boats that dry out")
    assert found["waiting"] == 0 and found["hits"][0]["words"].startswith("The hull shrinks")
    assert (found["hits"][0]["recording_id"], found["hits"][0]["at"]) == (talk, 0)
    assert search(jaskel, "baking bread")["hits"][0]["words"].startswith("My father taught me")
    assert search(jaskel, "quarterly tax accounting software licence")["hits"] == []


def test_a_correction_is_found_and_what_it_replaced_is_not(jaskel, talk):
    index(jaskel)
    with jaskel.workshop.home.database.write() as session:
        row = session.get_one(Recording, talk)
        jaskel.workshop.home.transcripts.clear(session, row)
        jaskel.workshop.home.transcripts.extend(
            session, row, 0, row.length, words(BOATS.replace("The orchestra rehearses", "The butcher sharpens his knives"))
        )
    assert search(jaskel, "musicians practise")["waiting"] == 1
    rows = len(MeantFiles(jaskel.workshop.home.vault.meant))
    index(jaskel)
    assert "orchestra" not in str(search(jaskel, "musicians practise"))
    assert search(jaskel, "cutting meat with blades")["hits"][0]["words"].startswith("The butcher")
    # What reads as before is not there twice in what is found.
    assert len(MeantFiles(jaskel.workshop.home.vault.meant)) > rows
    assert [hit["words"][:8] for hit in search(jaskel, "boats that dry out")["hits"]].count("The hull") == 1


def test_other_shows_and_deleted_episodes_are_passed_over(jaskel, talk):
    index(jaskel)
    show = jaskel.get("/api/shows")["shows"][0]
    assert search(jaskel, "boats that dry out", show=show["id"])["hits"]
    assert search(jaskel, "boats that dry out", show="another")["hits"] == []
    jaskel._checked(jaskel.client.patch(f"/api/episodes/{show['episodes'][0]['id']}", json={"deleted": True}), 200)
    assert search(jaskel, "boats that dry out")["hits"] == []


def test_other_languages_wait_for_nobody(jaskel, talk):
    with jaskel.workshop.home.database.write() as session:
        session.get_one(Recording, talk).language = "de"
    assert search(jaskel, "boats") == {"hits": [], "waiting": 0}


def test_files_that_were_removed_are_made_again(jaskel, talk):
    index(jaskel)
    MeantFiles(jaskel.workshop.home.vault.meant).clear()
    assert search(jaskel, "boats that dry out")["hits"] == []
    with jaskel.workshop.home.database.write() as session:
        session.get_one(Recording, talk).transcript_revision += 1
    index(jaskel)
    assert search(jaskel, "boats that dry out")["hits"]


def test_rows_that_were_written_by_half_are_written_over(jaskel, talk):
    index(jaskel)
    files = MeantFiles(jaskel.workshop.home.vault.meant)
    with files._vectors.open("ab") as half:
        half.write(b"\1" * 100)
    before = len(files)
    other = jaskel.episode()["id"]
    with jaskel.workshop.home.database.write() as session:
        row = session.get_one(Recording, talk)
        session.add(twin := Recording(**{c.name: getattr(row, c.name) for c in Recording.__table__.columns if c.name != "id"}))
        twin.episode_id = other
        session.flush()
        jaskel.workshop.home.transcripts.extend(session, twin, 0, row.length, words("A heron stands in the shallow water."))
    index(jaskel)
    assert len(files) == before + 1  # a sentence alone
    assert search(jaskel, "a bird waits in the pond")["hits"][0]["words"].startswith("A heron")


def test_stretches_are_sentences_and_some_of_them_together():
    found = stretches_of(words("Yes. No. " + BOATS))
    alone = [each.text for each in found if each.text.count(".") == 1]
    assert len(alone) == 4 and alone[0].startswith("The hull")
    together = [each for each in found if each.text.count(".") > 1]
    assert together[0].text.startswith("Yes. No. The hull") and together[-1].text.endswith("by the river.")
    assert all(len(each.text.split()) <= TOGETHER for each in together)
    # Those that follow one another share sentences, but for a long rest.
    assert all(later.start < earlier.end for earlier, later in pairwise(together))
    apart = stretches_of([*words(BOATS), *words(BOATS, 60 * RATE)])
    assert not any(each.start < 50 * RATE < each.end for each in apart)


def test_one_long_sentence_is_one_stretch():
    assert [each.text for each in stretches_of(words("word " * 50))] == ["word " * 49 + "word"]
    assert stretches_of([]) == []


class TestGathered:
    def test_selects_are_found_by_what_they_mean_and_heard(self, jaskel, talk):
        show = jaskel.get("/api/shows")["shows"][0]
        episode = show["episodes"][0]["id"]
        edition = jaskel.get(f"/api/episodes/{episode}")["editions"][0]["id"]
        for begin, end in ((0, 6), (6, 12)):
            stretch = {"begin": begin * RATE, "end": end * RATE}
            jaskel.post(f"/api/episodes/{episode}/selects", {"edition": edition, "ranges": [stretch], "colour": "moss"}, 201)

        def gathered(query):
            return jaskel.get(f"/api/shows/{show['id']}/selects?{query}")["gathered"]

        assert gathered("text=boats drying out") == []
        found = gathered("text=boats drying out&meaning=true")
        assert found[0]["text"].startswith("The hull") and len(found) == 1
        select = found[0]["select"]
        path = f"/api/stretches/{select['recording']}/sound"
        heard = jaskel.client.get(f"{path}?start={select['start']}&end={select['end']}")
        assert heard.mimetype == "audio/wav" and len(heard.data) > (select["end"] - select["start"]) * 2
        assert jaskel.get(f"{path}?start=5&end=5", 422)["code"] == "nothing-there"
        assert jaskel.get("/api/stretches/gone/sound?start=0&end=5", 404)["code"] == "recording-gone"
