"""Films and pictures as they come from elsewhere: rates and sizes nobody expects, high dynamic range, what shows through."""

from __future__ import annotations

from fractions import Fraction

import av
import numpy as np
import pytest
from PIL import Image

from jaskel.core.picture.crop import crop_of
from jaskel.core.picture.framing import WHOLE
from jaskel.core.plan import Camera, Frame, Scene, View
from jaskel.core.timebase import RATE
from jaskel.media.patch import planes_of
from jaskel.media.picture import MOST_KEYS, PictureSource, make_key_copy, make_thumbnail, make_working_copy, upright
from jaskel.media.probe import probe
from jaskel.media.scene import Studio

FRAME = Frame(320, 180, Fraction(25))
GREEN = (20, 180, 40)


def film(path, size=(320, 180), rate=25, seconds=2, codec="libx264", pixels="yuv420p", picture=None, **tags):
    """A film of one colour, or of a picture in planes of ten bits."""
    width, height = size
    with av.open(str(path), "w") as out:
        video = out.add_stream(codec, rate=rate)
        video.width, video.height, video.pix_fmt = width, height, pixels
        for name, value in tags.items():
            setattr(video.codec_context, name, value)
        for number in range(max(1, int(rate * seconds))):
            if picture is None:
                plain = np.full((height, width, 3), GREEN, np.uint8)
                frame = av.VideoFrame.from_ndarray(plain, "rgb24").reformat(format=pixels)
            else:
                frame = picture()
            frame.pts, frame.time_base = number, 1 / Fraction(rate)
            out.mux(video.encode(frame))
        out.mux(video.encode())
    return path


def seen(path, at=1.0, still=False):
    studio = Studio(FRAME, lambda _: path)
    info = probe(path, path.name)
    shape = Fraction(info.picture.width, info.picture.height)
    view = View(Camera("a", 0, 0.0 if still else 1.0, still=still), WHOLE, ((0, crop_of(shape, Fraction(16, 9))),))
    picture = studio.picture(Scene((view,)), round(at * RATE)).to_ndarray(format="rgb24")
    studio.close()
    return picture.astype(int)


def test_a_long_film_is_seen_by_key_pictures_first(tmp_path):
    seconds, shades = 300, iter(range(10_000))

    def darker():
        return av.VideoFrame.from_ndarray(np.full((90, 64), next(shades) % 220 + 20, np.uint8), "gray").reformat(
            format="yuv420p"
        )

    path = film(tmp_path / "film.mkv", size=(64, 90), rate=10, seconds=seconds, picture=darker, gop_size=20)
    count = make_key_copy(path, probe(path, "film.mkv").picture, seconds, tmp_path / "keys.mp4")
    assert MOST_KEYS / 2 < count <= MOST_KEYS
    keys, whole = PictureSource(tmp_path / "keys.mp4"), PictureSource(path)
    with av.open(str(tmp_path / "keys.mp4")) as made:
        places = [frame.time for frame in made.decode(video=0)]
        assert made.duration / av.time_base == pytest.approx(seconds, abs=0.2)
    for at in places[:-1:7]:
        light, original = (planes_of(each.at(Fraction(at)))[0].mean() for each in (keys, whole))
        assert light == pytest.approx(original, abs=3)
    keys.close()
    whole.close()


@pytest.mark.parametrize("rate", [1, Fraction(24000, 1001), 60, 120])
def test_films_of_any_rate_are_seen_and_have_a_light_copy(tmp_path, rate):
    path = film(tmp_path / "film.mp4", rate=rate)
    assert np.abs(seen(path)[90, 160] - GREEN).max() < 12
    info = probe(path, "film.mp4")
    make_working_copy(path, info.picture, 2 * RATE, tmp_path / "light.mp4")
    assert np.abs(seen(tmp_path / "light.mp4")[90, 160] - GREEN).max() < 16


