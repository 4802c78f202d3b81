"""Captions in a second language: brought as a text or as captions, timed to what is said, shown beside it, written to files."""

from __future__ import annotations

from itertools import pairwise

import pytest
from conftest import RATE
from test_caption_rules import spoken  # noqa: F401
from test_exports import episode, exported  # noqa: F401
from test_retyping import operate, turn

from jaskel.core.captions.cues import cues
from jaskel.core.captions.second import Unit, placed
from jaskel.core.captions.words import ProgrammeWord
from jaskel.core.transcript import Word

GERMAN = "Wir legen die Planke in den Dampfkasten, und wir gehen für die Nacht nach Hause, weil niemand länger warten kann."


@pytest.fixture
def edition(spoken):  # noqa: F811
    return spoken["editions"][0]["id"]


def understood(jaskel, edition, content: str, name: str, status=200):
    answer = jaskel.client.post(f"/api/editions/{edition}/second-language?name={name}", data=content.encode())
    assert answer.status_code == status, answer.text
    return answer.json


def shown(jaskel, edition):
    return jaskel.get(f"/api/editions/{edition}/cues")["cues"]


def bring(jaskel, edition, content: str, name: str, language="de"):
    units = understood(jaskel, edition, content, name)["units"]
    return operate(jaskel, edition, kind="caption second", language=language, units=units)


def test_a_text_stands_below_what_is_said_and_is_taken_off_again(jaskel, edition):
    assert bring(jaskel, edition, GERMAN, "de.txt")["second_language"] == "de"
    assert " ".join(line for cue in shown(jaskel, edition) for line in cue["second"]) == GERMAN
    assert all(cue["second"] for cue in shown(jaskel, edition))
    operate(jaskel, edition, kind="strike", ranges=[{"begin": 0, "end": RATE // 4}], why="by hand")
    assert shown(jaskel, edition)[0]["second"], "it stays where its words are"
    turn(jaskel, edition, "undo")
    assert operate(jaskel, edition, kind="caption second", units=[])["second_language"] == ""
    assert not any(cue["second"] for cue in shown(jaskel, edition))
    assert operate(jaskel, edition, 422, kind="caption second", units=[])["code"] == "nothing-changed"


def test_captions_in_another_language_keep_to_their_times(jaskel, edition):
    first = shown(jaskel, edition)[0]
    middle = first["end"] / RATE
    srt = f"1\n00:00:00,000 --> 00:00:0{middle:.3f}\nErster Teil,\n\n2\n00:00:0{middle:.3f} --> 00:00:06,000\nzweiter Teil.\n"
    bring(jaskel, edition, srt.replace(".", ",", 0), "de.srt")
    assert shown(jaskel, edition)[0]["second"] == ["Erster Teil,"]
    assert " ".join(line for cue in shown(jaskel, edition)[1:] for line in cue["second"]) == "zweiter Teil."


def test_files_have_either_language_or_both(jaskel, edition, spoken):  # noqa: F811
    bring(jaskel, edition, GERMAN, "de.txt")
    plain, second, both = (exported(jaskel, spoken, "srt", texts=texts).decode() for texts in ("first", "second", "both"))
    assert "Planke" not in plain and "Planke" in second and "plank " not in second
    assert "Planke" in both and "plank" in both


def test_the_monitor_draws_both(jaskel, edition):
    before = jaskel.get(f"/api/editions/{edition}/screens")["moments"][0]
    bring(jaskel, edition, GERMAN, "de.txt")
    after = next(each for each in jaskel.get(f"/api/editions/{edition}/screens")["moments"] if each["key"])
    assert after["height"] > before["height"]


@pytest.mark.parametrize(("content", "name", "code"), [("", "a.txt", "empty"), ("nur Text", "a.srt", "not-captions")])
def test_what_cannot_be_understood_is_said(jaskel, edition, content, name, code):
    assert understood(jaskel, edition, content, name, 422)["code"] == code


class TestByLength:
    def sentences(self, *texts: str):
        words, at = [], 0
        for word in " ".join(texts).split():
            words.append(ProgrammeWord(Word(word, at, at + RATE // 4), at, at + RATE // 4))
            at += RATE // 3
        return cues(words, at + RATE)

    def test_a_sentence_that_became_two_keeps_its_place(self):
        made = self.sentences(
            "The harbour froze over in the first week of the year.", "Nobody complained.",
            "We walked to the island and back, every single day, until the ice began to sing under our feet.",
        )  # fmt: skip
        texts = [
            "Der Hafen fror in der ersten Woche des Jahres zu.", "Niemand beklagte sich.",
            "Wir gingen jeden Tag zur Insel und zurück.", "Das taten wir, bis das Eis unter unseren Füßen zu singen begann.",
        ]  # fmt: skip
        found = placed([Unit(text) for text in texts], made)
        assert [text for *_, text in found] == [f"{texts[0]} {texts[1]}", f"{texts[2]} {texts[3]}"]
        assert found[0][0] == 0 and found[-1][1] == len(made)
        assert all(a[1] == b[0] for a, b in pairwise(found))

    def test_nothing_is_lost_of_a_text_that_is_much_longer(self):
        made = self.sentences("Yes.", "No, not yet.")
        texts = [f"Satz Nummer {number}." for number in range(9)]
        assert " ".join(text for *_, text in placed([Unit(text) for text in texts], made)) == " ".join(texts)
