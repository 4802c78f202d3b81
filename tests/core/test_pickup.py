"""A line said again in an edition and its plan."""

from __future__ import annotations

from dataclasses import replace
from fractions import Fraction

import pytest

from jaskel.core.edition import Edition, Piece
from jaskel.core.marks.level import set_fader
from jaskel.core.marks.mark import Marks
from jaskel.core.operations import apply
from jaskel.core.operations.material import Substitute
from jaskel.core.page import lay_out
from jaskel.core.pickup import PAD, lines_in, put_in_line, spot_at, take_off_line
from jaskel.core.plan import Material, compile_plan
from jaskel.core.problem import Problem
from jaskel.core.session import Picture, Session, Track
from jaskel.core.source import Recorded, SaidAgain
from jaskel.core.timebase import RATE
from jaskel.core.transcript import Transcript, Word

S = RATE
LINE = SaidAgain("line", "talk", "mic", 4 * S, 5 * S)
TALK = Session((
    Track("mic", 20 * S, voice="teo"),
    Track("other", 20 * S, voice="orla"),
    Track("camera", 20 * S, sounds=False, picture=Picture(640, 360, Fraction(25))),
))  # fmt: skip
MATERIAL = Material({"talk": TALK, "line": Session((Track("line", 2 * S),))})
EDITION = Edition.of([Piece(Recorded("talk"), 0, 20 * S)])


def said(*words, duration=20 * S):
    return Transcript(duration, tuple(Word(text, a * S, b * S, voice=voice) for text, a, b, voice in words))


SAID = {
    "talk": said(("No", 3, 4, "teo"), ("boats", 4, 5, "teo"), ("here.", 5, 6, "teo"), ("Oh?", 8, 9, "orla")),
    "line": Transcript(2 * S, (Word("ships", PAD, 2 * S - PAD, voice="teo"),)),
}


@pytest.fixture
def placed():
    return apply(EDITION, put_in_line(EDITION, 4 * S, 5 * S, LINE, 2 * S, "said again"))[0]


def test_it_takes_the_place_of_its_words_and_gives_it_back(placed):
    assert placed.kept_length == 19 * S + 2 * S - PAD and lines_in(placed) == [LINE]
    back = apply(placed, take_off_line(placed, "line"))[0]
    assert back.kept_length == 20 * S and lines_in(back) == []
    with pytest.raises(Problem, match="does not stand"):
        take_off_line(back, "line")


def test_another_line_takes_the_place_of_the_first(placed):
    other = replace(LINE, recording="line2")
    spot = spot_at(placed, SAID, 4 * S, 5 * S + 2 * S - PAD)
    assert (spot.home, spot.start, spot.end, spot.voice) == ("talk", 4 * S, 5 * S, "teo")
    after = apply(placed, put_in_line(placed, 4 * S, 5 * S + 2 * S - PAD, other, S, "again"))[0]
    assert lines_in(after) == [other] and after.kept_length == 19 * S + S - PAD


def test_the_page_sets_it_in_its_passage(placed):
    page = lay_out(placed, SAID)
    assert [token.text for token in page[0].tokens if token.kind == "word"] == ["No", "boats", "ships", "here."]
    assert [token.pickup for token in page[0].tokens if token.text == "ships"] == ["line"]


def test_the_picture_of_the_spot_goes_on_above_it_as_quickly_as_it_is_said(placed):
    plan = compile_plan(placed, MATERIAL)
    layer = next(each for each in plan.layers if each.camera and each.camera.speed < 0.9)
    assert layer.camera.recording == "camera" and layer.camera.speed == pytest.approx(0.5)
    assert layer.camera.place == pytest.approx(4 * S, abs=S // 20)


def test_it_has_the_strip_of_its_voice_and_the_other_microphones_stay_open(placed):
    marks = Marks().changed({**set_fader(Marks(), "mic", -6.0), **set_fader(Marks(), "other", -9.0)})
    spans = compile_plan(replace(placed, marks=marks), MATERIAL).sound(4 * S + S // 2, 5 * S).spans
    assert {(span.feed.recording, span.feed.tone, span.decibels) for span in spans} == {
        ("line", False, -6.0),
        ("other", True, -9.0),
    }


def test_it_follows_when_another_file_takes_the_place_of_its_recording():
    alone = SaidAgain("line", "a", "a", 4 * S, 5 * S)
    edition = Edition.of([Piece(Recorded("a"), 0, 20 * S)])
    edition = apply(edition, put_in_line(edition, 4 * S, 5 * S, alone, 2 * S, "said again"))[0]
    after, back = apply(edition, Substitute("a", "b", S, 30 * S))
    assert lines_in(after) == [SaidAgain("line", "b", "b", 5 * S, 6 * S)]
    assert apply(after, back)[0] == edition


@pytest.mark.parametrize(("begin", "end"), [(6 * S, 7 * S), (5 * S, 9 * S)])
def test_a_rest_or_words_of_two_voices_are_no_spot(begin, end):
    with pytest.raises(Problem, match="one voice"):
        spot_at(EDITION, SAID, begin, end)
