"""Cutaways in the plan: over which words they are seen, how, and what is heard of them."""

from __future__ import annotations

from dataclasses import replace
from fractions import Fraction

import pytest

from jaskel.core.codec import codec
from jaskel.core.edition import Edition, Piece
from jaskel.core.marks.anchor import Place
from jaskel.core.marks.cutaway import Cutaway
from jaskel.core.marks.mark import Marks
from jaskel.core.operations import Strike, apply
from jaskel.core.picture.framing import WHOLE, Box, slots_of
from jaskel.core.plan import Material, compile_plan
from jaskel.core.plan.material import Footage
from jaskel.core.session import Picture, Session, Track
from jaskel.core.source import OPENING, Recorded, RoomTone
from jaskel.core.timebase import RATE as S

HD = Picture(1280, 720, Fraction(25))
MATERIAL = Material(
    {"cam": Session((Track("cam", 60 * S, picture=HD),))},
    footage={"still": Footage(Picture(1000, 1000, Fraction(25))), "film": Footage(HD, 8 * S, sounds=True)},
)
CLOSE = Box(0.1, 0.1, 0.8, 0.8)


def over(begin, end, shown="still", id="c", **more):
    return Cutaway(id, (Place("cam", round(begin * S)), Place("cam", round(end * S))), shown, **more)


def edition(*marks, pieces=None):
    pieces = pieces or (Piece(Recorded("cam"), 0, 30 * S),)
    return replace(Edition.of(pieces), marks=Marks.of(marks))


def seen(plan, seconds):
    """The recordings that are seen at a second, the lowest first."""
    layer = plan.layer_at(round(seconds * S))
    return [view.camera.recording for view in layer.shown.views] if hasattr(layer.shown, "views") else [layer.shown]


def test_it_is_seen_over_its_words_and_who_speaks_beside_them():
    plan = compile_plan(edition(over(4, 8)), MATERIAL)
    assert [seen(plan, at) for at in (3.9, 4.1, 7.9, 8.1)] == [["cam"], ["still"], ["still"], ["cam"]]
    assert seen(compile_plan(edition(over(4, 8, on=False)), MATERIAL), 5) == ["cam"]
    assert seen(compile_plan(edition(over(4, 8, shown="gone")), MATERIAL), 5) == ["cam"]


def test_it_stays_on_its_words_whatever_is_cut():
    plain = edition(over(4, 8))
    before, _ = apply(plain, Strike(((1 * S, 3 * S),)))
    plan = compile_plan(before, MATERIAL)
    assert [seen(plan, at) for at in (1.9, 2.2, 5.9, 6.2)] == [["cam"], ["still"], ["still"], ["cam"]]
    inside, _ = apply(plain, Strike(((5 * S, 7 * S),)))
    plan = compile_plan(inside, MATERIAL)
    assert [seen(plan, at) for at in (4.5, 5.8, 6.2)] == [["still"], ["still"], ["cam"]]
    first_word_gone, _ = apply(plain, Strike(((3 * S, 6 * S),)))
    assert seen(compile_plan(first_word_gone, MATERIAL), 4) == ["still"]
    gone, _ = apply(plain, Strike(((3 * S, 9 * S),)))
    assert {name for at in range(24) for name in seen(compile_plan(gone, MATERIAL), at)} == {"cam"}


def test_a_square_picture_fills_the_frame_and_moves_from_one_part_to_another():
    plan = compile_plan(edition(over(4, 8, first=WHOLE, last=CLOSE)), MATERIAL)
    layer = plan.layer_at(5 * S)
    (view,) = layer.shown.views
    assert view.camera.still
    assert (view.crop(0).x, view.crop(0).width) == (0, 1)
    assert view.crop(0).height == pytest.approx(9 / 16, abs=0.01)
    assert view.crop(layer.until - layer.begin).width == pytest.approx(0.8)
    assert view.crop((layer.until - layer.begin) // 2).width == pytest.approx(0.9)


def test_it_is_seen_with_who_speaks_in_the_slots_of_its_framing():
    plan = compile_plan(edition(over(4, 8, framing="large with small")), MATERIAL)
    assert seen(plan, 5) == ["still", "cam"]
    views = plan.layer_at(5 * S).shown.views
    for view, slot in zip(views, slots_of("large with small", 2, Fraction(16, 9)), strict=True):
        assert view.box == pytest.approx(slot, abs=0.002)  # on the pixels of the frame
    assert seen(plan, 9) == ["cam"]


def test_a_film_goes_on_through_splices_and_over_a_rest_that_was_put_in():
    pieces = [Piece(Recorded("cam"), 0, 5 * S), Piece(RoomTone("cam"), 0, 2 * S), Piece(Recorded("cam"), 5 * S, 30 * S)]
    film = edition(over(4, 7, shown="film", place=S), pieces=pieces)
    plan = compile_plan(film, MATERIAL)
    for seconds in (4.5, 5.5, 6.5, 7.5):
        layer = plan.layer_at(round(seconds * S))
        (view,) = layer.shown.views
        place = view.camera.after(round(seconds * S) - layer.begin)
        assert place / S == pytest.approx(1 + seconds - 4, abs=0.05)


def test_its_sound_is_off_unless_it_is_wanted_and_never_that_of_a_still():
    assert compile_plan(edition(over(4, 8, shown="film")), MATERIAL).beds == ()
    (span,) = compile_plan(edition(over(4, 8, shown="film", decibels=-18.0, place=2 * S)), MATERIAL).beds
    assert (span.feed.recording, span.start, span.at, span.decibels) == ("film", 2 * S, 4 * S, -18)
    longer = compile_plan(edition(over(4, 20, shown="film", decibels=0.0)), MATERIAL).beds[0]
    assert longer.length == 8 * S
    assert compile_plan(edition(over(4, 8, decibels=0.0)), MATERIAL).beds == ()


def test_what_is_heard_is_named_otherwise_once_a_cutaway_sounds():
    silent, loud = (compile_plan(edition(over(4, 8, shown="film", decibels=level)), MATERIAL) for level in (None, -18.0))
    assert silent.unlevelled != loud.unlevelled


def test_of_two_that_overlap_the_later_one_takes_over():
    plan = compile_plan(edition(over(4, 10), over(7, 9, shown="film", id="d")), MATERIAL)
    assert [seen(plan, at) for at in (5, 8, 9.5)] == [["still"], ["film"], ["cam"]]


def test_over_a_card_and_over_sound_alone_it_is_seen_by_itself():
    pieces = [Piece(OPENING, 0, 2 * S), Piece(Recorded("cam"), 0, 20 * S)]
    plan = compile_plan(edition(over(0, 4), pieces=pieces), MATERIAL)
    assert seen(plan, 1) == [OPENING]
    assert seen(plan, 3) == ["still"]
    bare = replace(MATERIAL, sessions={})
    assert seen(compile_plan(edition(over(4, 8)), bare), 5) == ["still"]


def test_it_is_stored_as_plain_values_and_checked():
    marks = Marks.of([over(4, 8, first=CLOSE, decibels=-18.0, framing="side by side")])
    assert codec.structure(codec.unstructure(marks), Marks) == marks
    with pytest.raises(ValueError, match="lies within"):
        over(4, 8, first=Box(0.5, 0, 0.8, 0.8))
