"""Marks through the API: they follow files that are replaced and joined, and those of the material have a log of their own."""

from __future__ import annotations

import numpy as np
import pytest
from conftest import RATE, write_media
from test_retyping import operate, turn
from test_sessions import gathered, noise, page, speech

from jaskel.core.marks.level import Level
from jaskel.core.plan import Feed
from jaskel.core.transcript import Word


def sound(jaskel, edition):
    """The programme as it is heard, as floats of shape (ticks, 2)."""
    blocks = jaskel.get(f"/api/editions/{edition}/blocks")["blocks"]
    parts = [jaskel.get(f"/api/editions/{edition}/sound/{block['key']}").data[44:] for block in blocks]
    return np.frombuffer(b"".join(parts), "<i2").reshape(-1, 2) / 32768


@pytest.fixture
def spoken(jaskel, tmp_path):
    """Sixty seconds of speech on a page, with a cough muted from 10 to 12 s, and a note and a select on it."""
    made = jaskel.episode()
    recording = jaskel.upload(made["id"], write_media(tmp_path / "phone.flac", speech(60, 10)))["id"]
    jaskel.work("prepare")
    jaskel.words(recording, [Word(f"word{i}", i * RATE, i * RATE + RATE // 2) for i in range(60)])
    edition = made["editions"][0]["id"]
    operate(jaskel, edition, kind="adjust", track=recording, begin=10 * RATE, end=12 * RATE, decibels=-120)
    jaskel.post(f"/api/episodes/{made['id']}/notes", {"edition": edition, "laid": 20 * RATE, "text": "louder?"}, 201)
    good = {"edition": edition, "ranges": [{"begin": 30 * RATE, "end": 33 * RATE}], "colour": "sky"}
    jaskel.post(f"/api/episodes/{made['id']}/selects", good, 201)
    return made | {"recording": recording, "edition": edition}


def replaced(jaskel, episode, path, **how):
    name = f"/api/episodes/{episode['id']}/recordings?name={path.name}&placed=false&transcribe=false"
    new = jaskel.client.post(name, data=path.read_bytes()).json["id"]
    jaskel.work("prepare")
    jaskel.post(f"/api/recordings/{episode['recording']}/substitute", {"by": new, **how}, 202)
    jaskel.work("substitute")
    return new


class TestReplacing:
    def test_a_muted_cough_stays_muted_in_the_better_file(self, jaskel, spoken, tmp_path):
        new = replaced(jaskel, spoken, write_media(tmp_path / "better.flac", speech(66, 6.5)))
        heard = sound(jaskel, spoken["edition"])
        # Only the room goes on there.
        assert np.abs(heard[round(10.1 * RATE) : round(11.9 * RATE)]).max() < 0.02
        assert np.abs(heard[round(12.1 * RATE) : 14 * RATE]).max() > 0.01
        shown = jaskel.get(f"/api/episodes/{spoken['id']}")
        (note,), (select,) = shown["notes"], shown["selects"]
        assert note["recording"] == select["recording"] == new
        assert abs(note["at"] - 23.5 * RATE) < RATE // 100
        assert abs(select["start"] - 33.5 * RATE) < RATE // 100
        # Undone, everything is where it was, and there again once it is redone.
        turn(jaskel, spoken["edition"], "undo")
        back = jaskel.get(f"/api/episodes/{spoken['id']}")
        assert (back["notes"][0]["recording"], back["notes"][0]["at"]) == (spoken["recording"], 20 * RATE)
        assert jaskel.edition(spoken["edition"]).marks.all(Level)[0].recording == spoken["recording"]
        turn(jaskel, spoken["edition"], "redo")
        assert jaskel.get(f"/api/episodes/{spoken['id']}")["notes"][0]["recording"] == new

    def test_and_where_it_is_replaced_as_a_whole(self, jaskel, spoken, tmp_path):
        new = replaced(jaskel, spoken, write_media(tmp_path / "other.flac", noise(30, 9)), whole=True)
        (level,) = jaskel.edition(spoken["edition"]).marks.all(Level)
        assert (level.recording, level.track, level.start) == (new, new, 10 * RATE)
        heard = sound(jaskel, spoken["edition"])
        own = jaskel.workshop.sound.read(Feed(new), 0, 30 * RATE)
        inside = slice(round(10.1 * RATE), round(11.9 * RATE))
        assert np.abs(heard[inside]).max() < np.abs(own[inside]).max() * 1.5  # noise all over: so is its room
        assert abs(np.corrcoef(heard[inside, 0], own[inside, 0])[0, 1]) < 0.1
        # What lay beyond the end of the shorter file is gone, and is there again when that is undone.
        assert jaskel.get(f"/api/episodes/{spoken['id']}")["selects"] == []


def test_levels_of_two_recordings_join_the_session(jaskel, tmp_path):
    episode, (one, other) = gathered(jaskel, tmp_path, speech(40, 10), speech(40, 15))
    jaskel.work("prepare")
    for recording in (one, other):
        jaskel.post(f"/api/recordings/{recording}/place")
    edition = jaskel.get(f"/api/episodes/{episode}")["editions"][0]["id"]
    at = next(p["at"] for p in page(jaskel, episode)["passages"] if p["recording"] == other)
    operate(jaskel, edition, kind="adjust", track=other, begin=at + 10 * RATE, end=at + 12 * RATE, decibels=-120)
    operate(jaskel, edition, kind="track level", track=other, decibels=-6)
    made = jaskel.post(f"/api/episodes/{episode}/sessions", {"recordings": [one, other]}, 201)
    jaskel.work()
    jaskel.post(f"/api/sessions/{made['id']}/join")
    head = jaskel.get(f"/api/editions/{edition}")
    (level,) = head["levels"]
    assert (level["recording"], level["track"]) == (made["id"], other)
    offset = next(
        t["offset"] for t in jaskel.get(f"/api/episodes/{episode}")["sessions"][0]["tracks"] if t["recording"] == other
    )
    assert level["start"] == offset + 10 * RATE
    assert [(track["track"], track["decibels"]) for track in head["tracks"]] == [(other, -6)]
    turn(jaskel, edition, "undo")
    (back,) = jaskel.get(f"/api/editions/{edition}")["levels"]
    assert (back["recording"], back["start"]) == (other, 10 * RATE)


class TestMaterial:
    def test_marks_of_the_material_raise_no_edition_and_are_undone_with_everything_else(self, jaskel, spoken):
        edition, episode = spoken["edition"], spoken["id"]
        head = jaskel.get(f"/api/editions/{edition}")
        assert head["revision"] == 2
        assert head["undo"]["summary"] == "marked a stretch at 0:30 in sky"
        assert turn(jaskel, edition, "undo")["undo"]["summary"] == "wrote “louder?” in the margin"
        assert jaskel.get(f"/api/episodes/{episode}")["selects"] == []
        assert turn(jaskel, edition, "undo")["undo"]["summary"] == "a stretch of one track: muted"
        assert jaskel.get(f"/api/episodes/{episode}")["notes"] == []
        assert turn(jaskel, edition, "undo")["levels"] == []
        assert turn(jaskel, edition, "redo")["levels"] != []
        turn(jaskel, edition, "redo")
        assert turn(jaskel, edition, "redo")["redo"] is None
        assert len(jaskel.get(f"/api/episodes/{episode}")["selects"]) == 1

    def test_a_select_is_recoloured_moved_taken_off_and_seen_in_every_edition(self, jaskel, spoken):
        url = f"/api/episodes/{spoken['id']}/selects"
        (select,) = jaskel.get(f"/api/episodes/{spoken['id']}")["selects"]
        assert (select["start"], select["end"], select["colour"]) == (30 * RATE, 33 * RATE, "sky")
        assert jaskel.client.patch(f"{url}/{select['id']}", json={"colour": "moss"}).json["colour"] == "moss"
        assert jaskel.client.patch(f"{url}/{select['id']}", json={"colour": "beige"}).status_code == 422
        moved = jaskel.client.patch(f"{url}/{select['id']}", json={"ends": [31 * RATE, 32 * RATE]}).json
        assert (moved["start"], moved["end"], moved["colour"]) == (31 * RATE, 32 * RATE, "moss")
        assert (
            jaskel.client.patch(f"{url}/{select['id']}", json={"ends": [32 * RATE, 31 * RATE]}).json["code"] == "nothing-there"
        )
        assert jaskel.client.delete(f"{url}/{select['id']}").status_code == 204
        assert jaskel.client.delete(f"{url}/{select['id']}").json["code"] == "no-select"
        operate(jaskel, spoken["edition"], kind="rest", at=0, length=RATE, silent=True)
        nothing = {"edition": spoken["edition"], "ranges": [{"begin": 0, "end": RATE}], "colour": "sky"}
        assert jaskel.post(url, nothing, 422)["code"] == "nothing-there"

    def test_a_duplicate_has_them_too_and_goes_its_own_way(self, jaskel, spoken):
        twin = jaskel.post(f"/api/episodes/{spoken['id']}/duplicate", {"title": "Second try", "template": False}, 201)
        (note,), (select,) = twin["notes"], twin["selects"]
        assert note["recording"] == select["recording"] == twin["recordings"][0]["id"] != spoken["recording"]
        assert turn(jaskel, twin["editions"][0]["id"], "undo")["undo"]["summary"] == "wrote “louder?” in the margin"
        assert len(jaskel.get(f"/api/episodes/{spoken['id']}")["selects"]) == 1


def chain(*kinds: str, **settings) -> list[dict]:
    """A chain of processors as they are at first; ``settings`` are of the first of them."""
    made = [{"kind": kind, "settings": {}} for kind in kinds]
    made[0]["settings"] = settings
    return made


class TestChains:
    def test_it_is_made_by_a_job_and_heard_in_preview_and_export(self, jaskel, spoken):
        edition, recording = spoken["edition"], spoken["recording"]
        before = sound(jaskel, edition)
        head = operate(jaskel, edition, kind="processors", track=recording, chain=chain("gain", decibels=-6))
        (track,) = head["tracks"]
        assert (track["chain"], track["processed"]) == (
            [{"kind": "gain", "on": True, "amount": 100, "settings": {"decibels": -6}}],
            False,
        )
        assert np.array_equal(sound(jaskel, edition), before)
        jaskel.work("process")
        assert jaskel.get(f"/api/editions/{edition}")["tracks"][0]["processed"]
        after = sound(jaskel, edition)
        assert np.abs(after - before * 10 ** (-6 / 20)).max() < 1e-4
        job = jaskel.post(f"/api/editions/{edition}/exports", {"form": "wav"}, 202)
        jaskel.work("export")
        import soundfile

        written, _ = soundfile.read(jaskel.workshop.home.vault.export(job["id"]))
        assert np.abs(written - after).max() < 1e-4
        assert turn(jaskel, edition, "undo")["tracks"] == []
        assert np.array_equal(sound(jaskel, edition), before)

    def test_an_export_makes_what_is_not_there_yet(self, jaskel, spoken):
        operate(jaskel, spoken["edition"], kind="processors", track=spoken["recording"], chain=chain("gain", decibels=12))
        job = jaskel.post(f"/api/editions/{spoken['edition']}/exports", {"form": "wav"}, 202)
        jaskel.work("export")
        assert jaskel.get(f"/api/editions/{spoken['edition']}")["tracks"][0]["processed"]
        assert jaskel.workshop.home.vault.export(job["id"]).exists()

    @pytest.mark.parametrize(
        ("track", "wanted", "code"),
        [
            ("elsewhere", [{"kind": "gain"}], "no-track"),
            ("", [{"kind": "magic"}], "no-chain"),
            ("", [{"kind": "gain", "settings": {"decibels": 999}}], "no-chain"),
            ("", [{"kind": "low cut", "settings": {"depth": 3}}], "no-chain"),
            ("", [], "nothing-changed"),
        ],
    )
    def test_nonsense_is_told_and_nothing_is_stored(self, jaskel, spoken, track, wanted, code):
        edition, track = spoken["edition"], track or spoken["recording"]
        assert operate(jaskel, edition, 422, kind="processors", track=track, chain=wanted)["code"] == code
        assert jaskel.get(f"/api/editions/{edition}")["tracks"] == []

    def test_one_that_comes_with_jaskel_is_known_by_its_name(self, jaskel, spoken):
        known = {each["name"]: each["chain"] for each in jaskel.get("/api/processors")["chains"]}
        edition, track = spoken["edition"], spoken["recording"]
        head = operate(jaskel, edition, kind="processors", track=track, chain=known["phone line"])
        assert head["tracks"][0]["called"] == "phone line"
        assert head["newest"]["summary"] == "sent a track through “phone line”"
