"""Mending words through the API: in one recording, in a session, everywhere at once, and back again."""

from __future__ import annotations

import pytest
from conftest import RATE, truth, write_media
from test_sessions import change, page, proposed, speech, tone

from jaskel.core.transcript import Word


@pytest.fixture
def episode(jaskel, tmp_path):
    """Twenty seconds of real speech with its true words."""
    made = jaskel.episode()
    recording = jaskel.upload(made["id"], write_media(tmp_path / "a.flac", speech(20, 15)))["id"]
    jaskel.work()
    words = [w for w in truth("interview")["words"] if w["voice"] == "orla" and w["start"] > 15 and w["end"] < 35]
    jaskel.words(recording, [Word(w["text"], *(round((w[e] - 15) * RATE) for e in ("start", "end")), 0.4) for w in words])
    return made


def edition(episode):
    return episode["editions"][0]["id"]


def operate(jaskel, edition_id, status=200, **operation):
    revision = jaskel.get(f"/api/editions/{edition_id}")["revision"]
    return jaskel.post(f"/api/editions/{edition_id}/operations", {"revision": revision, "operation": operation}, status)


def turn(jaskel, edition_id, step):
    revision = jaskel.get(f"/api/editions/{edition_id}")["revision"]
    return jaskel.post(f"/api/editions/{edition_id}/{step}", {"revision": revision})


def tokens(jaskel, episode):
    return [t for p in page(jaskel, episode["id"])["passages"] for t in p["tokens"] if t["k"] == "w"]


def find(jaskel, episode, text):
    return next(t for t in tokens(jaskel, episode) if t["text"] == text)


def over(*found):
    return [{"begin": found[0]["at"], "end": found[-1]["at"] + found[-1]["len"]}]


class TestRetyping:
    def test_one_word_and_back(self, jaskel, episode):
        word = find(jaskel, episode, "Ropewalk,")
        head = operate(jaskel, edition(episode), kind="retype", ranges=over(word), text="Rope-Walk,")
        assert head["newest"]["summary"] == "retyped “Ropewalk,” as “Rope-Walk,”"
        mended = find(jaskel, episode, "Rope-Walk,")
        assert (mended["at"], mended["len"], mended["p"]) == (word["at"], word["len"], 1.0)
        assert turn(jaskel, edition(episode), "undo")["redo"]["summary"] == head["newest"]["summary"]
        assert find(jaskel, episode, "Ropewalk,") == word
        turn(jaskel, edition(episode), "redo")
        assert find(jaskel, episode, "Rope-Walk,") == mended

    def test_new_words_are_loose_until_they_are_fitted_to_the_sound(self, jaskel, episode):
        first, last = find(jaskel, episode, "community"), find(jaskel, episode, "boatyard")
        between = [t for t in tokens(jaskel, episode) if first["at"] <= t["at"] <= last["at"]]
        operate(jaskel, edition(episode), kind="retype", ranges=over(first, last), text="town's own boat yard")
        assert find(jaskel, episode, "own")["loose"]
        turn(jaskel, edition(episode), "undo")
        operate(jaskel, edition(episode), kind="retype", ranges=over(first, last), text="")
        operate(jaskel, edition(episode), kind="retype", ranges=over(first, last), text="community boatyard")
        assert find(jaskel, episode, "boatyard")["loose"]
        jaskel.work()
        for known in between:
            fitted = find(jaskel, episode, known["text"])
            assert not fitted["loose"]
            assert abs(fitted["at"] - known["at"]) < 0.06 * RATE

    def test_everywhere_at_once_is_one_step(self, jaskel, episode):
        places = [t for t in tokens(jaskel, episode) if t["text"].lower() == "the"]
        assert len(places) > 1
        ranges = [over(place)[0] for place in places]
        head = operate(jaskel, edition(episode), kind="retype", ranges=ranges, text="ye")
        assert head["newest"]["summary"] == f"retyped {len(places)} places"
        assert not [t for t in tokens(jaskel, episode) if t["text"].lower() == "the"]
        turn(jaskel, edition(episode), "undo")
        assert [t for t in tokens(jaskel, episode) if t["text"].lower() == "the"] == places

    def test_what_is_struck_stays_struck(self, jaskel, episode):
        word = find(jaskel, episode, "community")
        struck = operate(jaskel, edition(episode), kind="strike", ranges=over(word))["struck"]
        head = operate(jaskel, edition(episode), kind="retype", ranges=over(word), text="Community")
        assert head["struck"] == struck

    def test_it_shows_in_every_edition_that_uses_the_words(self, jaskel, episode):
        before = jaskel.get(f"/api/editions/{edition(episode)}")["layout"]
        head = operate(jaskel, edition(episode), kind="retype", ranges=over(find(jaskel, episode, "community")), text="small")
        assert head["layout"] != before

    def test_a_window_that_corrects_what_was_corrected_meanwhile_is_told(self, jaskel, episode):
        revision = jaskel.get(f"/api/editions/{edition(episode)}")["revision"]
        place = over(find(jaskel, episode, "community"))
        operate(jaskel, edition(episode), kind="retype", ranges=place, text="little")
        other = over(find(jaskel, episode, "Ropewalk,"))
        for ranges, status in ((place, 409), (other, 200)):
            body = {"revision": revision, "operation": {"kind": "retype", "ranges": ranges, "text": "small"}}
            told = jaskel.post(f"/api/editions/{edition(episode)}/operations", body, status)
            assert told.get("code") == ("stale" if status == 409 else None)
        assert find(jaskel, episode, "little") and find(jaskel, episode, "small")

    def test_the_edges_of_a_word_are_moved_within_its_neighbours(self, jaskel, episode):
        word = find(jaskel, episode, "community")
        begin, end = word["at"] + 960, word["at"] + word["len"] - 480
        operate(jaskel, edition(episode), kind="edges", at=word["at"], begin=begin, end=end)
        moved = find(jaskel, episode, "community")
        assert (moved["at"], moved["at"] + moved["len"]) == (begin, end)
        told = operate(jaskel, edition(episode), 422, kind="edges", at=begin, begin=begin, end=end + 9 * RATE)
        assert told["code"] == "no-room"
        turn(jaskel, edition(episode), "undo")
        assert find(jaskel, episode, "community") == word

    def test_unsure_words_are_accepted(self, jaskel, episode):
        before = page(jaskel, episode["id"])["unsure"]
        (place,) = over(find(jaskel, episode, "community"))
        operate(jaskel, edition(episode), kind="accept", **place)
        assert page(jaskel, episode["id"])["unsure"] == before - 1


