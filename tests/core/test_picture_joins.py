"""Joins of pictures in the plan: where they lie, and what they are made of."""

from __future__ import annotations

from dataclasses import replace
from fractions import Fraction

import pytest

from jaskel.core.codec import codec
from jaskel.core.edition import Edition, Piece
from jaskel.core.marks.anchor import Meeting, Place, Stretch
from jaskel.core.marks.camera import CoverHere
from jaskel.core.marks.join import JoinMark, set_joins
from jaskel.core.marks.mark import NO_MARKS, Marks
from jaskel.core.marks.shot import set_shot
from jaskel.core.operations import Strike, apply
from jaskel.core.picture.framing import Box
from jaskel.core.picture.joins import Join
from jaskel.core.plan import Blend, Material, Scene, compile_plan
from jaskel.core.session import Picture, Session, Track
from jaskel.core.source import OPENING, Recorded
from jaskel.core.timebase import RATE as S

HD = Picture(1280, 720, Fraction(25))
TWO = Session((Track("wide", 60 * S, picture=HD, voice="a"), Track("close", 60 * S, picture=HD, voice="b", sounds=False)))
MATERIAL = Material({"talk": TWO})
TALK = Recorded("talk")
PIECES = (Piece(TALK, 0, 10 * S), Piece(TALK, 10 * S, 14 * S, kept=False), Piece(TALK, 14 * S, 30 * S))
SPLICE = Meeting(TALK, 10 * S, TALK, 14 * S)


def joined(join, tie=SPLICE, pieces=PIECES, marks=NO_MARKS):
    return replace(Edition.of(pieces), marks=marks.changed(set_joins(marks, [tie], join)))


def blends(edition):
    return [layer for layer in compile_plan(edition, MATERIAL).layers if isinstance(layer.shown, Blend)]


