"""Eyes of a photographed face, moved aside and turned back to the camera."""

from __future__ import annotations

from fractions import Fraction

import av
import cv2
import numpy as np
import pytest
from skimage import data

from jaskel.core.picture.gaze import Gaze, look_of
from jaskel.core.timebase import RATE
from jaskel.media.faces import faces_in, small_of
from jaskel.media.gaze import PIECE, Gazes, eyes_in, write_turned

PORTRAIT = cv2.resize(data.astronaut()[:288], (1280, 720), interpolation=cv2.INTER_CUBIC)
FULL = Gaze(100, 20)


def frame_of(picture: np.ndarray) -> av.VideoFrame:
    return av.VideoFrame.from_ndarray(np.ascontiguousarray(picture), "rgb24").reformat(format="yuv420p")


def pixels(frame: av.VideoFrame) -> np.ndarray:
    return frame.to_ndarray(format="rgb24").astype(float)


def pair_in(picture: np.ndarray):
    face, *_ = faces_in(small_of(frame_of(picture)))
    return eyes_in(picture, face.box)


PAIR = pair_in(PORTRAIT)


def glancing(right: float, down: float = 0.0) -> np.ndarray:
    """The portrait with its irises moved by so many of their radii."""
    rows, columns = np.mgrid[0 : PORTRAIT.shape[0], 0 : PORTRAIT.shape[1]].astype(np.float32)
    x, y = columns.copy(), rows.copy()
    for eye in (PAIR.left, PAIR.right):
        off = right * eye.radius, down * eye.radius
        far = np.hypot(columns - eye.iris[0] - off[0], rows - eye.iris[1] - off[1]) / eye.radius
        weight = np.exp(-((far / 1.7) ** 4)).astype(np.float32)
        x, y = x - weight * off[0], y - weight * off[1]
    return cv2.remap(PORTRAIT, x, y, cv2.INTER_CUBIC)


def shut() -> np.ndarray:
    """The portrait with its upper lids drawn down over the eyes."""
    out = PORTRAIT.copy()
    for eye in (PAIR.left, PAIR.right):
        (left, top), (right, bottom) = np.min(eye.lids, axis=0).astype(int), np.max(eye.lids, axis=0).astype(int)
        lid = PORTRAIT[2 * top - bottom : top + 2, left - 4 : right + 4]
        out[2 * top - bottom : bottom + 2, left - 4 : right + 4] = cv2.resize(lid, (right - left + 8, 2 * (bottom - top) + 2))
    return out


def past_the_camera(picture: np.ndarray) -> np.ndarray:
    """How far its eyes look aside, against the portrait as it was taken."""
    look, taken = look_of(pair_in(picture)), look_of(PAIR)
    return np.array((look.right - taken.right, look.down - taken.down))


def turned(picture: np.ndarray, gaze: Gaze = FULL) -> np.ndarray:
    return pixels(Gazes().turned(frame_of(picture), 0, gaze)).astype(np.uint8)


@pytest.mark.parametrize(("right", "down"), [(0.45, 0), (-0.45, 0), (0, 0.4), (0.3, 0.25)])
def test_eyes_that_look_aside_come_back_to_the_camera(right, down):
    aside = glancing(right, down)
    before, after = (look_of(pair_in(each)).angle for each in (aside, turned(aside)))
    assert after < 0.6 * before


def test_half_the_amount_turns_them_less():
    aside = glancing(0.45)
    whole, half = (past_the_camera(turned(aside, Gaze(amount, 20)))[0] for amount in (100, 50))
    assert whole < half < past_the_camera(aside)[0]


def test_nothing_but_the_eyes_changes():
    aside = glancing(0.4)
    changed = np.abs(turned(aside).astype(int) - pixels(frame_of(aside)).astype(int)).max(axis=2) > 2
    rows, columns = np.nonzero(changed)
    assert len(rows) > 100
    for eye in (PAIR.left, PAIR.right):
        near = np.hypot(columns - eye.iris[0], rows - eye.iris[1]) < eye.width
        rows, columns = rows[~near], columns[~near]
    assert len(rows) == 0


def test_closed_eyes_and_pictures_without_a_face_are_left_alone():
    for picture in (shut(), np.full_like(PORTRAIT, 90), data.coffee()[:288, :512]):
        frame = frame_of(np.ascontiguousarray(picture))
        assert Gazes().turned(frame, 0, FULL) is frame


def test_a_still_head_does_not_tremble():
    """Noise of a camera over a still picture: turned irises may move no more than those of the picture itself are told to."""
    aside, rng = glancing(0.35), np.random.default_rng(5)
    gazes = Gazes()
    told, kept = [], []
    for number in range(20):
        noisy = np.clip(aside + rng.normal(0, 4, aside.shape), 0, 255).astype(np.uint8)
        told.append(look_of(pair_in(noisy)).right)
        gazes.turned(frame_of(noisy), number * RATE // 25, FULL)
        kept.append(gazes.lately[0].look.right)
    assert np.std(np.diff(kept[3:])) < np.std(np.diff(told[3:]))


def test_pieces_for_the_monitor_are_as_long_as_they_should_be_and_begin_where_they_should(tmp_path):
    copy = tmp_path / "copy.mp4"
    with av.open(str(copy), "w") as out:
        video = out.add_stream("libx264", rate=10, options={"crf": "12", "g": "5"})
        video.width, video.height, video.pix_fmt = 640, 360, "yuv420p"
        for number in range(40):
            picture = cv2.resize(glancing(0.4) if number % 20 < 10 else PORTRAIT, (640, 360), interpolation=cv2.INTER_AREA)
            picture[:20, :20] = number * 6
            frame = frame_of(picture)
            frame.pts, frame.time_base = number, Fraction(1, 10)
            out.mux(video.encode(frame))
        out.mux(video.encode())
    for place, first, count in ((0, 0, 20), (PIECE, 20, 20)):
        piece = tmp_path / f"{place}.mp4"
        write_turned(piece, copy, place, min(place + PIECE, 4 * RATE), FULL)
        with av.open(str(piece)) as opened:
            frames = [pixels(frame) for frame in opened.decode(video=0)]
        assert len(frames) == count
        assert frames[0][5, 5].mean() == pytest.approx(first * 6, abs=12)
