"""Where cameras look, the levels of their pictures, and what of them must not be seen, in the plan."""

from __future__ import annotations

from dataclasses import replace
from fractions import Fraction

import pytest
from hypothesis import given
from hypothesis import strategies as st

from jaskel.core.codec import codec
from jaskel.core.edition import Edition, Piece
from jaskel.core.marks.anchor import Stretch
from jaskel.core.marks.camera import CoverHere, set_aim, set_grade
from jaskel.core.marks.mark import NO_MARKS, Marks
from jaskel.core.operations import Strike, apply
from jaskel.core.picture.cover import Cover
from jaskel.core.picture.faces import Face, Faces
from jaskel.core.picture.framing import Box
from jaskel.core.picture.grade import AS_FILMED, NEUTRAL, Grade, Statistics, matched
from jaskel.core.plan import Material, compile_plan
from jaskel.core.session import Picture, Session, Track
from jaskel.core.source import Recorded
from jaskel.core.timebase import RATE as S

HD = Picture(1280, 720, Fraction(25))
LATE = Track("cam", 60 * S, offset=2 * S, picture=HD)
FACES = Faces((Face(0, (Box(0.6, 0.3, 0.1, 0.2),) * 600),), 600)
MATERIAL = Material({"talk": Session((LATE,))}, faces={"cam": FACES})


def upright(*changes):
    marks = NO_MARKS
    for each in changes:
        marks = marks.changed(each(marks) if callable(each) else each)
    return replace(Edition.of([Piece(Recorded("talk"), 4 * S, 30 * S)]), shape="upright", marks=marks)


def view_at(edition, seconds):
    plan = compile_plan(edition, MATERIAL)
    layer = plan.layer_at(round(seconds * S))
    return layer.shown.views[0], round(seconds * S) - layer.begin


def middle(edition, seconds):
    view, after = view_at(edition, seconds)
    crop = view.crop(after)
    return crop.x + crop.width / 2, crop.width


def aimed(*aim):
    return lambda marks: set_aim(marks, [("talk", 10 * S, 16 * S)], "cam", aim)


def test_a_camera_looks_where_it_was_set_to_and_by_itself_around_that():
    by_itself = middle(upright(), 1)[0]
    assert by_itself == pytest.approx(0.65, abs=0.02)
    edition = upright(aimed(0.3, 0.5, 1.0, False))
    assert middle(edition, 1)[0] == pytest.approx(by_itself)
    assert middle(edition, 8)[0] == pytest.approx(0.3)
    assert middle(edition, 14)[0] == pytest.approx(by_itself)


def test_it_comes_closer_and_follows_the_face_as_far_from_it_as_it_was_set():
    edition = upright(aimed(0.75, 0.5, 2.0, True))
    x, width = middle(edition, 8)
    assert x == pytest.approx(0.75, abs=0.01)
    assert width == pytest.approx(middle(upright(), 8)[1] / 2, abs=0.003)
    cleared = upright(aimed(0.75, 0.5, 2.0, True), lambda marks: set_aim(marks, [("talk", 0, 60 * S)], "cam", None))
    assert middle(cleared, 8) == middle(upright(), 8)


def test_levels_are_those_of_one_camera_throughout():
    grade = Grade(exposure=1, saturation=50)
    edition = upright(lambda marks: set_grade(marks, "cam", grade))
    assert {view_at(edition, at)[0].grade for at in (1, 8, 20)} == {grade}
    assert view_at(upright(), 1)[0].grade == AS_FILMED
    assert set_grade(edition.marks, "cam", AS_FILMED) == {next(each.id for each in edition.marks): None}
    with pytest.raises(ValueError, match="exposure is"):
        Grade(exposure=9)


