"""One camera that sees several people: whose face is whose, and shots that follow them in it."""

from __future__ import annotations

from dataclasses import replace
from fractions import Fraction

import pytest

from jaskel.core.codec import codec
from jaskel.core.edition import Edition, Piece
from jaskel.core.marks.camera import set_face
from jaskel.core.marks.mark import NO_MARKS, Marks
from jaskel.core.marks.shot import set_shot
from jaskel.core.picture.faces import Face, Faces, closer_to
from jaskel.core.picture.framing import Box
from jaskel.core.plan import Material, compile_plan
from jaskel.core.session import Picture, Session, Track
from jaskel.core.source import Recorded
from jaskel.core.timebase import RATE as S

LEFT, RIGHT = Box(0.2, 0.3, 0.08, 0.14), Box(0.7, 0.35, 0.08, 0.14)
FACES = Faces(tuple(Face(0, (box,) * 300) for box in (LEFT, RIGHT)), 300)
CAMERA = Session((Track("cam", 60 * S, picture=Picture(1280, 720, Fraction(25))),))
MATERIAL = Material({"cam": CAMERA}, faces={"cam": FACES})


def edition(framing, *voices, known=(("a", 0.24, 0.37), ("b", 0.74, 0.42))):
    marks = NO_MARKS
    for voice, x, y in known:
        marks = marks.changed(set_face(marks, "cam", voice, (2 * S, x, y)))
    marks = marks.changed(set_shot(marks, [("cam", 0, 60 * S)], framing, voices))
    return replace(Edition.of([Piece(Recorded("cam"), 0, 60 * S)]), marks=marks)


def middles(edition):
    layer = compile_plan(edition, MATERIAL).layer_at(5 * S)
    crops = [view.crop(5 * S - layer.begin) for view in layer.shown.views]
    return [(crop.x + crop.width / 2, crop.width) for crop in crops]


def test_a_voice_is_shown_by_its_face_closer_from_the_one_camera():
    ((x, width),) = middles(edition("single", "a"))
    assert x == pytest.approx(0.24, abs=0.02)
    assert width == pytest.approx(1 / closer_to(FACES.faces[0]), abs=0.01)
    ((x, _),) = middles(edition("single", "b"))
    assert x == pytest.approx(0.74, abs=0.03)


def test_both_are_seen_beside_each_other_from_the_one_camera():
    (left, _), (right, _) = middles(edition("side by side", "a", "b"))
    assert left == pytest.approx(0.24, abs=0.03)
    assert right == pytest.approx(0.74, abs=0.03)


def test_who_has_no_face_is_shown_by_the_whole_picture():
    assert middles(edition("single", "c")) == [(0.5, 1.0)]
    assert middles(edition("single", "a", known=())) == [(0.5, 1.0)]


def test_a_face_is_told_by_a_point_near_it():
    assert FACES.nearest(2 * S, 0.25, 0.3) is FACES.faces[0]
    assert FACES.nearest(2 * S, 0.5, 0.5) is None
    assert FACES.nearest(100 * S, 0.25, 0.3) is None


def test_it_is_changed_taken_back_and_stored():
    marks = NO_MARKS.changed(set_face(NO_MARKS, "cam", "a", (S, 0.2, 0.3)))
    assert set_face(marks, "cam", "a", (S, 0.2, 0.3)) == {}
    assert len(marks.changed(set_face(marks, "cam", "a", (S, 0.7, 0.3)))) == 1
    assert len(marks.changed(set_face(marks, "cam", "a", None))) == 0
    assert codec.structure(codec.unstructure(marks), Marks) == marks
