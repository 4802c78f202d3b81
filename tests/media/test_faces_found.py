"""Faces in pictures: found, followed, and kept in by ``jaskel reframe``."""

from __future__ import annotations

import json
from fractions import Fraction
from pathlib import Path

import av
import numpy as np
import pytest
import soundfile

from jaskel.cli import main
from jaskel.core.picture.faces import along
from jaskel.core.timebase import RATE
from jaskel.demo.shipped import MEDIA, faces_of
from jaskel.media.faces import follow_faces
from jaskel.media.picture import PictureSource
from jaskel.store.material import read_faces


def presenter(name: str) -> np.ndarray:
    source = PictureSource(MEDIA / name)
    picture = source.at(Fraction(5)).to_ndarray(format="rgb24")
    source.close()
    return picture


def filmed(path: Path, place, seconds: int = 8, other=None) -> list[float]:
    """A wide film of a presenter at a place (0 to 1, by time), from half of it on perhaps of ``other``; gives the places."""
    ground = np.random.default_rng(1).integers(90, 110, (360, 640, 3), np.uint8)
    one = presenter("interview-camera-orla.mp4")[20:340:2, 190:450:2]
    places = []
    with av.open(str(path), "w") as out:
        video = out.add_stream("libx264", rate=25, options={"crf": "20"})
        video.width, video.height, video.pix_fmt = 640, 360, "yuv420p"
        for number in range(25 * seconds):
            picture = ground.copy()
            if other is not None and number >= 25 * seconds // 2:
                picture = other.copy()
            else:
                places.append(place(number / 25))
                left = round(places[-1] * 640) - one.shape[1] // 2
                picture[100 : 100 + one.shape[0], left : left + one.shape[1]] = one
            frame = av.VideoFrame.from_ndarray(picture, "rgb24").reformat(format="yuv420p")
            frame.pts, frame.time_base = number, Fraction(1, 25)
            out.mux(video.encode(frame))
        out.mux(video.encode())
    return places


def test_a_face_that_moves_is_followed(tmp_path):
    places = filmed(tmp_path / "walk.mp4", lambda at: 0.2 + 0.07 * at)
    (face,) = follow_faces(tmp_path / "walk.mp4", 8 * RATE).faces
    middles = [box.x + box.width / 2 for box in face.boxes]
    assert len(middles) == 40
    assert np.abs(np.array(middles) - np.array(places[::5])).max() < 0.03


@pytest.mark.parametrize("film", sorted(path.name for path in MEDIA.glob("*.mp4")))
def test_those_that_come_with_the_demo_are_found_today(film):
    known = read_faces(faces_of(film)).faces
    found = follow_faces(MEDIA / film, 6 * RATE).faces
    assert found
    for face in found:
        for look, box in enumerate(face.boxes, face.first):
            at_that_time = [other.at(look) for other in known if other.at(look)]
            assert min(np.abs(np.subtract(box, other)).max() for other in at_that_time) < 0.02, look
    shown = [look for look in range(30) if any(other.at(look) for other in known)]
    assert all(any(face.at(look) for face in found) for look in shown)


def test_a_cut_in_the_film_is_found_to_the_frame(tmp_path):
    filmed(tmp_path / "cut.mp4", lambda _: 0.3, other=presenter("interview-camera-teo.mp4"))
    faces = follow_faces(tmp_path / "cut.mp4", 8 * RATE)
    assert len(faces.faces) == 2 and len(faces.cuts) == 1
    assert abs(faces.cuts[0] - 4 * RATE) <= RATE // 50


@pytest.mark.parametrize(("shape", "size"), [("upright", (360, 640)), ("square", (360, 360)), ("tall", (360, 450))])
def test_the_face_stays_in_every_shape(tmp_path, shape, size):
    places = filmed(tmp_path / "in.mp4", lambda at: 0.25 + 0.05 * at)
    out, report = tmp_path / "out.mp4", tmp_path / "r.json"
    assert main(["reframe", str(tmp_path / "in.mp4"), "--shape", shape, "--out", str(out), "--report", str(report)]) == 0
    told = json.loads(report.read_text())
    assert (told["width"], told["height"], told["faces"]) == (*size, 1)
    assert [crop["at"] for crop in told["crops"]] == [n / 2 for n in range(16)]
    for crop in told["crops"]:
        x = places[min(len(places) - 1, round(crop["at"] * 25))] * 640
        assert crop["x"] + 35 <= x <= crop["x"] + crop["width"] - 35
        assert crop["width"] / crop["height"] == pytest.approx(size[0] / size[1], abs=0.02)
    with av.open(str(out)) as film:
        assert (film.streams.video[0].width, film.streams.video[0].height) == size
        assert abs(film.streams.video[0].frames - 200) <= 1


@pytest.mark.parametrize(
    ("arguments", "said"),
    [(["--punch-in", "900"], "0 to 200"), ([], "no moving picture")],
)  # fmt: skip
def test_what_cannot_be_reframed_is_told(tmp_path, capsys, arguments, said):
    source = tmp_path / "a.flac"
    soundfile.write(source, np.zeros(RATE), RATE)
    wanted = ["reframe", str(source), "--shape", "square", "--out", str(tmp_path / "o.mp4"), *arguments]
    assert main(wanted) == 2
    assert said in capsys.readouterr().err and not (tmp_path / "o.mp4").exists()


def test_where_there_is_no_face_what_moves_is_followed_and_else_the_middle_is_seen(tmp_path):
    def film(name, place):
        with av.open(str(tmp_path / name), "w") as out:
            video = out.add_stream("libx264", rate=25, options={"crf": "18"})
            video.width, video.height, video.pix_fmt = 640, 360, "yuv420p"
            for number in range(150):
                picture = np.full((360, 640, 3), 90, np.uint8)
                if place:
                    x = place(number / 25)
                    picture[150:210, x : x + 60] = (200, 160, 40)
                frame = av.VideoFrame.from_ndarray(picture, "rgb24").reformat(format="yuv420p")
                frame.pts, frame.time_base = number, Fraction(1, 25)
                out.mux(video.encode(frame))
            out.mux(video.encode())
        return follow_faces(tmp_path / name, 6 * RATE)

    ball = film("ball.mp4", lambda at: 60 + round(80 * at))
    assert ball.faces == ()
    path = ball.path(0.3164, 1.0)
    for seconds in (2, 3, 4, 5):
        x = (60 + 80 * seconds + 30) / 640
        assert abs(along(path, seconds * RATE).x - max(0.158, x)) < 0.15
    still = film("still.mp4", None)
    assert still.path(0.3164, 1.0) == ()
