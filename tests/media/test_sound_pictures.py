"""The picture of sound alone: the card with a moving drawing of the voice."""

from __future__ import annotations

from dataclasses import replace
from fractions import Fraction

import numpy as np
import pytest

from jaskel.core.edition import Edition, Piece
from jaskel.core.operations import Strike, apply
from jaskel.core.picture.style import Style
from jaskel.core.plan import Frame, Material, Scene, compile_plan
from jaskel.core.plan.picture import Said, SoundPicture
from jaskel.core.session import Picture, Session, Track
from jaskel.core.source import OPENING, Recorded
from jaskel.core.timebase import RATE as S
from jaskel.core.transcript import Transcript, Word
from jaskel.media.graphics import INKS, Artist
from jaskel.media.scene import Studio

PEAKS = bytes([0] * 200 + [200] * 300 + [20] * 2500)
WORDS = Transcript(30 * S, (Word("one", 2 * S, 5 * S, voice="a"), Word("two", 6 * S, 9 * S, voice="b")))
MATERIAL = Material(
    {"talk": Session((Track("mic", 30 * S),))},
    {"talk": WORDS},
    style=Style(pulse="bars"),
    people={"a": ("Orla Venn", ""), "b": ("Teo Marsh", "")},
    envelopes={"mic": PEAKS},
    numbers={"a": 1, "b": 2},
)
TALK = Edition.of([Piece(Recorded("talk"), 0, 30 * S)])


def pictures(plan):
    return [layer for layer in plan.layers if isinstance(layer.shown, SoundPicture)]


def test_it_is_as_loud_as_what_is_heard_and_says_who_speaks():
    first, *others = pictures(compile_plan(TALK, MATERIAL))
    assert len(others) == 2  # in short layers, which the monitor shows as films
    levels = first.shown.levels
    assert [levels[seconds * 25] for seconds in (1, 3, 7)] == [0, 200, 20]
    assert first.shown.said == (Said(2 * S, 1, "Orla Venn"), Said(6 * S, 2, "Teo Marsh"))


def test_it_goes_with_the_words_whatever_is_cut():
    cut, _ = apply(TALK, Strike(((0, 2 * S),)))
    first = pictures(compile_plan(cut, MATERIAL))[0].shown
    assert first.levels[25] == 200
    assert first.said[0].at == pytest.approx(0, abs=S // 20)


def test_cards_that_were_put_in_and_what_was_filmed_stay_as_they_are():
    carded = Edition.of([Piece(OPENING, 0, 3 * S), Piece(Recorded("talk"), 0, 10 * S)])
    plan = compile_plan(carded, MATERIAL)
    assert plan.layer_at(S).shown == OPENING
    assert isinstance(plan.layer_at(5 * S).shown, SoundPicture)
    filmed = Session((Track("mic", 30 * S, picture=Picture(640, 360, Fraction(25))),))
    plan = compile_plan(TALK, replace(MATERIAL, sessions={"talk": filmed}))
    assert isinstance(plan.layer_at(5 * S).shown, Scene)
    still = replace(MATERIAL, style=Style())
    assert compile_plan(TALK, still).layer_at(5 * S).shown == OPENING


@pytest.mark.parametrize("form", ["bars", "line", "circle"])
def test_it_moves_with_the_voice_in_its_colour(form):
    plan = compile_plan(TALK, replace(MATERIAL, style=Style(pulse=form)))
    studio = Studio(Frame(640, 360, Fraction(25)), lambda _: None, Artist("The dry hull", "Ropewalk", Style(pulse=form)))
    shown = plan.layers[0].shown
    quiet, loud, other = (studio.picture(shown, at * S).to_ndarray(format="rgb24").astype(int) for at in (1, 4, 8))
    studio.close()
    assert np.abs(loud - quiet)[180:320].mean() > 1  # the drawing
    assert np.abs(loud - quiet)[:150].mean() < 0.5  # the title above it stands still
    blue, green = (np.array([int(INKS[n][at : at + 2], 16) for at in (1, 3, 5)]) for n in (1, 2))
    assert (np.abs(loud - blue).max(axis=2) < 45).sum() > 100
    assert (np.abs(other - green).max(axis=2) < 30).sum() > 20
