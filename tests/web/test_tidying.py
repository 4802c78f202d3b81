"""Findings through the API: found, accepted by kind, refused, put back, found again; with what a show wants tidied."""

from __future__ import annotations

import numpy as np
import pytest
from conftest import RATE, write_media

from jaskel.core.tidy.cut import REACH
from jaskel.core.tidy.heard import Heard
from jaskel.core.transcript import Word
from jaskel.jobs.settle import start_settling
from jaskel.jobs.tidy import start_tidying
from jaskel.store.models import BroughtText, EditionRow, Recording
from jaskel.store.tidying import keep_heard
from jaskel.web.asked import settling

SAID = (
    "Shall we start? | From the top. || Welcome to the quay. The tide, | the tide comes in at four. Um, it is cold. ||| "
    "I mean, it is the sea. It looks like rain. Cut that out. The boat floats. um The end of the quay. | Um, | it is wet."
)


def spoken(text: str) -> list[Word]:
    """Words of 0.3 s; each “|” is a rest of half a second."""
    words, at = [], RATE
    for each in text.split():
        if set(each) == {"|"}:
            at += len(each) * RATE // 2
            continue
        words.append(Word(each, at, at + RATE * 3 // 10))
        at += RATE * 35 // 100
    return words


@pytest.fixture
def episode(jaskel, tmp_path):
    made = jaskel.episode()
    sound = np.random.default_rng(3).normal(0, 0.02, 30 * RATE).astype(np.float32)
    made["recording"] = jaskel.upload(made["id"], write_media(tmp_path / "talk.flac", sound))["id"]
    jaskel.work()
    jaskel.words(made["recording"], spoken(SAID))
    return made


@pytest.fixture
def edition(jaskel, episode):
    return jaskel.get(f"/api/episodes/{episode['id']}")["editions"][0]["id"]


def found(jaskel, edition, kind=None, state=None):
    findings = jaskel.get(f"/api/editions/{edition}/findings")["findings"]
    return [f for f in findings if kind in (None, f["kind"]) and state in (None, f["state"])]


def operate(jaskel, edition, status=200, **operation):
    revision = jaskel.get(f"/api/editions/{edition}")["revision"]
    return jaskel.post(f"/api/editions/{edition}/operations", {"revision": revision, "operation": operation}, status)


def accept(jaskel, edition, findings, **more):
    return operate(jaskel, edition, kind="tidy", findings=[{"id": f["id"], **more} for f in findings])


def undo(jaskel, edition):
    return jaskel.post(f"/api/editions/{edition}/undo", {"revision": jaskel.get(f"/api/editions/{edition}")["revision"]})


class TestJudging:
    def test_every_kind_is_found_in_reading_order_with_what_it_would_save(self, jaskel, edition):
        findings = found(jaskel, edition)
        told = [(f["kind"], f["text"]) for f in findings]
        assert told == [
            ("chatter", "Shall we start? From the top."),
            ("retake", "The tide,"),
            ("filler", "Um,"),
            ("long rest", ""),
            ("empty word", "I mean,"),
            ("chatter", "Cut that out."),
            ("filler", "um"),
            ("filler", "Um,"),
        ]
        assert all(f["goes"] > 0 and f["state"] == "open" for f in findings)

    def test_a_batch_is_one_step_and_one_undo(self, jaskel, edition):
        whole = jaskel.get(f"/api/editions/{edition}")
        head = accept(jaskel, edition, found(jaskel, edition, "filler"))
        assert head["newest"]["summary"] == "took out 3 fillers"
        assert head["running_time"] < whole["running_time"]
        assert {f["state"] for f in found(jaskel, edition, "filler")} == {"accepted"}
        assert {f["state"] for f in found(jaskel, edition) if f["kind"] != "filler"} == {"open"}
        assert undo(jaskel, edition)["struck"] == whole["struck"]
        assert {f["state"] for f in found(jaskel, edition)} == {"open"}

    def test_everything_at_once_is_told_by_kind(self, jaskel, edition):
        head = accept(jaskel, edition, found(jaskel, edition))
        assert head["newest"]["summary"] == (
            "took out 3 fillers, 1 empty word, 1 long rest, 1 retake and 2 stretches of chatter"
        )
        assert {f["state"] for f in found(jaskel, edition)} == {"accepted"}
        assert (
            operate(jaskel, edition, 422, kind="tidy", findings=[{"id": found(jaskel, edition)[0]["id"]}])["code"]
            == "no-finding"
        )

    def test_one_is_put_back_from_the_page_and_is_open_again(self, jaskel, edition):
        fillers = found(jaskel, edition, "filler")
        accept(jaskel, edition, fillers)
        operate(jaskel, edition, kind="put back", ranges=[{"begin": fillers[0]["begin"], "end": fillers[0]["end"]}])
        assert [f["state"] for f in found(jaskel, edition, "filler")] == ["open", "accepted", "accepted"]

    def test_refused_it_stays_refused_after_words_were_corrected_and_thresholds_changed(self, jaskel, episode, edition):
        first = found(jaskel, edition, "filler")[0]
        rest = found(jaskel, edition, "long rest")[0]
        body = {"findings": [first["id"], rest["id"]]}
        jaskel.post(f"/api/editions/{edition}/refusals", body)
        assert found(jaskel, edition, "filler")[0]["state"] == "refused"
        operate(jaskel, edition, kind="retype", ranges=[{"begin": first["begin"], "end": first["end"]}], text="uhm,")
        jaskel.client.patch(f"/api/shows/{episode['show_id']}/tidy", json={"rhythm": 4})
        again = found(jaskel, edition, "filler")[0]
        assert again["state"] == "refused"
        assert found(jaskel, edition, "long rest", "refused")
        jaskel.post(f"/api/editions/{edition}/refusals", {"findings": [again["id"]], "refused": False})
        assert found(jaskel, edition, "filler")[0]["state"] == "open"

    def test_what_was_cut_by_hand_is_no_finding_any_more(self, jaskel, edition):
        um = found(jaskel, edition, "filler")[0]
        operate(jaskel, edition, kind="strike", ranges=[{"begin": um["begin"] - 100, "end": um["end"] + 100}])
        assert um["id"] not in [f["id"] for f in found(jaskel, edition)]

    def test_another_take_is_picked(self, jaskel, edition):
        (retake,) = found(jaskel, edition, "retake")
        assert [take["text"] for take in retake["takes"]] == ["The tide,", "the tide comes in at four."]
        head = accept(jaskel, edition, [retake], pick=0)
        ((begin, end),) = head["struck"]
        other = retake["takes"][1]
        assert 0 <= other["begin"] - begin <= REACH and 0 <= end - other["end"] <= REACH
        (judged,) = found(jaskel, edition, "retake")
        assert (judged["state"], judged["pick"]) == ("accepted", 0)

    def test_breaths_are_softened_with_the_rest_and_put_back_one_by_one(self, jaskel, episode, edition):
        (rest,) = found(jaskel, edition, "long rest")
        middle = (rest["begin"] + rest["end"]) // 2
        breaths = [(middle, middle + RATE // 5), (rest["end"] + RATE // 50, rest["end"] + RATE // 5)]
        with jaskel.workshop.home.database.write() as session:
            keep_heard(session, episode["recording"], Heard(breaths=breaths))
        assert not found(jaskel, edition, "breath")
        jaskel.client.patch(f"/api/shows/{episode['show_id']}/tidy", json={"soften_breaths": True})
        (breath,) = found(jaskel, edition, "breath")  # the other one goes with the rest
        assert breath["goes"] == 0
        head = accept(jaskel, edition, [rest, breath])
        assert head["newest"]["summary"] == "shortened 1 long rest; a stretch of one track: -10.0 dB"
        assert [level["decibels"] for level in head["levels"]] == [-10]
        assert found(jaskel, edition, "breath")[0]["state"] == "accepted"
        back = {"kind": "adjust", "begin": breath["begin"], "end": breath["end"], "track": None, "decibels": 0}
        assert operate(jaskel, edition, **back)["levels"] == []
        assert found(jaskel, edition, "breath")[0]["state"] == "open"

    def test_another_window_cut_elsewhere_meanwhile(self, jaskel, edition):
        revision = jaskel.get(f"/api/editions/{edition}")["revision"]
        fillers = [{"id": f["id"]} for f in found(jaskel, edition, "filler")]
        operate(jaskel, edition, kind="strike", ranges=[{"begin": 0, "end": RATE}])
        body = {"revision": revision, "operation": {"kind": "tidy", "findings": fillers}}
        assert jaskel.post(f"/api/editions/{edition}/operations", body)["newest"]["summary"] == "took out 3 fillers"


def test_a_script_is_laid_beside_what_was_said(jaskel, episode, edition):
    assert jaskel.get(f"/api/editions/{edition}/script") == {"lines": [], "off": []}
    script = "Welcome to the quay. The tide comes in at four. Nobody said this. The boat floats."
    with jaskel.workshop.home.database.write() as session:
        words = [[text, None, None, None] for text in script.split()]
        text = BroughtText(
            recording_id=episode["recording"], name="script.txt", form="text", timed=False, words=words, state="guided"
        )
        session.add(text)
    followed = jaskel.get(f"/api/editions/{edition}/script")
    assert [(line["text"], line["takes"]) for line in followed["lines"]] == [
        ("Welcome to the quay.", 1),
        ("The tide comes in at four.", 1),
        ("Nobody said this.", 0),
        ("The boat floats.", 1),
    ]
    assert followed["lines"][0]["said"]["gone"] is False
    assert [said["text"] for said in followed["off"]][-1] == "um The end of the quay. Um, it is wet."
    operate(jaskel, edition, kind="strike", ranges=[{"begin": said["begin"], "end": said["end"]} for said in followed["off"]])
    assert all(said["gone"] for said in jaskel.get(f"/api/editions/{edition}/script")["off"])


class TestHow:
    def change(self, jaskel, episode, status=200, **body):
        response = jaskel.client.patch(f"/api/shows/{episode['show_id']}/tidy", json=body)
        assert response.status_code == status, response.text
        return response.json

    def test_kinds_are_lifted_or_leave_a_short_rest_if_the_show_wants_that(self, jaskel, episode, edition):
        self.change(jaskel, episode, actions={"chatter": "lift", "filler": "short rest"})
        head = accept(jaskel, edition, found(jaskel, edition, "chatter"))
        assert len(head["lifted"]) == 2
        between = found(jaskel, edition, "filler")[-1]
        before = jaskel.get(f"/api/editions/{edition}")["struck"]
        head = accept(jaskel, edition, [between])
        (gone,) = [each for each in head["struck"] if each not in before]
        # Half a second of rest stands on both sides: one of them stays.
        assert (between["begin"] - gone[0]) + (gone[1] - between["end"]) < RATE // 2 + RATE // 20 + REACH

    def test_the_lists_belong_to_the_show(self, jaskel, episode, edition):
        known = self.change(jaskel, episode, fillers=["Boat", "um"])
        assert known["fillers"] == ["boat", "um"]
        assert [f["text"] for f in found(jaskel, edition, "filler")] == ["Um,", "boat", "um", "Um,"]
        self.change(jaskel, episode, remarks=["the boat floats"])
        assert "The boat floats." in [f["text"] for f in found(jaskel, edition, "chatter")]

    def test_rests_by_rhythm_by_hand_and_back(self, jaskel, episode, edition):
        def longer():
            return jaskel.get(f"/api/editions/{edition}/findings")["thresholds"][0]["longer"]

        steady = longer()
        self.change(jaskel, episode, rhythm=4)
        assert longer() < steady
        self.change(jaskel, episode, rests={"longer": RATE, "becomes": RATE // 2})
        assert longer() == RATE
        (rest,) = found(jaskel, edition, "long rest")
        assert rest["goes"] == RATE * 155 // 100 - RATE // 2
        self.change(jaskel, episode, rhythm=2, own_rests=False)
        assert longer() == steady

    @pytest.mark.parametrize(
        "body",
        [{"rhythm": 9}, {"rests": {"longer": RATE, "becomes": 2 * RATE}}, {"actions": {"filler": "burn"}}, {"fillers": [""]}],
    )
    def test_what_makes_no_sense_is_refused_and_nothing_is_kept(self, jaskel, episode, body):
        before = jaskel.get(f"/api/shows/{episode['show_id']}/tidy")
        self.change(jaskel, episode, 422, **body)
        assert jaskel.get(f"/api/shows/{episode['show_id']}/tidy") == before


class TestListeningForVoice:
    def test_it_is_asked_for_once_and_remembered(self, jaskel, episode, edition):
        assert jaskel.get(f"/api/editions/{edition}/findings")["unheard"] == [episode["recording"]]
        for _ in range(2):
            jaskel.post(f"/api/editions/{edition}/listen")
        jobs = [job for job in jaskel.get(f"/api/episodes/{episode['id']}")["jobs"] if job["kind"] == "listen"]
        assert len(jobs) == 1
        jaskel.work("listen")
        assert jaskel.get(f"/api/editions/{edition}/findings")["unheard"] == []


class TestAsItComes:
    def test_the_words_of_a_new_recording_are_tidied_as_one_step_and_each_can_be_put_back(self, jaskel, episode, edition):
        jaskel.client.patch(f"/api/shows/{episode['show_id']}/tidy", json={"on_import": ["filler", "retake"]})
        with jaskel.workshop.home.database.write() as session:
            started = start_tidying(session, session.get_one(Recording, episode["recording"]))
        assert len(started) == 1
        jaskel.work()
        head = jaskel.get(f"/api/editions/{edition}")
        assert head["undo"]["summary"] == "took out 3 fillers and 1 retake"
        assert {f["state"] for f in found(jaskel, edition) if f["kind"] in ("filler", "retake")} == {"accepted"}
        assert {f["state"] for f in found(jaskel, edition) if f["kind"] == "chatter"} == {"open"}
        undo(jaskel, edition)
        assert jaskel.get(f"/api/editions/{edition}")["struck"] == []

    def test_a_show_that_wants_nothing_gets_nothing(self, jaskel, episode):
        with jaskel.workshop.home.database.write() as session:
            assert start_tidying(session, session.get_one(Recording, episode["recording"])) == []


class TestSettling:
    def test_a_few_joins_are_laid_with_the_step_itself(self, jaskel, edition):
        accept(jaskel, edition, found(jaskel, edition, "filler"))
        jaskel.work("settle")
        assert jaskel.get(f"/api/editions/{edition}")["newest"]["summary"] == "took out 3 fillers"

    def test_many_joins_are_laid_in_the_background_and_undo_takes_back_the_step_not_that(self, jaskel, edition, monkeypatch):
        monkeypatch.setattr(settling, "MOST_SETTLED", 2)
        whole = jaskel.get(f"/api/editions/{edition}")
        accept(jaskel, edition, found(jaskel, edition))
        jaskel.work("settle")
        settled = jaskel.get(f"/api/editions/{edition}")
        assert settled["newest"]["summary"].startswith("laid ")
        assert settled["undo"]["summary"].startswith("took out 3 fillers")
        assert undo(jaskel, edition)["running_time"] == whole["running_time"]

    def test_it_knows_nothing_to_do_twice(self, jaskel, edition, monkeypatch):
        monkeypatch.setattr(settling, "MOST_SETTLED", 2)
        accept(jaskel, edition, found(jaskel, edition))
        jaskel.work("settle")
        revision = jaskel.get(f"/api/editions/{edition}")["revision"]
        with jaskel.workshop.home.database.write() as session:
            assert session.get_one(EditionRow, edition).revision == revision
            start_settling(session, edition)
        jaskel.work("settle")
        assert jaskel.get(f"/api/editions/{edition}")["revision"] == revision


class TestRests:
    """The counts of a kind, its chart and its list are the same rests."""

    def agree(self, jaskel, edition, limit=""):
        chart = jaskel.get(f"/api/editions/{edition}/rests{limit}")
        if not limit:
            listed = found(jaskel, edition, "long rest", "open")
            assert (len(chart["long"]), chart["saved"]) == (len(listed), sum(f["goes"] for f in listed))
        assert all(length in chart["lengths"] for length in chart["long"])
        return chart

    def test_the_chart_counts_what_is_listed_whatever_was_judged(self, jaskel, episode, edition):
        before = self.agree(jaskel, edition)
        assert before["long"]
        (chatter, *_) = found(jaskel, edition, "chatter")
        accept(jaskel, edition, [chatter])
        self.agree(jaskel, edition)
        undo(jaskel, edition)
        jaskel.post(f"/api/editions/{edition}/refusals", {"findings": [chatter["id"]], "refused": True})
        after = self.agree(jaskel, edition)
        assert len(after["lengths"]) > len(before["lengths"])
        accept(jaskel, edition, found(jaskel, edition, "long rest", "open"))
        assert self.agree(jaskel, edition)["long"] == []

    def test_a_limit_is_tried_by_the_same_rules_before_it_is_set(self, jaskel, episode, edition):
        tried = self.agree(jaskel, edition, "?longer=24000&becomes=12000")
        show = jaskel.get(f"/api/episodes/{episode['id']}")["show_id"]
        jaskel.client.patch(f"/api/shows/{show}/tidy", json={"rests": {"longer": 24_000, "becomes": 12_000}})
        assert self.agree(jaskel, edition) == tried


def test_what_takes_a_large_part_is_marked_and_not_tidied_as_it_comes(jaskel, tmp_path):
    made = jaskel.episode()
    jaskel.client.patch(f"/api/shows/{made['show_id']}/tidy", json={"on_import": ["chatter"]})
    sound = np.random.default_rng(3).normal(0, 0.02, 60 * RATE).astype(np.float32)
    recording = jaskel.upload(made["id"], write_media(tmp_path / "talk.flac", sound))["id"]
    jaskel.work()
    talk = "the tide comes in at four and the boats lie still. "
    jaskel.words(recording, spoken("Are we recording? " + talk * 3 + "|| Welcome to the quay. " + talk * 9))
    edition = made["editions"][0]["id"]
    (chatter,) = found(jaskel, edition, "chatter")
    assert chatter["large"] and chatter["state"] == "open"
    with jaskel.workshop.home.database.write() as session:
        start_tidying(session, session.get_one(Recording, recording))
    jaskel.work("tidy")
    assert jaskel.get(f"/api/editions/{edition}")["struck"] == []
