"""Destinations without a server: limits to the picture, shapes, what is checked, and what is to be heard last."""

from __future__ import annotations

from dataclasses import replace
from fractions import Fraction

import pytest

from jaskel.core.checks import checks
from jaskel.core.destination import BUILT_IN, Destination, by_key, fitted, fitted_plan, too_long
from jaskel.core.edition import Edition, Piece
from jaskel.core.last_listen import LONGEST, places_to_hear
from jaskel.core.marks.loudness import loudness_of, set_loudness
from jaskel.core.picture.faces import Face, Faces
from jaskel.core.picture.framing import Box
from jaskel.core.plan import Material, compile_plan
from jaskel.core.session import Picture, Session, Track
from jaskel.core.source import CLOSING, OPENING, Recorded
from jaskel.core.timebase import RATE
from jaskel.core.transcript import Transcript, Word

SOUND = Recorded("a")


def edition(*kept):
    return Edition(tuple(Piece(SOUND, a, b) for a, b in kept))


def material(length, words=(), rate=25):
    picture = Picture(1280, 720, Fraction(rate))
    return Material({"a": Session((Track("a", length, picture=picture),))}, {"a": Transcript(length, tuple(words))})


@pytest.mark.parametrize(
    ("ticks", "rate", "over"),
    [
        (60 * RATE, 25, 0),
        (60 * RATE + 1, 25, 1),
        (60 * RATE + RATE // 25, 25, RATE // 25),
        (60 * RATE, 24, 0),
        (61 * RATE, 25, RATE),
    ],
)
def test_a_film_is_too_long_by_a_picture(ticks, rate, over):
    limited = by_key("upright 60")
    assert too_long(fitted_plan(edition((0, ticks)), material(ticks, rate=rate), limited), limited) == over


def test_sound_is_too_long_by_a_sample():
    limited = Destination("x", "x", form="mp3", longest=60)
    plan = fitted_plan(edition((0, 60 * RATE + 1)), material(61 * RATE), limited)
    assert too_long(plan, limited) == 1


def test_cards_count_unless_they_are_left_out():
    cards = Edition((Piece(OPENING, 0, 3 * RATE), Piece(SOUND, 0, 58 * RATE), Piece(CLOSING, 0, 2 * RATE)))
    limited = by_key("upright 60")
    assert too_long(fitted_plan(cards, material(58 * RATE), limited), limited) > 2.9 * RATE
    bare = replace(limited, cards=False)
    assert too_long(fitted_plan(cards, material(58 * RATE), bare), bare) == 0


@pytest.mark.parametrize("destination", BUILT_IN, ids=lambda each: each.key)
def test_each_gives_the_frame_it_promises(destination):
    frame = fitted_plan(edition((0, RATE)), material(RATE), destination).frame
    if destination.short:
        assert min(frame.width, frame.height) == destination.short
        assert (frame.width > frame.height, frame.width == frame.height) == (
            destination.key == "wide",
            destination.key == "square",
        )
    else:
        assert (frame.width, frame.height) == (1280, 720)


def test_a_loudness_that_is_the_editions_own_keeps_what_was_measured():
    marks = edition((0, RATE)).marks
    own = replace(edition((0, RATE)), marks=marks.changed(set_loudness(marks, -16.0)))
    assert loudness_of(fitted(own, by_key("podcast")).marks) == loudness_of(own.marks)
    assert loudness_of(fitted(own, by_key("wide")).marks).target == -14
    assert loudness_of(fitted(own, by_key("archive")).marks).target == -16


def test_a_face_at_the_edge_is_told_only_where_the_picture_is_cropped():
    def told(destination, left):
        face = Face(0, tuple(Box(left, 0.3, 0.3, 0.3) for _ in range(60)))
        other = Face(0, tuple(Box(0.55, 0.3, 0.3, 0.4) for _ in range(60)))
        seen = replace(material(10 * RATE), faces={"a": Faces((other, face), 60)})
        return {each.kind for each in checks(fitted_plan(edition((0, 9 * RATE)), seen, destination), destination, {})}

    cut = [left / 50 for left in range(36) if "face outside" in told(by_key("square"), left / 50)]
    assert cut and all("face outside" not in told(by_key("wide"), left) for left in cut)


def test_voices_without_a_name_and_quick_captions_are_told():
    words = [Word("extraordinarily", n * RATE // 5, (n + 1) * RATE // 5 - 100, 0.9, "v") for n in range(30)]
    plan = fitted_plan(edition((0, 6 * RATE)), material(6 * RATE, words), by_key("wide"))
    found = {each.kind: each for each in checks(plan, by_key("wide"), {})}
    assert found["voice without a name"].places == (0,) and found["captions too fast"].places
    assert "voice without a name" not in {each.kind for each in checks(plan, by_key("wide"), {"v": "Orla"})}


class TestLastListen:
    words = tuple(Word(f"w{n}.", n * RATE, n * RATE + RATE // 2, 0.9, "v") for n in range(3600))

    def heard(self, kept, level=lambda *_: None, words=words, read=True):
        plan = compile_plan(edition(*kept), material(3600 * RATE, words))
        return places_to_hear(plan, level, read=read)

    def test_an_hour_with_hundreds_of_cuts_is_heard_in_three_minutes(self):
        kept = [(n * 10 * RATE, n * 10 * RATE + 8 * RATE) for n in range(360)]
        found = self.heard(kept)
        assert 60 <= len(found) <= 90 and sum(each.until - each.begin for each in found) <= LONGEST

    def test_a_step_of_level_comes_before_a_plain_cut(self):
        kept = [
            (0, 100 * RATE - RATE // 4),
            (102 * RATE - RATE // 4, 200 * RATE - RATE // 4),
            (202 * RATE - RATE // 4, 300 * RATE),
        ]

        def level(_name, start, _end):
            return (40.0 if start < 201 * RATE else 30.0), 10.0

        found = {round(each.at / RATE): each for each in self.heard(kept, level)}
        assert found[198].weight > found[100].weight and "the level jumps" in found[198].why
        assert found[100].why == ("a cut",)

    def test_where_nothing_was_taken_out_there_is_nothing_to_hear(self):
        assert self.heard([(0, 50 * RATE), (50 * RATE, 100 * RATE)]) == []

    def test_doubtful_words_count_where_they_are_read(self):
        doubted = (*self.words[:50], Word("hm", 50 * RATE, 50 * RATE + 9000, 0.2, "v"))
        assert [each.why for each in self.heard([(0, 60 * RATE)], words=doubted)] == [("a word in doubt",)]
        assert self.heard([(0, 60 * RATE)], words=doubted, read=False) == []