@pytest.mark.parametrize(("where", "begins"), [("before", -0.4), ("across", -0.2), ("after", 0.0)])
def test_a_join_lies_before_its_splice_across_it_or_after_it(where, begins):
    (layer,) = blends(joined(Join("dissolve", S * 4 // 10, where)))
    splice = compile_plan(joined(None), MATERIAL).splices()[0]
    assert layer.begin == splice + begins * S
    assert layer.until - layer.begin == 0.4 * S


def test_both_pictures_go_on_into_what_was_struck():
    (layer,) = blends(joined(Join("dissolve", S, "across")))
    blend = layer.shown
    before, after = blend.before.views[0].camera, blend.after.views[0].camera
    assert before.after(0) == pytest.approx(9.5 * S, abs=S // 20)
    assert before.after(blend.length) == pytest.approx(10.5 * S, abs=S // 20)
    assert after.after(0) == pytest.approx(13.5 * S, abs=S // 20)
    assert after.after(blend.length) == pytest.approx(14.5 * S, abs=S // 20)


def test_layers_cover_the_programme_with_joins_in_it_and_slices_are_the_same():
    plan = compile_plan(joined(Join("bridge")), MATERIAL)
    assert [layer.begin for layer in plan.layers[1:]] == [layer.until for layer in plan.layers[:-1]]
    assert (plan.layers[0].begin, plan.layers[-1].until) == (0, plan.length)
    (layer,) = (each for each in plan.layers if isinstance(each.shown, Blend))
    middle = (layer.begin + layer.until) // 2
    assert plan.picture(middle, middle + S).layers[0].shown.since == middle - layer.begin


def test_without_room_it_is_shorter_and_with_none_it_is_a_plain_cut():
    pieces = (Piece(TALK, 0, S // 5), Piece(TALK, S // 5, 14 * S, kept=False), Piece(TALK, 14 * S, 30 * S))
    tie = Meeting(TALK, S // 5, TALK, 14 * S)
    (layer,) = blends(joined(Join("dissolve", S, "across"), tie, pieces))
    assert layer.begin == 0
    assert layer.until == pytest.approx(S // 5 + S // 2, abs=S // 20)
    short = (Piece(TALK, 0, S // 50), Piece(TALK, S // 50, 14 * S, kept=False), Piece(TALK, 14 * S, 30 * S))
    assert blends(joined(Join("dissolve", S, "before"), Meeting(TALK, S // 50, TALK, 14 * S), short)) == []


def test_it_goes_with_its_splice_and_comes_back_with_it():
    edition = joined(Join("bridge"))
    struck, back = apply(edition, Strike(((13 * S, 16 * S),)))
    assert blends(struck) == []  # another splice is there now
    assert len(blends(apply(struck, back)[0])) == 1


def test_two_shots_dissolve_where_the_second_one_begins():
    marks = NO_MARKS.changed(set_shot(NO_MARKS, [("talk", 5 * S, 8 * S)], "single", ("b",)))
    (layer,) = blends(joined(Join("dissolve", S // 2), Place("talk", 5 * S), marks=marks))
    assert [side.views[0].camera.recording for side in (layer.shown.before, layer.shown.after)] == ["wide", "close"]
    assert layer.begin == pytest.approx(4.75 * S, abs=S // 20)


def test_a_card_dissolves_too():
    pieces = (Piece(OPENING, 0, 3 * S), Piece(TALK, 0, 10 * S))
    (layer,) = blends(joined(Join("dissolve", S), Place("talk", 0), pieces))
    assert layer.shown.before == OPENING
    assert isinstance(layer.shown.after, Scene)


def test_joins_are_changed_taken_off_and_stored_as_plain_values():
    marks = NO_MARKS.changed(set_joins(NO_MARKS, [SPLICE, Place("talk", 5 * S)], Join("dip", S, "after", "#23559e")))
    assert codec.structure(codec.unstructure(marks), Marks) == marks
    assert set_joins(marks, [SPLICE], Join("dip", S, "after", "#23559e")) == {}
    assert len(marks.changed(set_joins(marks, [SPLICE], Join("push", S))).all(JoinMark)) == 2
    assert len(marks.changed(set_joins(marks, [SPLICE], None)).all(JoinMark)) == 1
    assert set_joins(NO_MARKS, [SPLICE], None) == {}
    with pytest.raises(ValueError, match="takes from"):
        Join("bridge", 1)


def test_what_is_covered_stays_covered_while_the_picture_goes_on_in_a_join():
    way = ((0, Box(0.1, 0.1, 0.2, 0.2)), (4 * S, Box(0.3, 0.1, 0.2, 0.2)))
    mark = CoverHere("c", (Stretch("talk", 6 * S, 10 * S),), "wide", "solid", way)
    (layer,) = blends(joined(Join("dissolve", S, "across"), marks=Marks.of([mark])))
    (cover,) = layer.shown.before.views[0].covers
    assert all(cover.at(after) for after in (0, S // 2, S - 1))


@pytest.mark.parametrize("shift", [-S * 8 // 25, S * 4 // 25, S * 8 // 25])
def test_pictures_may_go_over_nearby_within_what_was_struck(shift):
    plan = compile_plan(joined(Join("bridge", S * 6 // 25, shift=shift)), MATERIAL)
    (layer,) = (each for each in plan.layers if isinstance(each.shown, Blend))
    splice = plan.splices()[0]
    assert layer.begin == splice + shift - S * 3 // 25
    assert [each.begin for each in plan.layers[1:]] == [each.until for each in plan.layers[:-1]]
    before, after = plan.layers[0], plan.layers[-1]
    last, first = (each.shown.views[0].camera for each in (before, after))
    # One goes on into what was struck, or the other begins in it; nothing jumps where the bridge begins and ends.
    blend = layer.shown
    assert last.after(before.until) == pytest.approx(blend.before.views[0].camera.after(0), abs=2)
    assert first.after(0) == pytest.approx(blend.after.views[0].camera.after(blend.length), abs=2)
    with pytest.raises(ValueError, match="of the sound"):
        Join(shift=S)
