"""Pictures of several cameras in one, and parts of them."""

from __future__ import annotations

from fractions import Fraction

import av
import numpy as np
import pytest

from jaskel.core.picture.crop import crop_of
from jaskel.core.picture.framing import WHOLE, Box, slots_of
from jaskel.core.plan import Camera, Frame, Scene, View
from jaskel.core.shape import size_in
from jaskel.media.scene import Studio

RED, GREEN, BLUE = (255, 0, 0), (0, 200, 0), (0, 0, 255)


def filmed(path, picture: np.ndarray, seconds: int = 1, rotation: int = 0):
    """A film that shows one picture."""
    with av.open(str(path), "w") as out:
        video = out.add_stream("libx264", rate=25, options={"crf": "12"})
        video.width, video.height, video.pix_fmt = picture.shape[1], picture.shape[0], "yuv420p"
        for number in range(25 * seconds):
            frame = av.VideoFrame.from_ndarray(picture, "rgb24").reformat(format="yuv420p")
            frame.pts, frame.time_base = number, Fraction(1, 25)
            out.mux(video.encode(frame))
        out.mux(video.encode())
    return path


def plain(colour, size=(96, 160)) -> np.ndarray:
    return np.full((*size, 3), colour, np.uint8)


@pytest.fixture
def cameras(tmp_path):
    stripes = np.zeros((96, 160, 3), np.uint8)
    stripes[:, :53], stripes[:, 53:107], stripes[:, 107:] = RED, GREEN, BLUE
    films = {"stripes": stripes, "red": plain(RED), "blue": plain(BLUE)}
    return {name: filmed(tmp_path / f"{name}.mp4", picture) for name, picture in films.items()}


def shown(cameras, frame: Frame, *views: View) -> np.ndarray:
    studio = Studio(frame, lambda name: cameras[name])
    picture = studio.picture(Scene(views), 0)
    array = picture.to_ndarray(format="rgb24")
    studio.close()
    return array


def test_an_upright_film_shows_the_middle_and_no_bars(cameras):
    size = size_in("upright", 160, 96)
    assert size == (96, 170)
    crop = crop_of(Fraction(160, 96), Fraction(*size))
    picture = shown(cameras, Frame(*size, Fraction(25), fill=True), View(Camera("stripes", 0), WHOLE, ((0, crop),)))
    assert picture.shape == (170, 96, 3)
    assert (picture[:, 4:-4].argmax(axis=2) == 1).all()


def test_two_stand_beside_each_other_with_a_dark_line_between(cameras):
    slots = slots_of("side by side", 2, Fraction(16, 9))
    views = [
        View(Camera(name, 0), slot, ((0, Box(0.25, 0, 0.5, 1)),)) for name, slot in zip(("red", "blue"), slots, strict=True)
    ]
    picture = shown(cameras, Frame(640, 360, Fraction(25)), *views)
    assert (picture[:, 4:312].argmax(axis=2) == 0).all() and (picture[:, 328:-4].argmax(axis=2) == 2).all()
    assert (picture[20:-20, 319:321].max(axis=2) < 90).all()


def test_a_small_one_lies_over_a_large_one(cameras):
    large, small = slots_of("large with small", 2, Fraction(16, 9))
    picture = shown(cameras, Frame(640, 360, Fraction(25)), View(Camera("blue", 0), large), View(Camera("red", 0), small))
    assert picture[10, 10].argmax() == 2
    middle = round((small.y + small.height / 2) * 360), round((small.x + small.width / 2) * 640)
    assert picture[middle].argmax() == 0 and small.height == pytest.approx(0.28)


def test_what_is_closer_is_a_part_of_the_picture(cameras):
    picture = shown(cameras, Frame(160, 96, Fraction(25)), View(Camera("stripes", 0), WHOLE, ((0, Box(0.4, 0.4, 0.2, 0.2)),)))
    assert picture.shape == (96, 160, 3) and (picture.argmax(axis=2) == 1).all()


def test_a_picture_of_another_shape_has_black_bars(cameras):
    picture = shown(cameras, Frame(640, 360, Fraction(25)), View(Camera("red", 0), Box(0.125, 0, 0.75, 1)))
    assert (picture[:, :70].max(axis=2) < 20).all() and (picture[:, 90:550].argmax(axis=2) == 0).all()
