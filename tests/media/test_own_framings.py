"""Framings that a show has made: their slots in every shape, corners, lines, what lies behind them, names below them."""

from __future__ import annotations

from dataclasses import replace
from fractions import Fraction

import numpy as np
import pytest
from PIL import Image
from test_scenes import BLUE, RED, filmed, plain

from jaskel.core.edition import Edition, Piece
from jaskel.core.marks.mark import NO_MARKS
from jaskel.core.marks.shot import set_shot
from jaskel.core.picture.framing import BLURRED, PICTURE, WHOLE, Box, Fixture, OwnFraming, fixtures_of, slots_of
from jaskel.core.picture.graphic import Placed, Tag
from jaskel.core.picture.style import Style
from jaskel.core.plan import Material, compile_plan
from jaskel.core.session import Picture, Session, Track
from jaskel.core.source import Recorded
from jaskel.core.timebase import RATE as S
from jaskel.media.graphics import Artist, Graphics
from jaskel.media.scene import Studio

LEFT, RIGHT = Box(0.1, 0.2, 0.35, 0.6), Box(0.55, 0.2, 0.35, 0.6)
SHAPE = Picture(160, 96, Fraction(25))
TALK = Session((Track("red", 10 * S, picture=SHAPE, voice="a"), Track("blue", 10 * S, picture=SHAPE, voice="b", sounds=False)))
PEOPLE = {"a": ("Orla Venn", "Host"), "b": ("Teo Marsh", "")}


def plan_of(framing, voices=("a", "b"), name="Porch", envelopes=None):
    style = Style(framings=(framing,) if framing else ())
    material = Material({"talk": TALK}, style=style, people=PEOPLE, envelopes=envelopes or {})
    marks = NO_MARKS.changed(set_shot(NO_MARKS, [("talk", 0, 10 * S)], name, voices))
    return compile_plan(replace(Edition.of([Piece(Recorded("talk"), 0, 10 * S)]), marks=marks), material)


@pytest.fixture
def shown(tmp_path):
    films = {"red": filmed(tmp_path / "red.mp4", plain(RED)), "blue": filmed(tmp_path / "blue.mp4", plain(BLUE))}

    def show(framing, **more):
        plan = plan_of(framing, **more)
        artist = Artist("The dry hull", "Ropewalk", plan.material.style, pictures=tmp_path.joinpath)
        studio = Studio(plan.frame, films.__getitem__, artist)
        layer = plan.layer_at(S)
        frame = studio.picture(layer.shown, S - layer.begin)
        picture = (
            Graphics(plan.overlays, artist, frame.width, frame.height).over(frame, S).to_ndarray(format="rgb24").astype(int)
        )
        studio.close()
        return picture

    return show


def near(pixel, colour, by=14):
    return np.abs(np.array(pixel) - colour).max() <= by


def test_people_are_seen_in_its_places_on_its_colour(shown):
    picture = shown(OwnFraming("Porch", (LEFT, RIGHT), ground="#00ff00"))
    assert near(picture[48, 44], RED)
    assert near(picture[48, 116], BLUE)
    assert near(picture[48, 80], (0, 255, 0))
    assert near(picture[4, 4], (0, 255, 0))


def test_corners_are_round_and_a_line_lies_inside_the_slot(shown):
    picture = shown(OwnFraming("Porch", (LEFT, RIGHT), corner=30, border=10, border_colour="#ffffff", ground="#000000"))
    left, top = round(0.1 * 160), round(0.2 * 96)
    assert near(picture[top + 1, left + 1], (0, 0, 0), 40)  # cut off by the corner
    assert near(picture[48, left + 2], (255, 255, 255), 40)
    assert near(picture[48, left + 20], RED)


def test_the_picture_itself_can_lie_behind_out_of_focus(shown):
    picture = shown(OwnFraming("Porch", (RIGHT,), ground=BLURRED), voices=("a",))
    assert picture[48, 20][0] > 60
    assert picture[48, 20][0] < 200  # darker than the one in front
    assert near(picture[48, 116], RED)


def test_one_is_shown_in_the_first_place_and_a_framing_that_is_gone_shows_one(shown):
    one = shown(OwnFraming("Porch", (LEFT, RIGHT), ground="#00ff00"), voices=("a",))
    assert near(one[48, 44], RED)
    assert near(one[48, 116], (0, 255, 0))
    gone = shown(OwnFraming("Another", (LEFT,)))
    assert near(gone[48, 80], RED)


