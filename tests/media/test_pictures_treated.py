"""Levels of pictures, covers over parts of them, and following what is covered."""

from __future__ import annotations

from fractions import Fraction

import av
import cv2
import numpy as np
import pytest
from skimage import data

from jaskel.core.picture.framing import Box
from jaskel.core.picture.grade import AS_FILMED, Grade, matched
from jaskel.core.timebase import RATE
from jaskel.media.followed import follow
from jaskel.media.treated import statistics_of, treated


def frame_of(picture: np.ndarray) -> av.VideoFrame:
    return av.VideoFrame.from_ndarray(np.ascontiguousarray(picture), "rgb24").reformat(format="yuv420p")


def pixels(frame: av.VideoFrame) -> np.ndarray:
    return frame.to_ndarray(format="rgb24").astype(float)


PHOTOGRAPH = cv2.resize(data.astronaut()[:288], (640, 360))


def test_levels_do_what_they_are_called():
    source = frame_of(PHOTOGRAPH)
    plain = pixels(source)
    assert pixels(treated(source, Grade(exposure=0.5), [])).mean() > plain.mean() + 10
    grey = pixels(treated(source, Grade(saturation=0), []))
    assert grey.std(axis=2).mean() < 2
    warm = pixels(treated(source, Grade(warmth=40), []))
    assert warm[..., 0].mean() > plain[..., 0].mean() > 0
    assert warm[..., 2].mean() < plain[..., 2].mean()
    assert pixels(treated(source, Grade(contrast=150), [])).std() > plain.std() * 1.2
    assert np.array_equal(pixels(source), plain)


def test_two_pictures_of_one_scene_are_matched():
    ours = frame_of(PHOTOGRAPH)
    theirs = treated(ours, Grade(exposure=-0.6, warmth=25, saturation=80, contrast=90), [])
    wanted, found = statistics_of([(ours, [])]), statistics_of([(theirs, [])])
    again = treated(theirs, matched(found, wanted), [])
    before, after = (np.abs(pixels(each) - pixels(ours)).mean() for each in (theirs, again))
    assert after < before / 4


@pytest.mark.parametrize("form", ["blur", "pixels", "solid"])
def test_what_is_covered_cannot_be_read_and_all_else_is_as_it_was(form):
    board = np.full((360, 640, 3), 235, np.uint8)
    cv2.putText(board, "KM 4711", (180, 200), cv2.FONT_HERSHEY_SIMPLEX, 2, (10, 10, 10), 6)
    source = frame_of(board)
    box = Box(160 / 640, 130 / 360, 320 / 640, 100 / 360)
    shown = pixels(treated(source, AS_FILMED, [(form, box)]))
    inside = shown[130:230, 160:480].mean(axis=2)
    # Strokes of letters are gone: from one pixel to the next nothing changes as it did.
    assert np.percentile(np.abs(np.diff(inside, axis=1)), 99) < 12 or form == "pixels"
    assert len(np.unique(inside.round(-1))) <= (40 if form != "pixels" else 36)
    outside = np.abs(shown - pixels(source))
    outside[128:232, 158:482] = 0
    assert outside.max() == 0


def moving(path, way):
    """A film in which a part of a photograph moves over a plain wall, and where it is in each picture."""
    part = cv2.resize(PHOTOGRAPH[40:220, 200:380], (90, 90))
    rng = np.random.default_rng(1)
    wall = np.clip(rng.normal(120, 6, (360, 640, 3)), 0, 255).astype(np.uint8)
    with av.open(str(path), "w") as out:
        video = out.add_stream("libx264", rate=25, options={"crf": "18"})
        video.width, video.height, video.pix_fmt = 640, 360, "yuv420p"
        for number, (x, y) in enumerate(way):
            picture = wall.copy()
            picture[y : y + 90, x : x + 90] = part
            frame = frame_of(picture)
            frame.pts, frame.time_base = number, Fraction(1, 25)
            out.mux(video.encode(frame))
        out.mux(video.encode())
    return path


def test_what_was_drawn_round_is_followed_both_ways(tmp_path):
    way = [(60 + 4 * n, 120 + round(40 * np.sin(n / 12))) for n in range(100)]
    film = moving(tmp_path / "film.mp4", way)
    x, y = way[50]
    drawn = Box(x / 640, y / 360, 90 / 640, 90 / 360)
    found = follow(film, drawn, 2 * RATE, 0, 4 * RATE - RATE // 25)
    assert found[0][0] == 0
    for at, box, sure in found:
        x, y = way[min(99, at * 25 // RATE)]
        assert sure
        assert abs(box.x * 640 - x) < 6
        assert abs(box.y * 360 - y) < 6


def test_where_it_goes_out_of_sight_it_is_not_sure_and_stays(tmp_path):
    way = [(60, 120)] * 40 + [(545, 268)] * 10
    film = moving(tmp_path / "film.mp4", way)
    found = follow(film, Box(60 / 640, 120 / 360, 90 / 640, 90 / 360), 0, 0, 2 * RATE - RATE // 25)
    assert [sure for at, _, sure in found if at < 1.5 * RATE] == [True] * sum(at < 1.5 * RATE for at, _, _ in found)
    assert not any(sure for at, _, sure in found if at > 1.65 * RATE)
    assert found[-1][1].x == pytest.approx(60 / 640, abs=0.02)
