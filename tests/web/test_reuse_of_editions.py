"""Chapters, highlights and clips through the API, of a talk on three subjects."""

from __future__ import annotations

import json
from io import BytesIO
from urllib.parse import urlencode

import pytest
from conftest import RATE, tone, write_media
from docx import Document
from mutagen.id3 import ID3
from mutagen.mp4 import MP4
from pypdf import PdfReader
from test_retyping import operate, turn

from jaskel.core.transcript import Word

BOATS = """The hull of an old boat dries out when she stands ashore. Caulking made of oakum and tar keeps the sea out of a hull.
A shipwright taps every plank and listens for the rotten ones. Wooden ships lived in the water and died on land.
Nobody launches a dry hull without pumps on board. A boat that leaks for two days is tight for a year."""
BREAD = """Bread made of sourdough takes two days and some patience. The flour feeds the yeast, and the yeast lifts the dough.
You knead the dough, fold the dough, and leave it in a warm place. A hot oven gives the loaf a thick crust.
My grandmother baked eleven loaves every Saturday. The smell of fresh bread filled the whole street."""
MUSIC = """The orchestra rehearses a symphony in the old theatre. Violins begin alone, and the trumpets answer the violins.
Our conductor never raises her voice at a musician. After the concert the audience clapped for the orchestra.
Some players of the orchestra are retired postmen. Music keeps musicians younger than any doctor could."""


