"""Lower thirds, titles, logo and bar as they are drawn over pictures."""

from __future__ import annotations

import av
import numpy as np
import pytest
from PIL import Image

from jaskel.core.picture.graphic import Bar, Logo, Overlay, Strap, Title
from jaskel.core.picture.style import Style
from jaskel.core.shape import size_in
from jaskel.media.captions.drawn import safe_area
from jaskel.media.graphics import Artist, Graphics

SHAPES = [(1280, 720), size_in("square", 1280, 720), size_in("upright", 1280, 720), size_in("tall", 1280, 720)]
GREY = 128


def artist(tmp_path=None, **style) -> Artist:
    if tmp_path is None:
        return Artist("", "", Style(**style))
    Image.new("RGBA", (200, 100), "#ff0000").save(tmp_path / "logo", "PNG")
    return Artist("", "", Style(logo="logo", **style), pictures=tmp_path.joinpath)


def grey(width=1280, height=720) -> av.VideoFrame:
    picture = np.full((height, width, 3), GREY, np.uint8)
    return av.VideoFrame.from_ndarray(picture, "rgb24").reformat(format="yuv420p")


@pytest.mark.parametrize("size", SHAPES)
@pytest.mark.parametrize("form", ["slip", "line"])
def test_a_lower_third_stays_within_the_safe_area_of_every_shape(size, form):
    width, height = size
    safe = safe_area(width, height)
    drawing = artist(strap=form).graphic(Strap("Bartholomew Featherstonehaugh-Cholmondeley", "Shipwright"), width, height)
    wide, high = drawing.size
    pad = 0.08 * min(size)  # the soft shadow behind light letters
    assert drawing.x >= width * safe.sides / 100 - pad
    assert drawing.x + wide <= width * (1 - safe.sides / 100) + pad
    assert drawing.y + high <= height * (1 - safe.bottom / 100) + pad
    assert drawing.y > height / 2


@pytest.mark.parametrize("size", SHAPES)
def test_a_title_is_as_large_as_it_fits(size):
    one = artist().graphic(Title("Rope"), *size)
    many = artist().graphic(Title("Why a rope is only as long as the walk that it was laid in, and no longer"), *size)
    assert many.size[0] <= size[0]
    assert many.size[1] < size[1] * 0.75
    assert one.size[1] > 0.08 * min(size)
    assert artist().graphic(Strap(""), *size) is None


def test_the_logo_stands_in_its_corner(tmp_path):
    drawing = artist(tmp_path, corner="lower left", logo_size=20).graphic(Logo(), 1280, 720)
    assert drawing.size == (288, 144)
    assert (drawing.x, drawing.y + 144) == (64, 684)
    assert artist(corner="lower left").graphic(Logo(), 1280, 720) is None


def test_films_show_what_was_drawn_and_nothing_beside_it(tmp_path):
    overlays = [Overlay(0, 96_000, Logo()), Overlay(0, 96_000, Bar())]
    over = Graphics(overlays, artist(tmp_path, accent="#0000ff", bar="bottom"), 1280, 720)
    source = grey()
    picture = over.over(source, 48_000).to_ndarray(format="rgb24").astype(int)
    assert (source.to_ndarray(format="rgb24").astype(int) - GREY).std() < 2  # what the decoder gave is left alone
    assert np.abs(picture[45, 1180] - (255, 0, 0)).max() < 12
    assert np.abs(picture[718, 300] - (0, 0, 255)).max() < 12
    assert np.abs(picture[718, 1000] - GREY).max() < 4  # half of the time has passed, and of the bar
    assert np.abs(picture[300:500, 200:900] - GREY).max() < 4


def test_what_fades_is_half_there_in_the_middle_of_its_way():
    whole = Overlay(0, 480_000, Strap("Orla Venn"), "fade")
    over = Graphics([whole], artist(paper="#ffffff", ink="#ffffff", accent="#ffffff"), 1280, 720)

    def light(at):
        return over.over(grey(), at).to_ndarray(format="gray").astype(float)

    none, half, full = light(0), light(whole.moves // 2), light(240_000)
    changed = full - none > 40
    assert changed.sum() > 1000
    assert (half - none)[changed].mean() == pytest.approx((full - none)[changed].mean() / 2, rel=0.05)


def test_behind_the_moving_edge_only_the_left_part_has_come():
    whole = Overlay(0, 480_000, Strap("Orla Venn", "Host"), "edge")
    over = Graphics([whole], artist(), 1280, 720)
    full = over.over(grey(), 240_000).to_ndarray(format="gray").astype(int)
    half = over.over(grey(), whole.moves // 2).to_ndarray(format="gray").astype(int)
    left, right = (np.flatnonzero((np.abs(each - GREY) > 20).any(axis=0)) for each in (half, full))
    assert left[0] == right[0]
    assert left[-1] - left[0] == pytest.approx((right[-1] - right[0]) / 2, abs=6)
