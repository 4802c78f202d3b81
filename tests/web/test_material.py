"""Recordings that are not speech, other files in the place of recordings, and what is known across episodes."""

from __future__ import annotations

from itertools import pairwise

import pytest
from conftest import RATE, tone, truth, write_media
from PIL import Image
from test_retyping import operate, turn
from test_sessions import noise, page, speech

from jaskel.core.transcript import Word
from jaskel.jobs import prepare
from jaskel.jobs.carry_out import memory_for
from jaskel.media.probe import probe
from jaskel.store.models import Job, Recording, VoicePrint
from jaskel.store.sessions import new_voice


def recordings(jaskel, episode):
    return jaskel.get(f"/api/episodes/{episode}")["recordings"]


def become(jaskel, recording, status=200, **what):
    response = jaskel.client.patch(f"/api/recordings/{recording}", json={"name": None, "language": None, **what})
    assert response.status_code == status, response.text
    return response.json


class TestKinds:
    def test_a_still_picture_is_kept_beside_the_page(self, jaskel, tmp_path):
        episode = jaskel.episode()["id"]
        Image.new("RGB", (2000, 1000), "teal").save(tmp_path / "harbour.png")
        jaskel.upload(episode, tmp_path / "harbour.png")
        jaskel.work()
        (known,) = recordings(jaskel, episode)
        assert (known["kind"], known["state"], known["placed"], known["working_copy"]) == ("still", "ready", False, True)
        response = jaskel.get(f"/api/recordings/{known['id']}/picture")
        assert response.mimetype == "image/png"
        assert page(jaskel, episode)["length"] == 0

    def test_a_video_without_sound_is_other_video(self, jaskel, tmp_path):
        episode = jaskel.episode()["id"]
        jaskel.upload(episode, write_media(tmp_path / "gulls.mp4", None, pictures=50))
        jaskel.work()
        (known,) = recordings(jaskel, episode)
        assert (known["kind"], known["state"], known["working_copy"]) == ("video", "ready", True)
        assert abs(known["length"] - 2 * RATE) < RATE // 10
        told = become(jaskel, known["id"], 422, kind="speech")
        assert told["code"] == "no-sound"

    def test_music_goes_off_the_page_and_speech_onto_it(self, jaskel, tmp_path):
        episode = jaskel.episode()
        edition = episode["editions"][0]["id"]
        theme = jaskel.upload(episode["id"], write_media(tmp_path / "theme.flac", tone(5)), transcribe=True)["id"]
        jaskel.work("prepare")
        assert page(jaskel, episode["id"])["length"] == 5 * RATE
        assert become(jaskel, theme, kind="music")["kind"] == "music"
        assert page(jaskel, episode["id"])["length"] == 0
        turn(jaskel, edition, "undo")
        assert page(jaskel, episode["id"])["length"] == 5 * RATE
        turn(jaskel, edition, "redo")
        become(jaskel, theme, kind="speech")
        assert page(jaskel, episode["id"])["length"] == 5 * RATE