@pytest.fixture
def talk(jaskel, tmp_path):
    """The edition of a talk with two words in a second, and what can be asked of it."""
    episode = jaskel.episode()["id"]
    said = " ".join((BOATS, BREAD, MUSIC)).split()
    recording = jaskel.upload(episode, write_media(tmp_path / "talk.wav", tone(len(said) // 2 + 2)))["id"]
    jaskel.work()
    jaskel.words(recording, [Word(word, at * RATE // 2, at * RATE // 2 + RATE * 2 // 5) for at, word in enumerate(said)])
    return Talk(jaskel, episode, recording, said)


class Talk:
    def __init__(self, jaskel, episode, recording, said):
        self.jaskel, self.episode, self.recording, self.said = jaskel, episode, recording, said
        self.edition = jaskel.get(f"/api/episodes/{episode}")["editions"][0]["id"]

    def read(self):
        self.jaskel.post(f"/api/editions/{self.edition}/reuse", status=202)
        self.jaskel.work("meanings")

    def reuse(self):
        return self.jaskel.get(f"/api/editions/{self.edition}/reuse")

    def wish(self, kind, status=200, **wish):
        return self.jaskel.put(f"/api/editions/{self.edition}/proposals/{kind}", wish, status)

    def chapters(self):
        return sorted(self.jaskel.get(f"/api/episodes/{self.episode}")["chapters"], key=lambda each: each["at"])

    def propose(self, an_hour=120):
        self.jaskel.post(f"/api/editions/{self.edition}/chapters", {"an_hour": an_hour}, 202)
        self.jaskel.work("meanings")
        return self.chapters()

    def at(self, word):
        return self.said.index(word) * RATE // 2


def strike(talk, first, last):
    operate(talk.jaskel, talk.edition, kind="strike", ranges=[{"begin": talk.at(first), "end": talk.at(last)}])


class TestChapters:
    def test_they_are_found_named_moved_and_joined(self, talk):
        found = talk.propose()
        begins = [0, talk.at("Bread"), talk.at("orchestra") - RATE // 2]
        assert [each["at"] for each in found] == begins and not any(each["by_hand"] for each in found)
        assert all(each["title"] for each in found)
        path = f"/api/episodes/{talk.episode}/chapters"
        named = talk.jaskel._checked(talk.jaskel.client.patch(f"{path}/{found[1]['id']}", json={"title": "Baking"}), 200)
        assert (named["title"], named["by_hand"]) == ("Baking", True)
        moved = {"edition": talk.edition, "laid": talk.at("Violins")}
        talk.jaskel._checked(talk.jaskel.client.patch(f"{path}/{found[2]['id']}", json=moved), 200)
        assert talk.chapters()[2]["at"] == talk.at("Violins")
        # Asked for anew, those that somebody changed stay, and no other begins beside them.
        assert [each["title"] for each in talk.propose()[1:]] == ["Baking", found[2]["title"]]
        talk.jaskel.delete(f"{path}/{found[1]['id']}")
        assert [each["title"] for each in talk.chapters()[1:]] == [found[2]["title"]]

    def test_one_step_takes_the_proposal_back(self, talk):
        talk.propose()
        turn(talk.jaskel, talk.edition, "undo")
        assert talk.chapters() == []

    def test_nothing_recorded_begins_no_chapter(self, talk):
        body = {"edition": talk.edition, "laid": 3600 * RATE, "title": "After the end"}
        told = talk.jaskel.post(f"/api/episodes/{talk.episode}/chapters", body, 422)
        assert told["code"] == "nothing-there"


class TestProposals:
    def test_nothing_is_proposed_before_it_is_known_what_is_said(self, talk):
        assert not talk.reuse()["ready"]
        assert talk.wish("highlights", 422, length=10 * RATE)["code"] == "not-read"
        talk.read()
        told = talk.reuse()
        assert told["ready"] and len(told["summary"]) == 3 and told["keywords"]
        assert all(each["text"] in " ".join(talk.said) for each in told["summary"] + told["quotes"])

    def test_highlights_are_pinned_refused_and_remembered(self, talk):
        talk.read()
        first = talk.wish("highlights", length=15 * RATE)
        assert abs(first["length"] - 15 * RATE) <= 3 * RATE
        assert all(each["why"] and each["text"].endswith(".") for each in first["proposals"])
        refused = first["proposals"][0]
        pinned = {"recording": talk.recording, "at": talk.at("grandmother") - RATE // 2}
        other = talk.wish("highlights", length=15 * RATE, pinned=[pinned], refused=[refused["place"]])
        assert refused["place"] not in [each["place"] for each in other["proposals"]]
        assert [each["text"].startswith("My grandmother") for each in other["proposals"] if each["pinned"]] == [True]
        assert talk.jaskel.get(f"/api/editions/{talk.edition}/proposals/highlights") == other

    def test_what_is_struck_is_not_proposed(self, talk):
        strike(talk, "Bread", "orchestra")
        talk.read()
        told = talk.wish("highlights", length=3600 * RATE)
        assert told["proposals"] and not any("bread" in each["text"].lower() for each in told["proposals"])

    def test_clips_become_upright_editions_all_at_once(self, talk):
        talk.read()
        strike(talk, "tar", "keeps")  # what was struck within a clip stays struck
        talk.read()
        chosen = talk.wish("clips", count=2)["proposals"]
        assert len(chosen) == 2 and all(15 * RATE <= each["end"] - each["begin"] <= 60 * RATE for each in chosen)
        clips = [{"name": f"Clip {number}", "ranges": each["ranges"]} for number, each in enumerate(chosen, 1)]
        made = talk.jaskel.post(f"/api/editions/{talk.edition}/clips", {"clips": clips}, 201)["editions"]
        for name, each in zip(made, chosen, strict=True):
            head = talk.jaskel.get(f"/api/editions/{name}")
            assert head["shape"] == "upright"
            assert abs(talk.jaskel.edition(name).kept_length - (each["end"] - each["begin"])) < RATE // 20

    def test_too_little_is_said_in_a_sentence(self, jaskel, tmp_path):
        episode = jaskel.episode()["id"]
        recording = jaskel.upload(episode, write_media(tmp_path / "a.wav", tone(4)))["id"]
        jaskel.work()
        edition = jaskel.get(f"/api/episodes/{episode}")["editions"][0]["id"]
        assert "Nobody says anything" in jaskel.get(f"/api/editions/{edition}/reuse")["note"]
        jaskel.words(recording, [Word("Listen.", RATE, 2 * RATE)])
        assert "Only one sentence is said" in jaskel.get(f"/api/editions/{edition}/reuse")["note"]
        told = jaskel.put(f"/api/editions/{edition}/proposals/clips", {"count": 3}, 422)
        assert told["code"] in ("not-read", "too-little-said")

    @pytest.mark.parametrize(
        ("languages", "said"),
        [([[0, "de"]], "known of English alone"), ([[0, "en"], [10 * RATE, "it"]], "Several languages are spoken")],
    )
    def test_other_languages_are_told_apart_by_their_words(self, talk, languages, said):
        from jaskel.store.models import Recording

        with talk.jaskel.workshop.home.database.write() as session:
            recording = session.get_one(Recording, talk.recording)
            recording.languages, recording.language = languages, languages[0][1]
        told = talk.reuse()
        assert told["ready"] and said in told["note"]
        assert talk.wish("highlights", length=10 * RATE)["proposals"]


class TestChaptersInFiles:
    @pytest.fixture
    def chaptered(self, talk):
        """Three chapters, the second of which lost its first sentence; gives what each form of file has."""
        for word, title in (("The", "Boats & tar"), ("Bread", "Baking"), ("Violins", "An orchestra")):
            body = {"edition": talk.edition, "laid": talk.at(word), "title": title}
            talk.jaskel.post(f"/api/episodes/{talk.episode}/chapters", body, 201)
        strike(talk, "Bread", "flour")

        def made(form):
            job = talk.jaskel.post(f"/api/editions/{talk.edition}/exports", {"form": form}, 202)["id"]
            talk.jaskel.work("export")
            return talk.jaskel.client.get(f"/api/exports/{job}/file").data

        return made

    TITLES = ("Boats & tar", "Baking", "An orchestra")

    def begins(self, talk):
        gone = talk.at("flour") - talk.at("Bread")
        return [0, talk.at("Bread") / RATE, (talk.at("Violins") - gone) / RATE]

    def test_as_files_of_their_own(self, talk, chaptered):
        told = json.loads(chaptered("chapters"))["chapters"]
        assert [each["title"] for each in told] == [*self.TITLES]
        assert [each["startTime"] for each in told] == pytest.approx(self.begins(talk), abs=0.02)
        assert [each["endTime"] for each in told[:-1]] == [each["startTime"] for each in told[1:]]
        vtt = chaptered("chapters vtt").decode()
        assert vtt.startswith("WEBVTT\n") and "Boats &amp; tar" in vtt and vtt.count("-->") == 3
        assert chaptered("chapters txt").decode().splitlines()[0] == "0:00 Boats & tar"

    def test_within_sound_and_film_another_library_finds_them(self, talk, chaptered, tmp_path):
        (tmp_path / "a.mp3").write_bytes(chaptered("mp3"))
        tags = ID3(tmp_path / "a.mp3")
        frames = sorted(tags.getall("CHAP"), key=lambda each: each.start_time)
        assert [str(each.sub_frames["TIT2"]) for each in frames] == [*self.TITLES]
        assert [each.start_time / 1000 for each in frames] == pytest.approx(self.begins(talk), abs=0.02)
        assert tags.getall("CTOC")[0].child_element_ids == [each.element_id for each in frames]
        (tmp_path / "a.mp4").write_bytes(chaptered("mp4"))
        found = MP4(tmp_path / "a.mp4").chapters
        assert [each.title for each in found] == [*self.TITLES]
        assert [each.start for each in found] == pytest.approx(self.begins(talk), abs=0.02)

    def test_without_chapters_there_is_a_sentence_instead_of_a_file(self, talk):
        job = talk.jaskel.post(f"/api/editions/{talk.edition}/exports", {"form": "chapters"}, 202)["id"]
        talk.jaskel.work("export")
        jobs = talk.jaskel.get(f"/api/episodes/{talk.episode}")["jobs"]
        assert "has no chapters" in next(each["trouble"] for each in jobs if each["id"] == job)


class TestWritten:
    def written(self, talk, kind, **query):
        return talk.jaskel.get(f"/api/editions/{talk.edition}/written/{kind}?{urlencode(query)}")

    def keep(self, talk, kind, text):
        return talk.jaskel.put(f"/api/editions/{talk.edition}/written/{kind}", {"text": text}, 200)

    def test_an_article_is_proposed_edited_kept_and_exported(self, talk):
        talk.propose()
        proposed = self.written(talk, "article")
        assert proposed["text"].count("\n## ") == 3 and not proposed["edited"] and "<h2>" in proposed["html"]
        kept = self.keep(talk, "article", "# Mine\n\nA <b>dry</b> hull.\x00")
        assert kept == self.written(talk, "article") and kept["edited"]
        assert kept["text"] == "# Mine\n\nA <b>dry</b> hull." and "&lt;b&gt;" in kept["html"]
        job = talk.jaskel.post(f"/api/editions/{talk.edition}/exports", {"form": "article docx"}, 202)
        talk.jaskel.work("export")
        made = talk.jaskel.client.get(f"/api/exports/{job['id']}/file")
        assert "Mine" in [each.text for each in Document(BytesIO(made.data)).paragraphs]
        # An empty text brings back what is proposed.
        assert not self.keep(talk, "article", " ")["edited"]
        assert self.written(talk, "article")["text"] == proposed["text"]

    def test_what_is_struck_is_not_in_it(self, talk):
        strike(talk, "Bread", "orchestra")
        assert "sourdough" not in self.written(talk, "article")["text"]

    def test_a_printable_transcript_has_the_chapters(self, talk):
        chapters = [each["title"] for each in talk.propose()]
        job = talk.jaskel.post(f"/api/editions/{talk.edition}/exports", {"form": "pdf"}, 202)
        talk.jaskel.work("export")
        text = "".join(
            page.extract_text()
            for page in PdfReader(BytesIO(talk.jaskel.client.get(f"/api/exports/{job['id']}/file").data)).pages
        )
        assert all(title in text for title in chapters)

    def test_notes_have_chapters_and_quotes_with_times(self, talk):
        assert talk.jaskel.get(f"/api/editions/{talk.edition}/written/notes", 422)["code"] == "not-read"
        talk.propose()
        text = self.written(talk, "notes")["text"]
        assert "## Chapters\n\n- 0:00 " in text and "## Quotes" in text
        assert self.written(talk, "summary")["text"].strip() in text

    def test_other_titles_and_another_summary_are_of_other_words(self, talk):
        talk.read()
        first = talk.reuse()
        other = talk.jaskel.get(f"/api/editions/{talk.edition}/reuse?again=1&other_titles=1")
        assert not {each["laid"] for each in first["summary"]} & {each["laid"] for each in other["summary"]}
        assert first["titles"] != other["titles"] and first["quotes"] == other["quotes"]
        # After many times there are no other sentences left: some come again.
        assert len(talk.jaskel.get(f"/api/editions/{talk.edition}/reuse?again=60&other_titles=60")["summary"]) == 3


class TestToLength:
    def test_rests_and_least_missed_sentences_are_proposed_until_it_fits(self, talk):
        talk.read()
        now = talk.jaskel.get(f"/api/editions/{talk.edition}")["running_time"]
        wanted = now - 12 * RATE
        found = talk.wish("length", length=wanted)
        gone = sum(each["end"] - each["begin"] for each in found["proposals"])
        assert found["rests"]["spared"] + gone == pytest.approx(12 * RATE, abs=3 * RATE)
        assert all(each["why"] for each in found["proposals"])
        ranges = [*found["rests"]["ranges"], *(part for each in found["proposals"] for part in each["ranges"])]
        after = operate(talk.jaskel, talk.edition, kind="strike", ranges=ranges)
        assert after["running_time"] == pytest.approx(wanted, abs=3 * RATE) and after["running_time"] <= wanted + RATE // 2
        again = talk.jaskel.get(f"/api/editions/{talk.edition}/proposals/length")
        assert sum(each["end"] - each["begin"] for each in again["proposals"]) == 0

    def test_what_is_left_in_stays_and_another_goes(self, talk):
        talk.read()
        wanted = talk.jaskel.get(f"/api/editions/{talk.edition}")["running_time"] - 8 * RATE
        first = talk.wish("length", length=wanted)["proposals"][0]["place"]
        other = talk.wish("length", length=wanted, refused=[first])["proposals"]
        assert other and first not in [each["place"] for each in other]

    def test_what_is_short_enough_stays_as_it_is(self, talk):
        talk.read()
        found = talk.wish("length", length=3600 * RATE)
        assert found["proposals"] == [] and found["rests"]["ranges"] == []
