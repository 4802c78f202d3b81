"""Pictures of cameras: each at its own clock, in its own proportions, at whatever rate and however it was held."""

from __future__ import annotations

import struct
from fractions import Fraction
from pathlib import Path

import av
import numpy as np
import pytest
import soundfile
from conftest import RATE, tone

from jaskel.core.edition import Edition, Piece
from jaskel.core.operations import Strike, apply
from jaskel.core.plan import Material, compile_plan
from jaskel.core.session import Picture, Session, Track
from jaskel.core.source import SILENCE, Recorded
from jaskel.media.graphics import Artist
from jaskel.media.picture import PictureSource, make_working_copy
from jaskel.media.probe import probe
from jaskel.media.render import Tags, film_pictures, write_film
from jaskel.media.sound import Shelf

TAGS = Tags("T", "S", "E")
SEEN = Recorded("s")


def coloured(level: int, width: int, height: int) -> np.ndarray:
    """A picture whose brightness is its number, with a frame at its edges that is brighter still."""
    picture = np.full((height, width, 3), level, np.uint8)
    picture[:8], picture[-8:], picture[:, :8], picture[:, -8:] = (250,) * 4
    return picture


def film(
    path: Path,
    times: list[float],
    size: tuple[int, int] = (160, 96),
    pixel: Fraction | None = None,
    levels: list[int] | None = None,
) -> Path:
    """A film without sound whose pictures come at given seconds."""
    with av.open(str(path), "w") as out:
        video = out.add_stream("libx264", rate=25, options={"crf": "8", "g": "25", "bf": "0"})
        video.width, video.height, video.pix_fmt = *size, "yuv420p"
        video.codec_context.time_base = Fraction(1, 1000)
        if pixel:
            video.codec_context.sample_aspect_ratio = pixel
        for number, at in enumerate(times):
            level = levels[number] if levels else 20 + number * 7 % 200
            frame = av.VideoFrame.from_ndarray(coloured(level, *size), "rgb24")
            frame.pts, frame.time_base = round(at * 1000), Fraction(1, 1000)
            out.mux(video.encode(frame))
        out.mux(video.encode())
    return path


def rotated(path: Path, matrix: tuple[int, ...]) -> Path:
    """The same MP4 with another matrix in its track header, as cameras write that are held on their side."""
    data = bytearray(path.read_bytes())
    at = data.index(b"tkhd") + 4 + 40
    data[at : at + 36] = struct.pack(">9i", *matrix)
    path.write_bytes(data)
    return path


