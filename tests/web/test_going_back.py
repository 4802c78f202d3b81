"""Going back in the history brings words back as it brings cuts back; what is told is what happened."""

from __future__ import annotations

import pytest
from conftest import RATE, tone, write_media
from test_retyping import edition, find, operate, over, tokens, turn

from jaskel.core.transcript import Word


@pytest.fixture
def episode(jaskel, tmp_path):
    made = jaskel.episode()
    recording = jaskel.upload(made["id"], write_media(tmp_path / "a.wav", tone(9)))["id"]
    jaskel.work()
    said = ["So", "we", "begin", "with", "the", "hull."]
    jaskel.words(recording, [Word(text, (i + 1) * RATE, (i + 1) * RATE + RATE // 2, 0.8) for i, text in enumerate(said)])
    return jaskel.get(f"/api/episodes/{made['id']}")


def text(jaskel, episode):
    return " ".join(t["text"] for t in tokens(jaskel, episode))


def voices(jaskel, episode):
    page = jaskel.get(f"/api/editions/{edition(episode)}/page")
    return [p["voice"] for p in page["passages"]]


def restore(jaskel, episode, revision):
    return operate(jaskel, edition(episode), kind="restore", revision=revision)


class TestWords:
    def test_corrections_since_are_taken_back_and_come_again_with_undo(self, jaskel, episode):
        operate(jaskel, edition(episode), kind="retype", ranges=over(find(jaskel, episode, "we")), text="they all")
        first = jaskel.get(f"/api/editions/{edition(episode)}")["revision"]
        operate(jaskel, edition(episode), kind="retype", ranges=over(find(jaskel, episode, "hull.")), text="keel.")
        operate(jaskel, edition(episode), kind="strike", ranges=over(find(jaskel, episode, "begin")))
        jaskel.work("fit")
        head = restore(jaskel, episode, first)
        assert text(jaskel, episode) == "So they all begin with the hull." and head["struck"] == []
        turn(jaskel, edition(episode), "undo")
        assert text(jaskel, episode) == "So they all begin with the keel."
        turn(jaskel, edition(episode), "redo")
        restore(jaskel, episode, 1)
        assert text(jaskel, episode) == "So we begin with the hull."

    def test_voices_and_passages_go_back_too(self, jaskel, episode):
        before = voices(jaskel, episode)
        begin = find(jaskel, episode, "begin")
        operate(jaskel, edition(episode), kind="give voice", begin=begin["at"], end=8 * RATE, voice="Orla Venn")
        operate(jaskel, edition(episode), kind="passage", at=find(jaskel, episode, "the")["at"], begins=True)
        assert voices(jaskel, episode) != before
        restore(jaskel, episode, 1)
        assert voices(jaskel, episode) == before

    def test_only_words_may_be_what_goes_back(self, jaskel, episode):
        operate(jaskel, edition(episode), kind="retype", ranges=over(find(jaskel, episode, "we")), text="they")
        restore(jaskel, episode, 1)
        assert text(jaskel, episode) == "So we begin with the hull."

    def test_corrections_made_in_another_edition_stay_and_others_that_show_the_words_are_named(self, jaskel, episode):
        body = {"name": "Trailer", "copy_of": edition(episode), "ranges": []}
        other = jaskel.post(f"/api/episodes/{episode['id']}/editions", body, 201)["id"]
        operate(jaskel, edition(episode), kind="retype", ranges=over(find(jaskel, episode, "we")), text="they")
        hull = find(jaskel, episode, "hull.")
        operate(jaskel, other, kind="retype", ranges=over(hull), text="keel.")
        head = restore(jaskel, episode, 1)
        assert text(jaskel, episode) == "So we begin with the keel."
        assert "“Trailer” shows" in head["newest"]["summary"]

    def test_compare_tells_of_them(self, jaskel, episode):
        operate(jaskel, edition(episode), kind="retype", ranges=over(find(jaskel, episode, "we")), text="they all")
        told = jaskel.get(f"/api/compare?edition={edition(episode)}&revision=1&other={edition(episode)}")
        assert [(each["before"], each["after"]) for each in told["retyped"]] == [("we", "they all")]
        assert told["differences"] == []
        operate(jaskel, edition(episode), kind="strike", ranges=over(find(jaskel, episode, "all")))
        told = jaskel.get(f"/api/compare?edition={edition(episode)}&revision=1&other={edition(episode)}")
        assert [d["only_in"] for d in told["differences"]] == ["first"]


class TestWhatIsTold:
    @pytest.mark.parametrize(
        ("begin", "end", "told"),
        [
            (2.0, 2.5, "struck “we” at 0:02"),
            (1.55, 2.0, "struck a rest at 0:01"),
            (1.45, 2.05, "struck a rest at 0:01"),  # reaches a little into the words beside it
            (1.6, 1.9, "struck 0.3 s of a rest at 0:01"),
            (2.1, 2.2, "struck 0.10 s of sound at 0:02"),
        ],
    )
    def test_it_is_what_happened(self, jaskel, episode, begin, end, told):
        ranges = [{"begin": round(begin * RATE), "end": round(end * RATE)}]
        head = operate(jaskel, edition(episode), kind="strike", ranges=ranges)
        assert head["newest"]["summary"] == told

    def test_sound_without_a_transcript_is_no_rest(self, jaskel, tmp_path):
        made = jaskel.episode()
        jaskel.upload(made["id"], write_media(tmp_path / "b.wav", tone(5, 300)))
        jaskel.work()
        ranges = [{"begin": RATE, "end": 3 * RATE}]
        head = operate(jaskel, made["editions"][0]["id"], kind="strike", ranges=ranges)
        assert head["newest"]["summary"] == "struck 2.0 s of sound without words at 0:01"


class TestTheHistory:
    def test_everybody_undoes_their_own_steps(self, jaskel, episode):
        id_ = edition(episode)
        for number, who in ((1, "Teo"), (2, "Ines")):
            strike = {"kind": "strike", "ranges": [{"begin": number * RATE, "end": number * RATE + 100}]}
            jaskel.post(f"/api/editions/{id_}/operations", {"revision": number, "operation": strike, "who": who})
        head = jaskel.get(f"/api/editions/{id_}?who=Teo")
        assert (head["undo"]["who"], head["undo"]["number"], head["newest"]["number"]) == ("Teo", 2, 3)
        after = jaskel.post(f"/api/editions/{id_}/undo", {"revision": 2, "who": "Teo"})
        assert (after["newest"]["step"], after["newest"]["number"], after["newest"]["who"]) == ("undo", 2, "Teo")
        assert after["struck"] == [[2 * RATE, 2 * RATE + 100]] and after["undo"] is None
        assert jaskel.post(f"/api/editions/{id_}/undo", {"revision": 4, "who": "Teo"}, 422)["code"] == "nothing-to-undo"
        again = jaskel.post(f"/api/editions/{id_}/redo", {"revision": 4, "who": "Teo"})
        assert again["struck"] == [[RATE, RATE + 100], [2 * RATE, 2 * RATE + 100]]
        assert jaskel.get(f"/api/editions/{id_}?who=Ines")["undo"]["number"] == 3

    def test_windows_without_a_name_are_told_apart(self, jaskel, episode):
        id_ = edition(episode)
        for number, window in ((1, "one"), (2, "other")):
            strike = {"kind": "strike", "ranges": [{"begin": number * RATE, "end": number * RATE + 100}]}
            jaskel.post(f"/api/editions/{id_}/operations", {"revision": number, "operation": strike, "window": window})
        after = jaskel.post(f"/api/editions/{id_}/undo", {"revision": 3, "window": "one"})
        assert after["struck"] == [[2 * RATE, 2 * RATE + 100]]
        assert (after["newest"]["who"], after["redo"]["number"]) == ("", 2)
        # Whoever gives a name later still undoes what they did before.
        named = jaskel.get(f"/api/editions/{id_}?who=Orla&window=other")
        assert named["undo"]["number"] == 3

    def test_what_stands_in_the_way_of_undo_is_told_with_whose_it_is(self, jaskel, episode):
        id_ = edition(episode)
        for revision, who, kind in ((1, "Teo", "strike"), (2, "Ines", "put back")):
            operation = {"kind": kind, "ranges": [{"begin": RATE, "end": 2 * RATE}]}
            jaskel.post(f"/api/editions/{id_}/operations", {"revision": revision, "operation": operation, "who": who})
        told = jaskel.post(f"/api/editions/{id_}/undo", {"revision": 3, "who": "Teo"}, 422)
        assert told["code"] == "in-the-way" and "Ines’s step 3" in told["detail"]
        assert told["facts"] == {"step": 3, "who": "Ines"}
        assert jaskel.get(f"/api/editions/{id_}")["revision"] == 3

    def test_places_follow_what_others_put_in_and_took_back(self, jaskel, episode):
        id_ = edition(episode)

        def ask(who, **operation):
            revision = jaskel.get(f"/api/editions/{id_}")["revision"]
            return jaskel.post(f"/api/editions/{id_}/operations", {"revision": revision, "operation": operation, "who": who})

        def turn_by(who, step):
            revision = jaskel.get(f"/api/editions/{id_}")["revision"]
            return jaskel.post(f"/api/editions/{id_}/{step}", {"revision": revision, "who": who})

        first = ask("Teo", kind="strike", ranges=[{"begin": 2 * RATE, "end": 3 * RATE}])["struck"]
        ask("Teo", kind="lift", ranges=[{"begin": 2 * RATE, "end": 3 * RATE}])
        ask("Ines", kind="rest", at=RATE // 2, length=RATE, silent=True)
        # Both of Teo's steps are about the same second: the later one is gone before the earlier is taken back.
        assert turn_by("Teo", "undo")["struck"] == [[3 * RATE, 4 * RATE]]
        assert turn_by("Teo", "undo")["struck"] == []
        assert turn_by("Teo", "redo")["struck"] == [[3 * RATE, 4 * RATE]]
        assert turn_by("Ines", "undo")["struck"] == first

    def test_it_can_be_searched(self, jaskel, episode):
        id_ = edition(episode)
        operate(jaskel, id_, kind="retype", ranges=over(find(jaskel, episode, "we")), text="100%")
        operate(jaskel, id_, kind="strike", ranges=over(find(jaskel, episode, "begin")))
        jaskel.post(f"/api/editions/{id_}/versions", {"name": "For Teo", "revision": 3}, 201)

        def found(words):
            return [each["number"] for each in jaskel.get(f"/api/editions/{id_}/history?words={words}")["entries"]]

        assert found("RETYPED") == [2] and found("begin") == [3] and found("for%20teo") == [3]
        assert found("100%25") == [2] and found("%25") == [2] and found("_") == []