class TestSubstituting:
    @pytest.fixture
    def episode(self, jaskel, tmp_path):
        made = jaskel.episode()
        old = jaskel.upload(made["id"], write_media(tmp_path / "phone.flac", speech(60, 10) + noise(60, 1) * 0.02))["id"]
        jaskel.work("prepare")
        jaskel.words(old, [Word(f"word{i}", i * RATE, i * RATE + RATE // 2) for i in range(60)])
        operate(jaskel, made["editions"][0]["id"], kind="strike", ranges=[{"begin": 20 * RATE, "end": 25 * RATE}])
        return made | {"old": old}

    def replace(self, jaskel, episode, path, **how):
        name = f"/api/episodes/{episode['id']}/recordings?name={path.name}&placed=false&transcribe=false"
        new = jaskel.client.post(name, data=path.read_bytes()).json["id"]
        jaskel.work("prepare")
        jaskel.post(f"/api/recordings/{episode['old']}/substitute", {"by": new, **how}, 202)
        jaskel.work("substitute")
        return new

    def test_the_same_sound_that_began_earlier_keeps_cuts_and_words(self, jaskel, episode, tmp_path):
        new = self.replace(jaskel, episode, write_media(tmp_path / "better.flac", speech(66, 6.5)))
        edition = episode["editions"][0]["id"]
        assert jaskel.get(f"/api/editions/{edition}")["struck"] == [[20 * RATE, 25 * RATE]]
        shown = page(jaskel, episode["id"])
        assert {p["recording"] for p in shown["passages"]} == {new}
        word = next(t for p in shown["passages"] for t in p["tokens"] if t["text"] == "word30")
        assert word["at"] == 30 * RATE
        assert abs(word["t"] - 33.5 * RATE) < RATE // 100
        turn(jaskel, edition, "undo")
        assert {p["recording"] for p in page(jaskel, episode["id"])["passages"]} == {episode["old"]}

    def test_another_sound_is_refused_unless_it_is_replaced_as_a_whole(self, jaskel, episode, tmp_path):
        other = write_media(tmp_path / "other.flac", noise(30, 9))
        new = self.replace(jaskel, episode, other)
        (job,) = [j for j in jaskel.get(f"/api/episodes/{episode['id']}")["jobs"] if j["kind"] == "substitute"]
        assert job["state"] == "failed" and "is not the same sound as “phone.flac”" in job["trouble"]
        jaskel.post(f"/api/recordings/{episode['old']}/substitute", {"by": new, "whole": True}, 202)
        jaskel.work("substitute")
        assert page(jaskel, episode["id"])["length"] == 30 * RATE


class TestGoneFiles:
    def test_a_file_that_went_missing_is_told_and_found_again_by_its_content(self, jaskel, tmp_path):
        episode = jaskel.episode()
        edition = episode["editions"][0]["id"]
        path = write_media(tmp_path / "a.flac", noise(5, 1))
        jaskel.upload(episode["id"], path)
        jaskel.work("prepare")
        known = recordings(jaskel, episode["id"])[0]
        digest = next(iter(jaskel.workshop.home.vault.root.glob("originals/*/*"))).name
        jaskel.workshop.home.vault.drop_original(digest)
        jaskel.workshop.sound.close()
        assert recordings(jaskel, episode["id"])[0]["gone"]
        key = jaskel.get(f"/api/editions/{edition}/blocks")["blocks"][0]["key"]
        assert jaskel.get(f"/api/editions/{edition}/sound/{key}", 404)["code"] == "sound-gone"
        assert operate(jaskel, edition, kind="strike", ranges=[{"begin": 0, "end": RATE}])["struck"] == [[0, RATE]]
        url = f"/api/recordings/{known['id']}/original"
        other = write_media(tmp_path / "b.flac", noise(5, 2))
        assert jaskel.client.post(url, data=other.read_bytes()).json["code"] == "other-file"
        assert jaskel.client.post(url, data=path.read_bytes()).status_code == 200
        jaskel.work("prepare")
        assert not recordings(jaskel, episode["id"])[0]["gone"]
        key = jaskel.get(f"/api/editions/{edition}/blocks")["blocks"][0]["key"]
        assert jaskel.get(f"/api/editions/{edition}/sound/{key}").status_code == 200


class TestAcrossTheShow:
    @pytest.fixture
    def two(self, jaskel, tmp_path):
        """Two episodes of a show in which the same is misheard."""
        show = jaskel.post("/api/shows", {"name": "Ropewalk"}, 201)["id"]
        made = []
        for number in range(2):
            episode = jaskel.post(f"/api/shows/{show}/episodes", {"title": f"Part {number}"}, 201)
            sound = write_media(tmp_path / f"{number}.flac", noise(6, number))
            recording = jaskel.upload(episode["id"], sound)["id"]
            jaskel.work("prepare")
            said = ["the", "tarn", "high", "harbour", "tarnished"]
            jaskel.words(recording, [Word(text, i * RATE, i * RATE + RATE // 2) for i, text in enumerate(said)])
            made.append(episode | {"recording": recording})
        return made

    def test_what_is_found_everywhere_is_retyped_everywhere_and_undone_in_each(self, jaskel, two):
        hits = jaskel.get(f"/api/search?words=tarn+high&show={two[0]['show_id']}&whole=true")["hits"]
        assert [(hit["episode"], hit["words"]) for hit in hits] == [("Part 1", "tarn high"), ("Part 0", "tarn high")]
        chosen = [{key: hit[key] for key in ("recording_id", "at", "end", "words")} for hit in hits]
        assert jaskel.post("/api/search/retype", {"hits": chosen, "text": "Tarn Hythe"}) == {
            "places": 2, "episodes": 2, "missed": 0,
        }  # fmt: skip
        for episode in two:
            shown = [t["text"] for p in page(jaskel, episode["id"])["passages"] for t in p["tokens"] if t["k"] == "w"]
            assert shown == ["the", "Tarn", "Hythe", "harbour", "tarnished"]
        turn(jaskel, two[0]["editions"][0]["id"], "undo")
        assert len(jaskel.get(f"/api/search?words=tarn+high&show={two[0]['show_id']}")["hits"]) == 1
        assert jaskel.post("/api/search/retype", {"hits": chosen, "text": "Tarn Hythe"})["missed"] == 1

    def test_whole_words_only(self, jaskel, two):
        show = two[0]["show_id"]
        assert len(jaskel.get(f"/api/search?words=tarn&show={show}")["hits"]) == 4
        assert len(jaskel.get(f"/api/search?words=tarn&show={show}&whole=true")["hits"]) == 2

    def test_a_voice_that_sounds_like_a_named_one_is_proposed(self, jaskel, two):
        with jaskel.workshop.home.database.write() as session:
            for index, name in enumerate(["Orla", "Teo", ""]):
                voice = new_voice(session, two[0]["show_id"], name)
                print = [[1.0, 0.0, 0.2], [0.0, 1.0, 0.2], [0.9, 0.1, 0.2]][index]
                session.add(VoicePrint(voice_id=voice.id, recording_id=two[index % 2]["recording"], print=print))
        orla, teo, nameless = jaskel.get(f"/api/episodes/{two[1]['id']}")["voices"]
        assert nameless["like"] == orla["id"]
        assert (orla["like"], teo["like"]) == (None, None)

    def test_a_voice_is_known_again_by_its_sound_in_the_next_episode(self, jaskel, tmp_path):
        show = jaskel.post("/api/shows", {"name": "Ropewalk"}, 201)["id"]
        orla = [w for w in truth("interview")["words"] if w["voice"] == "orla"]

        def episode(begin, end, name):
            """An episode with a stretch of the first microphone, its words given to a voice."""
            made = jaskel.post(f"/api/shows/{show}/episodes", {"title": name}, 201)
            sound = write_media(tmp_path / f"{begin}.flac", speech(end - begin, begin))
            recording = jaskel.upload(made["id"], sound)["id"]
            jaskel.work("prepare")
            # The microphone began 1.72 s before the truth's clock; a fifth of a second is near enough to hear a voice.
            said = [w for w in orla if w["start"] > begin + 0.5 and w["end"] < end - 2.5]
            words = [Word(w["text"], *(round((w[e] - begin) * RATE) for e in ("start", "end"))) for w in said]
            jaskel.words(recording, [w for w, after in pairwise(words) if w.end <= after.start])
            give = {"kind": "give voice", "begin": 0, "end": (end - begin) * RATE, "voice": name}
            operate(jaskel, made["editions"][0]["id"], **give)
            jaskel.work("prints")
            return made["id"]

        episode(15, 75, "Orla Venn")
        second = episode(110, 190, "unknown")
        voices = {voice["name"]: voice for voice in jaskel.get(f"/api/episodes/{second}")["voices"]}
        assert voices["Orla Venn"]["like"] is None
        named = jaskel.client.patch(f"/api/voices/{voices['unknown']['id']}", json={"name": ""})
        assert named.status_code == 200
        voices = jaskel.get(f"/api/episodes/{second}")["voices"]
        assert [v["like"] for v in voices if not v["name"]] == [v["id"] for v in voices if v["name"] == "Orla Venn"]


def test_a_long_film_is_seen_by_key_pictures_until_its_light_copy_is_there(jaskel, tmp_path, monkeypatch):
    monkeypatch.setattr(prepare, "LONG_SECONDS", 1)
    episode = jaskel.episode()
    path = write_media(tmp_path / "a.mp4", tone(3), pictures=75)
    recording = jaskel.upload(episode["id"], path)["id"]

    def known():
        (told,) = recordings(jaskel, episode["id"])
        return told["key_pictures"], told["working_copy"]

    keys = f"/api/recordings/{recording}/keys"
    assert known() == (False, False) and jaskel.client.get(keys).status_code == 404
    jaskel.work("keys")  # while its sound is not read yet
    assert known() == (True, False)
    (tmp_path / "keys.mp4").write_bytes(jaskel.client.get(keys).data)
    assert probe(tmp_path / "keys.mp4", "keys").seconds == pytest.approx(3, abs=0.1)
    jaskel.work()
    assert known() == (False, True) and jaskel.client.get(keys).status_code == 404

    with jaskel.workshop.home.database.write() as session:
        row = session.get_one(Recording, recording)
        row.info = {**row.info, "picture": {**row.info["picture"], "width": 3840, "height": 2160}}
    job = Job(kind="picture", subject=recording)
    assert 1_400_000_000 < memory_for(jaskel.workshop, job) < 1_500_000_000  # larger pictures take more, by no fault of theirs
    edition = jaskel.get(f"/api/episodes/{episode['id']}")["editions"][0]["id"]
    assert memory_for(jaskel.workshop, Job(kind="export", subject=edition)) == memory_for(jaskel.workshop, job)
