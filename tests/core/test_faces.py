"""How a crop follows faces: still while they are, never late, and at once where the picture changes."""

from __future__ import annotations

import math
import random
from dataclasses import replace
from itertools import pairwise

import pytest
from hypothesis import given
from hypothesis import strategies as st

from jaskel.core.picture.crop import crop_of
from jaskel.core.picture.faces import EVERY, Face, Faces, Point, along
from jaskel.core.picture.framing import Box
from jaskel.core.timebase import RATE as S

WIDTH = (9 / 16) ** 2
"""Of an upright crop of a wide picture."""


def face(places: list[float], first: int = 0, wide: float = 0.12) -> Face:
    """One whose middle is at these places across, a third of the way down."""
    return Face(first, tuple(Box(x - wide / 2, 0.2, wide, 0.3) for x in places))


def following(*faces: Face, looks: int = 0, cuts: tuple[int, ...] = ()) -> Faces:
    return Faces(faces, looks or max(each.first + len(each.boxes) for each in faces), cuts)


def inside(faces: Faces, one: Face) -> float:
    """At how many looks a face is wholly within an upright crop."""
    path = faces.path(WIDTH, 1)
    held = 0
    for number, box in enumerate(one.boxes):
        crop = crop_of(16 / 9, 9 / 16, at=along(path, (one.first + number) * EVERY))
        held += crop.x <= box.x and box.x + box.width <= crop.x + crop.width
    return held / len(one.boxes)


def test_a_still_head_is_shown_without_a_tremor():
    chance = random.Random(2)
    still = face([0.6 + chance.gauss(0, 0.008) for _ in range(300)])
    assert len({point for _, point in following(still).path(WIDTH, 1)}) == 1


def test_who_walks_stays_in_the_picture():
    walks = face([0.3 + 0.3 * (1 + math.sin(n / 18)) for n in range(400)])
    assert inside(following(walks), walks) >= 0.99


def test_one_look_that_is_off_moves_nothing():
    places = [0.4] * 100
    places[50] = 0.9
    assert len({point for _, point in following(face(places)).path(WIDTH, 1)}) == 1


@given(st.lists(st.floats(0.1, 0.9), min_size=2, max_size=12))
def test_who_changes_seats_is_found_again_within_a_second(seats):
    sits = face([seat for seat in seats for _ in range(25)])
    faces = following(sits)
    path = faces.path(WIDTH, 1)
    assert all(a < b for (a, _), (b, _) in pairwise(path))
    for number, seat in enumerate(seats):
        crop = crop_of(16 / 9, 9 / 16, at=along(path, (number * 25 + 15) * EVERY))
        assert crop.x - 1e-6 <= seat <= crop.x + crop.width + 1e-6


def test_it_goes_over_at_once_where_the_picture_changes():
    cut = round(9.37 * S)
    faces = following(face([0.3] * 47), face([0.7] * 53, first=47), cuts=(cut,))
    path = faces.path(WIDTH, 1)
    assert along(path, cut - 1).x == Point(0.3, 0).x and along(path, cut).x == 0.7


def test_two_are_seen_where_there_is_room_else_the_larger_one():
    near, far = face([0.45] * 50, wide=0.1), face([0.55] * 50, wide=0.08)
    assert 0.46 < following(near, far).path(WIDTH, 1)[0][1].x < 0.53
    apart = following(face([0.2] * 50, wide=0.15), face([0.8] * 50, wide=0.1))
    assert apart.path(WIDTH, 1)[0][1].x == 0.2


def test_a_stretch_has_the_way_between_its_ends_and_the_middle_without_faces():
    walks = following(face([0.3 + 0.4 * n / 100 for n in range(100)]))
    way = walks.way(5 * S, 9 * S, WIDTH, 1)
    assert way[0][0] == 0 and way[-1][0] <= 4 * S and way[0][1].x < way[-1][1].x
    assert Faces((), 50).way(0, S, WIDTH, 1) == [(0, Point(0.5, 0.5))]


def test_who_looks_aside_has_room_that_way_and_a_glance_changes_nothing():
    straight = face([0.5] * 200)
    aside = replace(straight, turns=(0.12,) * 200)
    glance = replace(straight, turns=(*(0.0,) * 100, *(0.2,) * 5, *(0.0,) * 95))
    x = {name: [point.x for _, point in following(one).way(0, 40 * S, WIDTH, 1)] for name, one in
         (("straight", straight), ("aside", aside), ("glance", glance))}  # fmt: skip
    assert x["aside"][0] == pytest.approx(x["straight"][0] + 0.07 * WIDTH, abs=1e-3)
    assert x["glance"] == x["straight"]
    assert inside(following(aside), aside) == 1
    large = replace(face([0.5] * 50, wide=0.95 * WIDTH), turns=(0.5,) * 50)
    assert inside(following(large), large) == 1
