"""Shaping an edition through the API: lifting, moving, pasting, rests, splices, levels, editions and their history."""

from __future__ import annotations

from concurrent.futures import ThreadPoolExecutor

import numpy as np
import pytest
from conftest import RATE, write_media
from test_retyping import operate, turn
from test_sessions import noise, page, proposed, speech

from jaskel.core.edition import Piece
from jaskel.core.plan import Feed
from jaskel.core.source import CLOSING
from jaskel.core.transcript import Word
from jaskel.store.notices import post


@pytest.fixture
def episode(jaskel, tmp_path):
    """Twenty seconds of noise with a word in every second."""
    made = jaskel.episode()
    recording = jaskel.upload(made["id"], write_media(tmp_path / "a.flac", noise(20, 1)))["id"]
    jaskel.work("prepare")
    jaskel.words(recording, [Word(f"word{i}", i * RATE, i * RATE + RATE // 2) for i in range(20)])
    return made | {"recording": recording}


@pytest.fixture
def edition(episode):
    return episode["editions"][0]["id"]


def said(jaskel, episode):
    return [t["text"] for p in page(jaskel, episode["id"])["passages"] for t in p["tokens"] if t["k"] == "w"]


def sound(jaskel, edition):
    """The programme as it is heard, as floats of shape (ticks, 2)."""
    blocks = jaskel.get(f"/api/editions/{edition}/blocks")["blocks"]
    parts = [jaskel.get(f"/api/editions/{edition}/sound/{b['key']}").data[44:] for b in blocks]
    return np.concatenate([np.frombuffer(p, "<i2") for p in parts]).reshape(-1, 2) / 32767


def ranges(*pairs):
    return [{"begin": round(a * RATE), "end": round(b * RATE)} for a, b in pairs]


class TestWords:
    def test_lifted_words_are_out_of_sight_and_come_back(self, jaskel, edition):
        head = operate(jaskel, edition, kind="lift", ranges=ranges((1, 2), (5, 6)))
        assert head["lifted"] == head["struck"] == [[RATE, 2 * RATE], [5 * RATE, 6 * RATE]]
        assert head["newest"]["summary"] == "lifted 2 stretches"
        head = operate(jaskel, edition, kind="put back", ranges=ranges((0, 20)))
        assert head["lifted"] == head["struck"] == []

    def test_a_stretch_is_moved_and_the_page_flows_on(self, jaskel, episode, edition):
        operate(jaskel, edition, kind="move", ranges=ranges((2, 4)), to=10 * RATE)
        assert said(jaskel, episode)[:10] == [f"word{i}" for i in (0, 1, 4, 5, 6, 7, 8, 9, 2, 3)]
        turn(jaskel, edition, "undo")
        assert said(jaskel, episode) == [f"word{i}" for i in range(20)]

    def test_it_is_not_moved_into_itself(self, jaskel, edition):
        assert operate(jaskel, edition, 422, kind="move", ranges=ranges((2, 4)), to=3 * RATE)["code"] == "into-itself"

    def test_what_is_copied_is_pasted_in_another_episode_of_another_show(self, jaskel, episode, edition):
        copied = jaskel.post(f"/api/editions/{edition}/copy", {"ranges": ranges((3, 5))})
        assert (copied["text"], copied["length"]) == ("word3 word4", 2 * RATE)
        other = jaskel.episode()
        target = other["editions"][0]["id"]
        operate(jaskel, target, kind="insert", at=0, pieces=copied["pieces"])
        assert said(jaskel, other) == ["word3", "word4"]
        known = jaskel.get(f"/api/episodes/{other['id']}")["recordings"]
        assert [(r["id"], r["borrowed"]) for r in known] == [(episode["recording"], True)]
        assert np.abs(sound(jaskel, target)).max() > 0.1

    def test_nothing_kept_nothing_copied(self, jaskel, edition):
        operate(jaskel, edition, kind="strike", ranges=ranges((3, 5)))
        assert jaskel.post(f"/api/editions/{edition}/copy", {"ranges": ranges((3, 5))}, 422)["code"] == "nothing-kept"

    def test_a_recording_that_is_not_here_is_not_pasted(self, jaskel, edition):
        pieces = [{"source": {"kind": "recorded", "recording": "elsewhere"}, "start": 0, "end": RATE}]
        assert operate(jaskel, edition, 422, kind="insert", at=0, pieces=pieces)["code"] == "recording-gone"

    @pytest.mark.parametrize(
        ("source", "code"),
        [
            ({"kind": "silence"}, "too-long"),
            ({"kind": "card", "closing": True}, "too-long"),
            ({"kind": "drawn", "text": "Part two"}, "too-long"),
            ({"kind": "recorded"}, "outside"),
        ],
    )
    def test_ten_years_of_anything_are_refused(self, jaskel, episode, edition, source, code):
        whole = {"recording": episode["recording"]} if source["kind"] == "recorded" else {}
        pieces = [{"source": source | whole, "start": 0, "end": 10 * 365 * 86_400 * RATE}]
        assert operate(jaskel, edition, 422, kind="insert", at=0, pieces=pieces)["code"] == code
        assert jaskel.get(f"/api/editions/{edition}")["recorded_time"] == 20 * RATE

    def test_a_picture_of_words_is_put_in(self, jaskel, edition):
        pieces = [{"source": {"kind": "drawn", "text": "Part two"}, "start": 0, "end": 2 * RATE}]
        head = operate(jaskel, edition, kind="insert", at=5 * RATE, pieces=pieces)
        assert head["newest"]["summary"] == "put in a picture of 2.0 s at 0:05"
        layers = jaskel.get(f"/api/editions/{edition}/plan?mode=edited")["layers"]
        assert [layer["text"] for layer in layers] == [None, "Part two", None]


class TestRests:
    def test_room_tone_is_as_loud_as_the_room_and_silence_is_silent(self, jaskel, edition):
        quiet = np.sqrt(np.mean(sound(jaskel, edition)[: 2 * RATE] ** 2))
        operate(jaskel, edition, kind="rest", at=2 * RATE, length=RATE)
        heard = sound(jaskel, edition)
        rest = heard[2 * RATE + 1000 : 3 * RATE - 1000]
        assert 0.7 < np.sqrt(np.mean(rest**2)) / quiet < 1.4
        turn(jaskel, edition, "undo")
        operate(jaskel, edition, kind="rest", at=2 * RATE, length=RATE, silent=True)
        assert not np.any(sound(jaskel, edition)[2 * RATE + 1000 : 3 * RATE - 1000])

    def test_it_stands_in_the_passage_as_a_rest(self, jaskel, episode, edition):
        before = page(jaskel, episode["id"])["passages"]
        operate(jaskel, edition, kind="rest", at=2 * RATE + RATE // 2, length=RATE)
        after = page(jaskel, episode["id"])
        assert len(after["passages"]) == len(before)
        rest = next(t for p in after["passages"] for t in p["tokens"] if t["t"] == -1)
        assert (rest["k"], rest["len"]) == ("r", RATE)


class TestSplices:
    @pytest.fixture(autouse=True)
    def cut(self, jaskel, edition):
        operate(jaskel, edition, kind="strike", ranges=ranges((4, 6)))

    def splice(self, jaskel, edition):
        return jaskel.get(f"/api/editions/{edition}/splice?at={jaskel.get(f'/api/editions/{edition}')['splices'][0]}")

    def test_its_edges_are_trimmed_and_slipped(self, jaskel, edition):
        head = operate(jaskel, edition, kind="trim", at=6 * RATE, before=RATE // 2, after=-RATE // 4)
        assert head["struck"] == [[4 * RATE + RATE // 2, 6 * RATE - RATE // 4]]
        head = operate(jaskel, edition, kind="trim", at=6 * RATE - RATE // 4, before=-RATE, after=RATE)
        assert head["struck"] == [[4 * RATE - RATE // 2, 7 * RATE - RATE // 4]]
        told = operate(jaskel, edition, 422, kind="trim", at=head["splices"][0], before=9 * RATE)
        assert told["code"] == "no-more-sound"

    def test_what_is_between_two_splices_is_slipped(self, jaskel, edition):
        operate(jaskel, edition, kind="strike", ranges=ranges((8, 9)))
        head = operate(jaskel, edition, kind="slip", at=6 * RATE, by=RATE // 2)
        assert head["struck"] == [[4 * RATE, 6 * RATE + RATE // 2], [8 * RATE + RATE // 2, 9 * RATE]]
        assert operate(jaskel, edition, 422, kind="slip", at=0, by=RATE)["code"] == "no-splice"

    def test_its_crossfade_is_set_and_let_go_again(self, jaskel, edition):
        assert self.splice(jaskel, edition)["crossfade"] == 480
        running = jaskel.get(f"/api/editions/{edition}")["running_time"]
        head = operate(jaskel, edition, kind="splice", at=6 * RATE, crossfade=4800, shape="linear", lead=-2400)
        assert head["running_time"] == running + 4320
        known = self.splice(jaskel, edition)
        assert (known["crossfade"], known["shape"], known["lead"], known["by_hand"]) == (4800, "linear", -2400, True)
        operate(jaskel, edition, kind="splice", at=6 * RATE)
        assert not self.splice(jaskel, edition)["by_hand"]

    def test_a_splice_settles_where_it_is_quiet_and_lets_go_when_put_back(self, jaskel, tmp_path):
        episode = jaskel.episode()
        edition = episode["editions"][0]["id"]
        quiet = np.full(10 * RATE, 0.001, np.float32)
        loud = noise(10, 3)
        # The struck second begins and ends in the middle of a quiet stretch that reaches 40 ms into it.
        for begin, end in ((2.0, 4.96), (6.04, 8.0)):
            quiet[round(begin * RATE) : round(end * RATE)] = loud[round(begin * RATE) : round(end * RATE)]
        jaskel.upload(episode["id"], write_media(tmp_path / "s.flac", quiet))
        jaskel.work("prepare")
        whole = jaskel.get(f"/api/editions/{edition}")["running_time"]
        head = operate(jaskel, edition, kind="strike", ranges=ranges((4.94, 6.06)), settle=True)
        left = head["running_time"] - (whole - round(1.12 * RATE)) - 480
        assert 0 < left <= RATE * 12 // 100
        splice = jaskel.get(f"/api/editions/{edition}/splice?at={head['splices'][0]}")
        assert not splice["by_hand"]
        assert turn(jaskel, edition, "undo")["running_time"] == whole

    def test_others_can_write_while_sound_is_read_for_a_join(self, jaskel, edition, monkeypatch):
        from jaskel.web.asked import settling

        home, known = jaskel.workshop.home, settling.settled
        written = []

        def listening(*arguments):
            with ThreadPoolExecutor(1) as other:
                written.append(other.submit(post_one).result(timeout=20))
            return known(*arguments)

        def post_one():
            with home.database.write() as session:
                post(session, "job", "somebody else's")
            return True

        monkeypatch.setattr(settling, "settled", listening)
        operate(jaskel, edition, kind="strike", ranges=ranges((8, 9)), settle=True)
        assert written == [True]

    def test_parting_takes_nothing_out(self, jaskel, edition):
        running = jaskel.get(f"/api/editions/{edition}")["running_time"]
        head = operate(jaskel, edition, kind="part", at=10 * RATE)
        assert head["splices"] == [6 * RATE, 10 * RATE]
        assert head["running_time"] == running
        operate(jaskel, edition, kind="trim", at=10 * RATE, before=-RATE)
        assert jaskel.get(f"/api/editions/{edition}")["struck"] == [[4 * RATE, 6 * RATE], [9 * RATE, 10 * RATE]]


class TestStaves:
    def test_one_voice_is_muted_under_the_other(self, jaskel, tmp_path):
        episode, session = proposed(jaskel, tmp_path, speech(30, 20), speech(30, 20) * 0.1 + noise(30, 2) * 0.3)
        jaskel.post(f"/api/sessions/{session['id']}/join")
        edition = jaskel.get(f"/api/episodes/{episode}")["editions"][0]["id"]
        first, second = (track["recording"] for track in session["tracks"])
        before = sound(jaskel, edition)
        operate(jaskel, edition, kind="adjust", track=second, decibels=-120, **ranges((5, 8))[0])
        after = sound(jaskel, edition)
        alone = jaskel.workshop.sound.read(Feed(first), 0, 30 * RATE)
        inside = slice(round(5.1 * RATE), round(7.9 * RATE))
        assert np.abs(after[inside] - np.clip(alone[inside], -1, 1)).max() < 2e-4
        assert np.array_equal(after[: 4 * RATE], before[: 4 * RATE])
        head = operate(jaskel, edition, kind="track level", track=second, decibels=-6)
        assert head["tracks"] == [
            {"track": second, "decibels": -6, "pan": 0, "chain": [], "called": "leave it alone", "processed": True}
        ]
        turn(jaskel, edition, "undo")
        turn(jaskel, edition, "undo")
        assert np.array_equal(sound(jaskel, edition), before)


class TestEditions:
    def make(self, jaskel, episode, **what):
        return jaskel.post(f"/api/episodes/{episode['id']}/editions", what, 201)

    def test_empty_copied_and_from_a_selection(self, jaskel, episode, edition):
        operate(jaskel, edition, kind="strike", ranges=ranges((4, 6)))
        assert self.make(jaskel, episode, name="Trailer")["running_time"] == 0
        twin = self.make(jaskel, episode, name="Second cut", copy_of=edition)
        assert twin["struck"] == [[4 * RATE, 6 * RATE]] and twin["undo"] is None
        part = self.make(jaskel, episode, name="Clip", copy_of=edition, ranges=ranges((3, 5)))
        assert (part["recorded_time"], part["struck"]) == (2 * RATE, [[RATE, 2 * RATE]])
        operate(jaskel, twin["id"], kind="put back", ranges=ranges((0, 20)))
        assert jaskel.get(f"/api/editions/{edition}")["struck"] == [[4 * RATE, 6 * RATE]]

    def test_what_one_has_that_the_other_does_not(self, jaskel, episode, edition):
        twin = self.make(jaskel, episode, name="Second cut", copy_of=edition)["id"]
        operate(jaskel, edition, kind="strike", ranges=ranges((4, 6)))
        operate(jaskel, twin, kind="strike", ranges=ranges((9, 10)))
        told = jaskel.get(f"/api/compare?edition={edition}&other={twin}")
        assert [(d["only_in"], d["text"]) for d in told["differences"]] == [("first", "word9"), ("second", "word4 word5")]
        assert told["shared"] == 17 * RATE

    def test_a_target_and_a_name(self, jaskel, edition):
        body = {"name": "Short", "target": 15 * RATE, "target_kind": "at most"}
        head = jaskel.client.patch(f"/api/editions/{edition}", json=body).json
        assert (head["name"], head["target"], head["target_kind"]) == ("Short", 15 * RATE, "at most")

    def test_a_shape_that_its_copies_take_over(self, jaskel, episode, edition):
        head = operate(jaskel, edition, kind="shape", shape="upright")
        assert (head["shape"], head["newest"]["summary"]) == ("upright", "made the picture upright")
        assert self.make(jaskel, episode, name="Short", copy_of=edition)["shape"] == "upright"
        assert turn(jaskel, edition, "undo")["shape"] == "as recorded"
        operate(jaskel, edition, 422, kind="shape", shape="round")

    def test_the_last_one_stays(self, jaskel, episode, edition):
        assert jaskel.client.delete(f"/api/editions/{edition}").json["code"] == "last-edition"
        other = self.make(jaskel, episode, name="Trailer")["id"]
        operate(jaskel, other, kind="card", closing=False, length=RATE)
        assert jaskel.client.delete(f"/api/editions/{other}").status_code == 204
        assert [each["id"] for each in jaskel.get(f"/api/episodes/{episode['id']}")["editions"]] == [edition]
        assert jaskel.client.get(f"/api/editions/{other}").status_code == 404
        back = jaskel.post(f"/api/editions/{other}/restore", {})
        assert (back["opening"], back["undo"]["number"]) == (RATE, 1)


class TestCards:
    def test_they_count_and_stand_at_the_ends_and_go_again(self, jaskel, edition):
        whole = jaskel.get(f"/api/editions/{edition}")["running_time"]
        head = operate(jaskel, edition, kind="card", closing=False, length=4 * RATE)
        assert head["newest"]["summary"] == "set a card of 4.0 s for the opening"
        head = operate(jaskel, edition, kind="card", closing=True, length=2 * RATE)
        assert (head["opening"], head["closing"]) == (4 * RATE, 2 * RATE)
        assert abs(head["running_time"] - whole - 6 * RATE) <= RATE // 20
        assert np.abs(sound(jaskel, edition)[: 3 * RATE]).max() == 0
        head = operate(jaskel, edition, kind="card", closing=False, length=RATE)
        assert (head["opening"], head["recorded_time"]) == (RATE, 20 * RATE + 3 * RATE)
        head = operate(jaskel, edition, kind="card", closing=True, length=0)
        assert (head["closing"], head["newest"]["summary"]) == (0, "took a card off")
        assert operate(jaskel, edition, 422, kind="card", closing=True, length=0)["code"] == "nothing-changed"

    def test_a_closing_card_goes_to_the_end_when_set_anew(self, jaskel, edition):
        operate(jaskel, edition, kind="card", closing=True, length=2 * RATE)
        operate(jaskel, edition, kind="move", ranges=ranges((0, 1)), to=22 * RATE)
        operate(jaskel, edition, kind="card", closing=True, length=3 * RATE)
        pieces = jaskel.edition(edition).pieces
        assert [piece.source for piece in pieces].count(CLOSING) == 1
        assert pieces[-1] == Piece(CLOSING, 0, 3 * RATE)


class TestHistory:
    def test_it_tells_what_was_done_by_whom_and_goes_back_without_losing_anything(self, jaskel, episode, edition):
        body = {"kind": "strike", "ranges": ranges((4, 5))}
        jaskel.post(f"/api/editions/{edition}/operations", {"revision": 1, "operation": body, "who": "Orla Venn"})
        operate(jaskel, edition, kind="rest", at=2 * RATE, length=RATE)
        operate(jaskel, edition, kind="move", ranges=ranges((8, 9)), to=0)
        entries = jaskel.get(f"/api/editions/{edition}/history")["entries"]
        # In programme time: a second was taken out before it.
        assert [e["summary"] for e in entries] == [
            "moved “word7” at 0:07", "put in a rest of 1.0 s at 0:02", "struck “word4” at 0:04", "added a recording",
        ]  # fmt: skip
        assert entries[2]["who"] == "Orla Venn"
        head = operate(jaskel, edition, kind="restore", revision=2)
        assert head["newest"]["summary"] == "went back to how it was at step 2"
        assert (head["struck"], head["recorded_time"]) == ([[4 * RATE, 5 * RATE]], 20 * RATE)
        assert turn(jaskel, edition, "undo")["recorded_time"] == 21 * RATE
        assert said(jaskel, episode)[:2] == ["word7", "word0"]

    def test_a_version_has_a_name_and_is_compared(self, jaskel, edition):
        named = jaskel.post(f"/api/editions/{edition}/versions", {"name": "First listen", "revision": 1}, 201)
        operate(jaskel, edition, kind="strike", ranges=ranges((4, 5)))
        assert jaskel.get(f"/api/editions/{edition}/history")["entries"][-1]["name"] == "First listen"
        told = jaskel.get(f"/api/compare?edition={edition}&revision=1&other={edition}")
        assert [d["text"] for d in told["differences"]] == ["word4"]
        assert jaskel.client.delete(f"/api/versions/{named['version']}").status_code == 204
        assert jaskel.get(f"/api/editions/{edition}/history")["entries"][-1]["name"] is None

    def test_it_is_the_same_after_a_restart(self, jaskel, settings, edition):
        from conftest import Jaskel

        operate(jaskel, edition, kind="strike", ranges=ranges((4, 6)))
        operate(jaskel, edition, kind="splice", at=6 * RATE, crossfade=960)
        for number in range(45):
            operate(jaskel, edition, kind="rest", at=number * 100, length=480 + number)
        again = Jaskel(settings)
        assert again.get(f"/api/editions/{edition}") == jaskel.get(f"/api/editions/{edition}")
        again.workshop.close()


class TestNotes:
    def test_a_note_stays_with_its_word_when_that_is_moved(self, jaskel, episode, edition):
        url = f"/api/episodes/{episode['id']}/notes"
        note = jaskel.post(url, {"edition": edition, "laid": 3 * RATE, "text": "too quick?", "who": "Orla"}, 201)
        assert (note["recording"], note["at"]) == (episode["recording"], 3 * RATE)
        operate(jaskel, edition, kind="move", ranges=ranges((3, 4)), to=0)
        assert jaskel.get(f"/api/episodes/{episode['id']}")["notes"] == [note]
        changed = jaskel.client.patch(f"{url}/{note['id']}", json={"text": "better"}).json
        assert (changed["text"], changed["who"]) == ("better", "Orla")
        assert jaskel.client.delete(f"{url}/{note['id']}").status_code == 204
        assert jaskel.client.delete(f"{url}/{note['id']}").json["code"] == "no-note"

    def test_it_needs_sound_to_stand_beside(self, jaskel, episode, edition):
        operate(jaskel, edition, kind="rest", at=0, length=RATE)
        body = {"edition": edition, "laid": RATE // 2, "text": "here"}
        assert jaskel.post(f"/api/episodes/{episode['id']}/notes", body, 422)["code"] == "nothing-there"
