"""What is drawn over the picture: when lower thirds and titles are seen, and what keeps out of their way."""

from __future__ import annotations

from dataclasses import replace
from fractions import Fraction

import pytest

from jaskel.core.codec import codec
from jaskel.core.edition import Edition, Piece
from jaskel.core.marks.anchor import Stretch
from jaskel.core.marks.graphic import LowerThird, TitleHere, set_dressing
from jaskel.core.marks.mark import Marks
from jaskel.core.operations import Strike, apply
from jaskel.core.picture.faces import Face, Faces
from jaskel.core.picture.framing import Box
from jaskel.core.picture.graphic import Bar, Logo, Overlay, Strap, Title
from jaskel.core.picture.style import Style
from jaskel.core.plan import Material, compile_plan
from jaskel.core.plan.clear import clear_of, hides_face
from jaskel.core.session import Picture, Session, Track
from jaskel.core.source import OPENING, Recorded
from jaskel.core.timebase import RATE as S
from jaskel.core.transcript import Transcript, Word

CAMERA = Session((Track("cam", 60 * S, picture=Picture(1280, 720, Fraction(25))),))
WORDS = Transcript(60 * S, tuple(Word("word", n * S, n * S + S // 2) for n in range(30)))
MATERIAL = Material({"cam": CAMERA}, {"cam": WORDS}, style=Style(logo="ab"), people={"v1": ("Orla Venn", "Host")})


WHOLE = (Piece(Recorded("cam"), 0, 30 * S),)


def edition(*marks, pieces=WHOLE):
    return replace(Edition.of(pieces), marks=Marks.of(marks))


def third(start, end, **more):
    return LowerThird("t", (Stretch("cam", start * S, end * S),), "v1", **more)


def test_a_lower_third_stands_over_its_words_with_the_name_and_role_of_its_voice():
    (overlay,) = compile_plan(edition(third(4, 8)), MATERIAL).overlays
    assert overlay == Overlay(4 * S, 8 * S, Strap("Orla Venn", "Host"), "edge", "t")
    (overlay,) = compile_plan(edition(third(4, 8, name="O. Venn")), MATERIAL).overlays
    assert overlay.graphic == Strap("O. Venn", "Host")


def test_it_goes_with_its_words_and_is_one_across_a_short_cut():
    plain = edition(third(4, 8))
    before, _ = apply(plain, Strike(((1 * S, 3 * S),)))
    (overlay,) = compile_plan(before, MATERIAL).overlays
    assert overlay.begin == pytest.approx(2 * S, abs=S // 20)
    within, _ = apply(plain, Strike(((5 * S, 6 * S),)))
    (overlay,) = compile_plan(within, MATERIAL).overlays
    assert overlay.until - overlay.begin == pytest.approx(3 * S, abs=S // 10)
    gone, _ = apply(plain, Strike(((3 * S, 9 * S),)))
    assert compile_plan(gone, MATERIAL).overlays == ()


def test_what_comes_behind_an_edge_comes_and_goes_gently():
    overlay = Overlay(0, 10 * S, Strap("Orla"), "edge")
    shares = [overlay.seen(at).share for at in range(0, overlay.moves + 1, overlay.moves // 8)]
    assert shares[0] == 0
    assert shares[-1] == 1
    assert shares == sorted(shares)
    assert overlay.seen(overlay.moves // 2).share == pytest.approx(0.5, abs=0.01)
    assert overlay.seen(5 * S) == (1, 1)
    assert overlay.seen(10 * S).share == 0
    assert Overlay(0, S // 2, Strap("Orla"), "fade").moves < S // 4  # and is seen wholly for a while, however short


def test_logo_and_bar_are_as_the_show_has_them_unless_the_edition_says_otherwise():
    def graphics(edition, **style):
        material = replace(MATERIAL, style=Style(logo="ab", **style))
        return [each.graphic for each in compile_plan(edition, material).overlays]

    assert graphics(edition()) == []
    assert graphics(edition(), watermark=True, bar="top") == [Logo(), Bar()]
    own = replace(edition(), marks=Marks.of([]).changed(set_dressing(Marks.of([]), logo=False, bar=True)))
    assert graphics(own, watermark=True) == [Bar()]


def test_the_logo_is_over_cameras_and_not_over_cards():
    pieces = (Piece(OPENING, 0, 3 * S), Piece(Recorded("cam"), 0, 10 * S), Piece(Recorded("cam"), 12 * S, 20 * S))
    plan = compile_plan(edition(pieces=pieces), replace(MATERIAL, style=Style(logo="ab", watermark=True)))
    (logo,) = plan.overlays
    assert logo.begin == pytest.approx(3 * S, abs=S // 20)
    assert logo.until == plan.length


def test_the_bar_grows_evenly():
    overlay = Overlay(0, 10 * S, Bar())
    assert [overlay.seen(at * S).share for at in (0, 2, 5, 10)] == [0, 0.2, 0.5, 1]


def test_captions_move_up_while_a_lower_third_is_seen():
    plan = compile_plan(edition(third(4, 8)), MATERIAL)
    moved = [cue for cue in clear_of(plan.cues, plan.overlays, 16 / 9) if cue.look.y < 0]
    assert [cue.start for cue in moved] == [cue.start for cue in plan.cues if cue.start < 8 * S and cue.end > 4 * S]
    assert 0 < len(moved) < len(plan.cues)
    top = edition(TitleHere("t", (Stretch("cam", 4 * S, 8 * S),), "Part one", "top"))
    assert all(screen is None or screen.look.y == 0 for _, screen in compile_plan(top, MATERIAL).screens())


def test_marks_and_styles_are_stored_as_plain_values():
    marks = Marks.of([third(4, 8), TitleHere("x", (Stretch("cam", 0, S),), "One\ntwo", "bottom")])
    assert codec.structure(codec.unstructure(marks), Marks) == marks
    style = Style(paper="#ffffff", bar="top")
    assert codec.structure(codec.unstructure(style), Style) == style
    with pytest.raises(ValueError, match="a colour is written like"):
        Style(ink="red")


def test_a_title_over_words_is_a_graphic_of_its_own():
    title = TitleHere("x", (Stretch("cam", 10 * S, 12 * S),), "Part one", "middle")
    (overlay,) = compile_plan(edition(title), MATERIAL).overlays
    assert overlay.graphic == Title("Part one", "middle")


def face_at(*heights):
    faces = Faces(tuple(Face(0, (Box(0.4, y, 0.2, 0.2),) * 600) for y in heights), 600)
    return replace(MATERIAL, faces={"cam": faces})


def test_captions_leave_a_face_at_the_bottom_alone_where_there_is_room_at_the_top():
    plain = edition()
    low = compile_plan(plain, face_at(0.75))
    assert {cue.look.down for cue in low.clear(low.cues)} == {"top"}
    high = compile_plan(plain, face_at(0.2))
    assert {cue.look.down for cue in high.clear(high.cues)} == {"bottom"}
    everywhere = compile_plan(plain, face_at(0.0, 0.8))
    cues = everywhere.clear(everywhere.cues)
    assert {cue.look.down for cue in cues} == {"bottom"}
    assert all(hides_face(cue, everywhere.faces_at) for cue in cues)
    assert not any(hides_face(cue, high.faces_at) for cue in high.cues)