@given(st.floats(-1, 1), st.floats(-60, 60), st.floats(-60, 60), st.floats(60, 160), st.floats(60, 160))
def test_the_monitors_matrix_is_what_films_do_to_their_planes(exposure, warmth, tint, saturation, contrast):
    grade = Grade(exposure, warmth, tint, saturation, contrast)
    bright, lift, colour, blue, red = grade.linear
    for rgb in ((0.5, 0.5, 0.5), (0.6, 0.4, 0.3), (0.3, 0.45, 0.6)):
        y, u, v = to_yuv(rgb)
        filmed = to_rgb((y * bright + lift, (u - NEUTRAL) * colour + NEUTRAL + blue, (v - NEUTRAL) * colour + NEUTRAL + red))
        rows = [grade.matrix[at : at + 5] for at in (0, 5, 10)]
        shown = [sum(a * b for a, b in zip(row, (*rgb, 1.0, 1.0), strict=True)) for row in rows]
        assert shown == pytest.approx(filmed, abs=0.004)


def to_yuv(rgb):
    r, g, b = rgb
    y = 0.299 * r + 0.587 * g + 0.114 * b
    return 16 + 219 * y, 128 + 224 * (b - y) / 1.772, 128 + 224 * (r - y) / 1.402


def to_rgb(yuv):
    y, u, v = (yuv[0] - 16) / 219, (yuv[1] - 128) / 224, (yuv[2] - 128) / 224
    r, b = y + 1.402 * v, y + 1.772 * u
    return r, (y - 0.299 * r - 0.114 * b) / 0.587, b


@given(st.floats(90, 135), st.floats(32, 60), st.floats(115, 140), st.floats(115, 140), st.floats(4, 20))
def test_matched_levels_give_a_picture_the_others_light_and_colour(bright, spread, blue, red, colour):
    mine, theirs = Statistics(110, 40, 125, 130, 9), Statistics(bright, spread, blue, red, colour)
    grade = matched(mine, theirs)
    by, lift, times, more_blue, more_red = grade.linear
    assert mine.bright * by + lift == pytest.approx(bright, abs=3)
    assert (mine.blue - NEUTRAL) * times + NEUTRAL + more_blue == pytest.approx(blue, abs=1.5)
    assert (mine.red - NEUTRAL) * times + NEUTRAL + more_red == pytest.approx(red, abs=1.5)


def covered(start, end, *way):
    mark = CoverHere("c", (Stretch("talk", start * S, end * S),), "cam", "solid", way)
    return {"c": mark}


def test_what_is_covered_moves_and_is_covered_as_long_as_its_stretch_is_seen():
    edition = upright(covered(10, 16, (0, Box(0.1, 0.1, 0.2, 0.2)), (6 * S, Box(0.5, 0.1, 0.2, 0.2))))
    for seconds, at in ((5.9, None), (6.1, 0.1), (9, 0.3), (11.9, 0.49), (12.1, None)):
        view, after = view_at(edition, seconds)
        boxes = [box for cover in view.covers if (box := cover.at(after))]
        assert (boxes[0].x if boxes else None) == (pytest.approx(at, abs=0.02) if at else None), seconds


def test_it_goes_with_the_picture_whatever_is_cut():
    edition = upright(covered(10, 16, (0, Box(0.1, 0.1, 0.2, 0.2)), (6 * S, Box(0.5, 0.1, 0.2, 0.2))))
    cut, _ = apply(edition, Strike(((0, 7 * S),)))
    view, after = view_at(cut, 1)
    (box,) = [box for cover in view.covers if (box := cover.at(after))]
    assert box.x == pytest.approx(0.1 + 0.4 * 2 / 6, abs=0.02)


def test_between_two_places_the_larger_size_is_covered():
    cover = Cover("blur", ((0, Box(0, 0, 0.1, 0.3)), (100, Box(0.5, 0, 0.2, 0.1))))
    assert cover.at(50) == Box(0.25, 0, 0.2, 0.3)
    assert cover.at(101) is None
    assert cover.later(40).at(10) == cover.at(50)


def test_all_of_it_is_stored_as_plain_values():
    marks = upright(
        aimed(0.3, 0.5, 2.0, False),
        lambda marks: set_grade(marks, "cam", Grade(warmth=20)),
        covered(1, 2, (0, Box(0, 0, 1, 1)), (S, Box(0, 0, 1, 1))),
    ).marks
    assert codec.structure(codec.unstructure(marks), Marks) == marks