@pytest.mark.parametrize("size", [(322, 178), (2, 2), (3000, 20), (90, 1600)])
def test_films_of_any_size_fill_the_frame(tmp_path, size):
    picture = seen(film(tmp_path / "film.mp4", size, seconds=2))
    assert np.abs(picture[60:120, 100:220] - GREEN).max() < 30


def test_an_odd_size_is_seen_whole(tmp_path):
    path = film(tmp_path / "film.mkv", (321, 181), codec="ffv1", pixels="bgr0")
    assert np.abs(seen(path)[90, 160] - GREEN).max() < 12


def test_what_was_filmed_in_high_dynamic_range_is_as_bright_as_it_was_meant(tmp_path):
    """A white page of 203 cd/m² has the code 573 of ten bits in SMPTE ST 2084; shown as it is, it would be grey."""

    def page():
        frame = av.VideoFrame(320, 180, "yuv420p10le")
        for plane, value in zip(frame.planes, (573, 512, 512), strict=True):
            plane.update(np.full(plane.buffer_size // 2, value, np.uint16).tobytes())
        return frame

    path = film(tmp_path / "film.mp4", codec="libx265", pixels="yuv420p10le", picture=page, color_trc=16, color_primaries=9)
    source = PictureSource(path)
    white = planes_of(upright(source.at(Fraction(1))))[0].mean()
    source.close()
    assert 215 < white < 236
    assert seen(path)[90, 160].min() > 225


def test_a_moving_gif_is_a_film_and_what_shows_through_a_still_is_paper(tmp_path):
    frames = [Image.new("RGB", (64, 36), colour) for colour in ("#ff0000", "#0000ff")]
    frames[0].save(tmp_path / "moving.gif", save_all=True, append_images=frames[1:], duration=1000, loop=0)
    info = probe(tmp_path / "moving.gif", "moving.gif")
    assert not info.still
    assert seen(tmp_path / "moving.gif", 0.5)[90, 160].argmax() == 0
    assert seen(tmp_path / "moving.gif", 1.5)[90, 160].argmax() == 2
    for mode, form in (("RGBA", "png"), ("LA", "png"), ("P", "gif")):
        picture = Image.new(mode, (64, 36))
        path = tmp_path / f"{mode}.{form}"
        picture.save(path, transparency=0) if mode == "P" else picture.save(path)
        assert np.abs(seen(path, still=True)[90, 160] - (0xFC, 0xFB, 0xF7)).max() < 6
        make_thumbnail(path, tmp_path / "t.png")


def test_a_still_lies_as_its_camera_was_held(tmp_path):
    picture = Image.new("RGB", (60, 40), "#ff0000")
    picture.paste("#0000ff", (30, 0, 60, 40))
    exif = Image.Exif()
    exif[0x0112] = 6  # turned to the right
    picture.save(tmp_path / "held.jpg", exif=exif, quality=95)
    info = probe(tmp_path / "held.jpg", "held.jpg")
    assert (info.picture.width, info.picture.height) == (40, 60)
    shown = seen(tmp_path / "held.jpg", still=True)
    assert shown[20, 160].argmax() == 0
    assert shown[160, 160].argmax() == 2


def test_a_film_with_a_hole_in_its_middle_goes_on_after_it(tmp_path):
    path = tmp_path / "hole.mkv"
    with av.open(str(path), "w") as out:
        video = out.add_stream("libx264", rate=25)
        video.width, video.height, video.pix_fmt = 320, 180, "yuv420p"
        for number in range(100):
            if 30 <= number < 70:
                continue
            colour = (200, 20, 20) if number < 30 else GREEN
            frame = av.VideoFrame.from_ndarray(np.full((180, 320, 3), colour, np.uint8), "rgb24").reformat(format="yuv420p")
            frame.pts, frame.time_base = number, Fraction(1, 25)
            out.mux(video.encode(frame))
        out.mux(video.encode())
    assert seen(path, 2.0)[90, 160].argmax() == 0  # the last one before the hole stands still
    assert seen(path, 3.5)[90, 160].argmax() == 1