def test_names_stand_below_those_who_are_seen_and_a_line_below_all():
    plan = plan_of(OwnFraming("Porch", (LEFT, RIGHT), names=True, line="Two boats"))
    assert [each.graphic for each in plan.overlays] == [Tag("Orla Venn", LEFT), Tag("Teo Marsh", RIGHT), Tag("Two boats")]


def test_of_several_with_one_name_that_of_the_nearest_shape_is_taken():
    wide, high = OwnFraming("Porch", (LEFT,)), OwnFraming("Porch", (RIGHT,), ratio=9 / 16)
    assert slots_of("Porch", 1, Fraction(16, 9), (wide, high)) == (LEFT,)
    assert slots_of("Porch", 1, Fraction(4, 5), (wide, high)) == (RIGHT,)


@pytest.mark.parametrize("wrong", [{"name": "grid"}, {"slots": ()}, {"slots": (Box(0.8, 0, 0.5, 0.5),)}, {"corner": 80.0}])
def test_what_is_no_framing_is_refused(wrong):
    with pytest.raises(ValueError, match=r"framing|slot|corners"):
        OwnFraming(**{"name": "Porch", "slots": (LEFT,), **wrong})


def test_somebody_is_seen_beside_the_episodes_card(shown):
    assert slots_of("beside a card", 1, Fraction(16, 9))[0].x > 0.5
    upright, card = slots_of("beside a card", 1, Fraction(9, 16))[0], fixtures_of("beside a card", Fraction(9, 16))[0].box
    assert card.y + card.height <= upright.y
    picture = shown(None, name="beside a card", voices=("b",))
    assert near(picture[48, 120], BLUE)
    assert near(picture[90, 4], (252, 251, 247))  # paper
    assert picture[:, :70].min() < 120  # with letters on it


def test_a_picture_lies_behind_and_logo_and_card_lie_in_front(shown, tmp_path):
    Image.new("RGB", (300, 300), "#00ff00").save(tmp_path / "wall", "PNG")
    fixtures = (Fixture("card", Box(0.0, 0.0, 0.3, 0.3)),)
    picture = shown(OwnFraming("Porch", (RIGHT,), ground=PICTURE + "wall", fixtures=fixtures), voices=("a",))
    assert near(picture[80, 20], (0, 255, 0), 20)
    assert near(picture[2, 46], (252, 251, 247), 20)
    gone = shown(OwnFraming("Porch", (RIGHT,), ground=PICTURE + "nothing"), voices=("a",))
    assert near(gone[80, 20], (252, 251, 247))


def test_the_voice_is_drawn_in_a_framing_as_loud_as_it_is(shown):
    made = OwnFraming("Porch", (WHOLE,), fixtures=(Fixture("voice", Box(0.1, 0.6, 0.8, 0.3)),))
    loud, silent = (shown(made, voices=("a",), envelopes={"red": bytes([level]) * 1000}) for level in (255, 0))
    there = slice(60, 84), slice(20, 140)
    changed = [np.abs(each[there] - np.array(RED)).max(axis=2) > 60 for each in (loud, silent)]
    assert changed[0].mean() > max(0.2, 3 * changed[1].mean())
    assert near(loud[20, 80], RED)


def test_what_lies_in_a_framing_is_seen_with_it_alone():
    plan = plan_of(None, name="beside a card", voices=("b",))
    (placed,) = [each for each in plan.overlays if isinstance(each.graphic, Placed)]
    assert (placed.begin, placed.until) == (0, plan.length)
    assert not [each for each in plan_of(None, name="single").overlays if isinstance(each.graphic, Placed)]
    with pytest.raises(ValueError, match="each seen once"):
        OwnFraming("Porch", (WHOLE,), fixtures=(Fixture("card", LEFT), Fixture("card", RIGHT)))


def test_a_name_begins_where_its_own_voice_is_seen():
    made = OwnFraming("Porch", (LEFT, RIGHT), names=True, line="Two boats")
    material = Material({"talk": TALK}, style=Style(framings=(made,)), people=PEOPLE)
    first = NO_MARKS.changed(set_shot(NO_MARKS, [("talk", 0, 5 * S)], "Porch", ("a",)))
    marks = first.changed(set_shot(first, [("talk", 5 * S, 10 * S)], "Porch", ("b",)))
    plan = compile_plan(replace(Edition.of([Piece(Recorded("talk"), 0, 10 * S)]), marks=marks), material)
    seen = {each.graphic: (each.begin, each.until) for each in plan.overlays}
    change = plan.shots[1].begin
    assert seen[Tag("Two boats")] == (0, plan.length)
    assert seen[Tag("Orla Venn", LEFT)] == (0, change)
    assert seen[Tag("Teo Marsh", LEFT)] == (change, plan.length)