class TestVoicesAndPassages:
    def test_a_voice_from_here_on(self, jaskel, episode):
        (place,) = over(find(jaskel, episode, "community"))
        operate(jaskel, edition(episode), kind="give voice", voice="Teo Marsh", onward=True, **place)
        (voice,) = jaskel.get(f"/api/episodes/{episode['id']}")["voices"]
        assert voice["shown"] == "Teo Marsh"
        voices = [p["voice"] for p in page(jaskel, episode["id"])["passages"]]
        assert voices[0] is None and set(voices[1:]) == {voice["id"]}

    def test_passages_are_split_and_merged(self, jaskel, episode):
        def beginnings():
            return [p["tokens"][0]["text"] for p in page(jaskel, episode["id"])["passages"]]

        before = beginnings()
        at = find(jaskel, episode, "community")["at"]
        operate(jaskel, edition(episode), kind="passage", at=at, begins=True)
        assert set(beginnings()) - set(before) == {"community"}
        operate(jaskel, edition(episode), kind="passage", at=at, begins=False)
        assert beginnings() == before

    def test_voices_are_told_apart_in_one_step(self, jaskel, episode):
        recording = jaskel.get(f"/api/episodes/{episode['id']}")["recordings"][0]["id"]
        jaskel.post(f"/api/recordings/{recording}/voices", {"count": 2}, 202)
        jaskel.work()
        voices = {p["voice"] for p in page(jaskel, episode["id"])["passages"]}
        assert len(voices) >= 1 and None not in voices
        turn(jaskel, edition(episode), "undo")
        assert {p["voice"] for p in page(jaskel, episode["id"])["passages"]} == {None}

    def test_without_words_there_is_nothing_to_tell_apart(self, jaskel, tmp_path):
        made = jaskel.episode()
        recording = jaskel.upload(made["id"], write_media(tmp_path / "b.flac", tone(3)))["id"]
        jaskel.work()
        assert "no transcript yet" in jaskel.post(f"/api/recordings/{recording}/voices", {}, 422)["detail"]


class TestInASession:
    @pytest.fixture
    def session(self, jaskel, tmp_path):
        episode, session = proposed(jaskel, tmp_path, tone(10), speech(8, 20))
        change(jaskel, session, 1, offset=RATE)
        for index, track in enumerate(session["tracks"]):
            words = [
                Word(f"{'ab'[index]}{i}", (1 + 3 * i + index) * RATE, (1 + 3 * i + index) * RATE + RATE // 2) for i in range(2)
            ]
            jaskel.words(track["recording"], words)
        jaskel.post(f"/api/sessions/{session['id']}/join")
        return jaskel.get(f"/api/episodes/{episode}")

    def test_the_words_of_the_right_track_are_mended(self, jaskel, session):
        operate(jaskel, edition(session), kind="retype", ranges=over(find(jaskel, session, "b0")), text="beta")
        assert [t["text"] for t in tokens(jaskel, session)] == ["a0", "beta", "a1", "b1"]

    def test_words_of_two_voices_are_not_retyped_as_one(self, jaskel, session):
        ranges = over(find(jaskel, session, "a0"), find(jaskel, session, "b0"))
        told = operate(jaskel, edition(session), 422, kind="retype", ranges=ranges, text="all")
        assert "more than one voice" in told["detail"]