def shown(path: Path) -> np.ndarray:
    """The middle of each picture of a film, as brightness."""
    with av.open(str(path)) as file:
        pictures = [frame.to_ndarray(format="gray") for frame in file.decode(video=0)]
    return np.array(
        [p[p.shape[0] // 2 - 8 : p.shape[0] // 2 + 8, p.shape[1] // 2 - 8 : p.shape[1] // 2 + 8].mean() for p in pictures]
    )


def exported(tmp_path: Path, edition: Edition, tracks: tuple[Track, ...], original: Path) -> np.ndarray:
    soundfile.write(tmp_path / "mic.flac", tone(20), RATE, format="FLAC")
    plan = compile_plan(edition, Material({"s": Session(tracks)}))
    out = tmp_path / "out.mp4"
    film = film_pictures(plan, lambda _: original, Artist("T", "S"))
    write_film(out, film, Shelf(lambda _: tmp_path / "mic.flac").read, lambda _: None, TAGS)
    return shown(out)


PICTURE = Picture(160, 96, Fraction(25))


class TestClocks:
    def test_a_camera_whose_clock_drifts_is_seen_at_its_own_time(self, tmp_path):
        """One in a hundred stands for hours of 50 millionths: after 15 s it is 150 ms, nearly four frames."""
        drift = 0.01
        path = film(tmp_path / "cam.mp4", [n / 25 for n in range(450)], levels=[20 + n // 2 for n in range(450)])
        tracks = (Track("mic", 20 * RATE), Track("cam", 18 * RATE, drift=drift, sounds=False, picture=PICTURE))
        levels = exported(tmp_path, Edition.of([Piece(SEEN, 0, 16 * RATE)]), tracks, path)
        for second in (1, 8, 15):
            wanted = 20 + (second / (1 + drift) * 25) // 2
            assert abs(levels[second * 25] - wanted) <= 1.5, second

    def test_after_three_hours_of_50_millionths_it_is_on_time(self):
        hours = 3 * 3600 * RATE
        tracks = (Track("mic", hours), Track("cam", hours, drift=50e-6, sounds=False, picture=PICTURE))
        plan = compile_plan(Edition.of([Piece(SEEN, 0, hours)]), Material({"s": Session(tracks)}))
        layer = plan.layer_at(hours - 1)
        off = hours - 1 - layer.camera.after(hours - 1 - layer.begin)
        assert abs(off - hours * 50e-6) < RATE // 1000  # 539 ms at the camera, which is none on the session's clock

    def test_before_a_camera_began_its_first_picture_is_seen(self, tmp_path):
        path = film(tmp_path / "cam.mp4", [n / 25 for n in range(200)])
        tracks = (Track("mic", 20 * RATE), Track("cam", 8 * RATE, offset=2 * RATE, sounds=False, picture=PICTURE))
        levels = exported(tmp_path, Edition.of([Piece(SEEN, 0, 6 * RATE)]), tracks, path)
        assert np.abs(levels[:50] - levels[0]).max() < 2
        source = PictureSource(path)
        for number in (60, 100, 140):
            expected = source.at(Fraction(number, 25) - 2).to_ndarray(format="gray")[40:56, 72:88].mean()
            assert abs(levels[number] - expected) < 2.5
        source.close()

    def test_in_a_rest_that_was_put_in_the_picture_stands_still(self, tmp_path):
        path = film(tmp_path / "cam.mp4", [n / 25 for n in range(200)])
        tracks = (Track("cam", 8 * RATE, picture=PICTURE),)
        edition = Edition.of([Piece(SEEN, 0, 2 * RATE), Piece(SILENCE, 0, RATE), Piece(SEEN, 2 * RATE, 4 * RATE)])
        levels = exported(tmp_path, edition, tracks, path)
        assert np.abs(levels[52:74] - levels[52]).max() < 1
        assert abs(levels[80] - levels[60]) > 3


class TestRates:
    def test_pictures_at_a_rate_that_varies_are_seen_when_they_were_taken(self, tmp_path):
        times, at = [], 0.0
        for number in range(120):
            times.append(at)
            at += (0.02, 0.05, 0.09, 0.13)[number % 4]
        levels = [20 + number for number in range(120)]
        path = film(tmp_path / "phone.mkv", times, levels=levels)
        info = probe(path, "phone")
        picture = Picture(info.picture.width, info.picture.height, info.picture.frame_rate)
        tracks = (Track("cam", 8 * RATE, picture=picture),)
        edition = apply(Edition.of([Piece(SEEN, 0, 8 * RATE)]), Strike(((2 * RATE, 4 * RATE),)))[0]
        seen = exported(tmp_path, edition, tracks, path)
        rate = float(info.picture.frame_rate)
        for number in range(0, len(seen) - 1, 7):
            second = number / rate
            place = second if second < 2 else second + 2 - 0.01
            wanted = levels[max(i for i, t in enumerate(times) if t <= place + 0.002)]
            assert abs(seen[number] - wanted) <= 2.5, number

    def test_its_light_copy_is_in_step(self, tmp_path):
        path = film(tmp_path / "phone.mkv", [n * 0.037 + (n % 3) * 0.01 for n in range(100)])
        make_working_copy(path, probe(path, "phone").picture, 3 * RATE, tmp_path / "copy.mp4")
        original, copy = PictureSource(path), PictureSource(tmp_path / "copy.mp4")
        for at in (Fraction(1, 2), Fraction(3, 2), Fraction(12, 5)):
            a, b = (each.at(at).to_ndarray(format="gray").mean() for each in (original, copy))
            assert abs(a - b) < 8
        original.close()
        copy.close()


class TestProportions:
    def test_pixels_that_are_not_square_fill_the_frame(self, tmp_path):
        path = film(tmp_path / "wide.mp4", [n / 25 for n in range(50)], (720, 576), Fraction(64, 45))
        info = probe(path, "wide")
        assert (info.picture.width, info.picture.height) == (1024, 576)
        picture = Picture(1024, 576, Fraction(25))
        exported(tmp_path, Edition.of([Piece(SEEN, 0, RATE)]), (Track("cam", 2 * RATE, picture=picture),), path)
        with av.open(str(tmp_path / "out.mp4")) as file:
            frame = next(file.decode(video=0))
            assert (frame.width, frame.height) == (1024, 576)
            edges = frame.to_ndarray(format="gray")
        assert min(edges[288, :4].mean(), edges[288, -4:].mean(), edges[:4, 512].mean(), edges[-4:, 512].mean()) > 200
        make_working_copy(path, info.picture, 2 * RATE, tmp_path / "copy.mp4")
        copy = PictureSource(tmp_path / "copy.mp4")
        light = copy.at(Fraction(0)).to_ndarray(format="gray")
        assert light.shape == (360, 640) and min(light[180, :2].mean(), light[180, -2:].mean()) > 200
        copy.close()

    @pytest.mark.parametrize(
        "matrix", [(0, 1 << 16, 0, -(1 << 16), 0, 0, 0, 0, 1 << 30), (0, -(1 << 16), 0, 1 << 16, 0, 0, 0, 0, 1 << 30)]
    )
    def test_a_camera_held_on_its_side_stands_upright(self, tmp_path, matrix):
        path = rotated(film(tmp_path / "side.mp4", [n / 25 for n in range(50)]), matrix)
        info = probe(path, "side")
        assert (info.picture.width, info.picture.height) == (96, 160)
        tracks = (Track("cam", 2 * RATE, picture=Picture(96, 160, Fraction(25))),)
        exported(tmp_path, Edition.of([Piece(SEEN, 0, RATE)]), tracks, path)
        with av.open(str(tmp_path / "out.mp4")) as file:
            frame = next(file.decode(video=0)).to_ndarray(format="gray")
        assert frame.shape[:2] == (160, 96)
        assert min(frame[80, :4].mean(), frame[80, -4:].mean(), frame[:4, 48].mean(), frame[-4:, 48].mean()) > 200
