"""How far eyes look past the camera, by how much they are turned, and what a plan says of it."""

from __future__ import annotations

from dataclasses import replace
from fractions import Fraction
from itertools import pairwise
from math import cos, radians, sin

import pytest
from hypothesis import given
from hypothesis import strategies as st

from jaskel.core.codec import codec
from jaskel.core.edition import Edition, Piece
from jaskel.core.marks.camera import gazes, set_gaze
from jaskel.core.marks.mark import NO_MARKS, Marks
from jaskel.core.picture.gaze import AS_IT_LOOKS, DEEP, IRIS, RISE, Eye, Gaze, Look, Pair, look_of, strength, why_not, yaw_of
from jaskel.core.plan import Material, compile_plan
from jaskel.core.session import Picture, Session, Track
from jaskel.core.source import Recorded
from jaskel.core.timebase import RATE as S

FULL = Gaze(100, 15)
RADIUS = 8.0


def eye(x: float, right: float = 0.0, down: float = 0.0) -> Eye:
    """An upright eye that looks so many radii aside."""
    return Eye((x + right * RADIUS, 50 + (down - RISE) * RADIUS), RADIUS, ((x - 20, 50), (x + 20, 50)), (), 0.35)


def looking(degrees: float) -> Look:
    return Look(sin(radians(degrees)) * DEEP / IRIS, 0.0, 0.0, 0.35, 40.0)


def test_eyes_that_look_straight_ahead_look_into_the_camera():
    look = look_of(Pair(eye(40), eye(120), 0.0))
    assert look.angle == pytest.approx(0, abs=1e-9)
    assert look.width == 40
    aside = look_of(Pair(eye(40, right=0.3), eye(120, right=0.3), 0.0))
    assert (aside.right, aside.down) == (pytest.approx(0.3), pytest.approx(0))


def test_a_turned_head_that_looks_into_the_camera_has_its_irises_to_the_other_side():
    yaw = 15.0
    off = -sin(radians(yaw)) * 6.0 / IRIS
    assert look_of(Pair(eye(40, right=off), eye(120, right=off), yaw)).angle == pytest.approx(0, abs=1e-6)
    assert yaw_of((0.0, 0.0, 0.0), (10.0, 0.0, 10.0)) == pytest.approx(45)


@given(st.floats(-180, 180))
def test_the_picture_may_be_tilted(tilt):
    def turned(point):
        x, y, angle = *point, radians(tilt)
        return x * cos(angle) - y * sin(angle), x * sin(angle) + y * cos(angle)

    def whole(one):
        return replace(one, iris=turned(one.iris), corners=tuple(map(turned, one.corners)))

    straight = Pair(eye(40, 0.2, 0.1), eye(120, 0.2, 0.1), 0.0)
    look = look_of(Pair(whole(straight.left), whole(straight.right), 0.0))
    assert (look.right, look.down) == (pytest.approx(0.2), pytest.approx(0.1))


@pytest.mark.parametrize(
    ("look", "why"),
    [
        (None, "nobody"),
        (looking(5)._replace(width=6.0), "small"),
        (looking(5)._replace(opened=0.1), "closed"),
        (looking(5)._replace(yaw=-35.0), "away"),
        (looking(16), "aside"),
        (looking(5), ""),
    ],
)
def test_where_it_does_not_work_is_told_and_nothing_is_turned(look, why):
    assert why_not(look, FULL) == why
    assert look is None or (strength(look, FULL) > 0) == (why == "")


@given(st.floats(0, 20), st.floats(0, 0.4), st.floats(-40, 40), st.floats(0, 100), st.floats(5, 20))
def test_eyes_are_turned_by_no_more_than_asked_and_never_past_the_camera(angle, opened, yaw, amount, within):
    by = strength(looking(angle)._replace(opened=opened, yaw=yaw), Gaze(amount, within))
    assert 0 <= by <= amount / 100


def test_nothing_jumps_where_eyes_go_beyond_the_angle_or_close():
    angles = [strength(looking(tenth / 10), FULL) for tenth in range(200)]
    lids = [strength(looking(5)._replace(opened=part / 500), FULL) for part in range(200)]
    for row in (angles, lids):
        assert max(abs(b - a) for a, b in pairwise(row)) < 0.06
    assert angles[50] == 1


def test_amounts_and_angles_have_bounds():
    for wrong in ((-1, 15), (101, 15), (50, 4), (50, 21)):
        with pytest.raises(ValueError, match="eyes are turned"):
            Gaze(*wrong)


def test_a_plan_says_which_cameras_turn_eyes_and_it_is_taken_back():
    material = Material({"talk": Session((Track("cam", 60 * S, picture=Picture(1280, 720, Fraction(25))),))})
    marks = NO_MARKS.changed(set_gaze(NO_MARKS, "cam", FULL))
    edition = replace(Edition.of([Piece(Recorded("talk"), 0, 30 * S)]), marks=marks)
    assert compile_plan(edition, material).layers[0].shown.views[0].gaze == FULL
    assert set_gaze(marks, "cam", FULL) == {}
    assert codec.structure(codec.unstructure(marks), Marks) == marks
    back = marks.changed(set_gaze(marks, "cam", Gaze(0, 10)))
    assert gazes(back) == {}
    plan = compile_plan(replace(edition, marks=back), material)
    assert plan.layers[0].shown.views[0].gaze == AS_IT_LOOKS
