"""Bridges between two pictures, and other ways of going over, on photographs in known motion."""

from __future__ import annotations

from dataclasses import dataclass
from fractions import Fraction
from itertools import pairwise

import av
import cv2
import numpy as np
import pytest
from skimage import data

from jaskel.core.picture.joins import Join
from jaskel.core.plan import Blend, Camera, Frame, Scene, View
from jaskel.core.timebase import RATE
from jaskel.media.bridge import GOOD, Bridge
from jaskel.media.render import write_stretch
from jaskel.media.scene import NOBODY, Studio
from jaskel.media.transitions import Transition


@dataclass(frozen=True)
class Motion:
    """How far a picture has moved at the end of its way: growing, to the right, downwards, and turned in degrees."""

    grows: float
    right: float
    down: float
    turns: float

    def of(self, picture: np.ndarray, share: float) -> np.ndarray:
        height, width = picture.shape[:2]
        matrix = cv2.getRotationMatrix2D((width / 2, height / 2), self.turns * share, 1 + (self.grows - 1) * share)
        matrix[:, 2] += self.right * share, self.down * share
        return cv2.warpAffine(picture, matrix, (width, height), borderMode=cv2.BORDER_REFLECT)


SMALL, MEDIUM, LARGE = Motion(1.01, 6, 3, 0.5), Motion(1.03, 16, 8, 1.5), Motion(1.06, 32, 16, 3)


def photograph(name: str) -> np.ndarray:
    picture = getattr(data, name)()[..., :3]
    height = picture.shape[1] * 9 // 16
    return cv2.resize(picture[:height], (640, 360), interpolation=cv2.INTER_AREA)


def decibels(a: np.ndarray, b: np.ndarray) -> float:
    """The peak signal to noise ratio of two pictures."""
    return float(10 * np.log10(255**2 / np.mean((a.astype(float) - b.astype(float)) ** 2)))


@pytest.mark.parametrize("motion", [SMALL, MEDIUM, LARGE])
@pytest.mark.parametrize("name", ["astronaut", "chelsea", "coffee"])
def test_the_middle_of_a_bridge_is_nearer_to_the_truth_than_a_dissolve_by_far(name, motion):
    first = photograph(name)
    truth, last = motion.of(first, 0.5), motion.of(first, 1)
    dissolved = Transition(Join("dissolve")).at(0.5, first, last)
    assert decibels(Bridge(first, last).at(0.5), truth) >= decibels(dissolved, truth) + 8


def test_it_begins_and_ends_with_its_two_pictures_and_keeps_what_stands_still():
    first = photograph("astronaut")
    last = first.copy()
    last[100:260, 200:440] = SMALL.of(first, 1)[100:260, 200:440]
    bridge = Bridge(first, last)
    assert np.array_equal(bridge.at(0), first)
    assert np.array_equal(bridge.at(1), last)
    still = bridge.at(0.5)
    assert np.abs(still[:60].astype(int) - first[:60]).mean() < 1


def test_what_it_calls_good_is_no_further_off_than_it_says_and_it_knows_what_smears():
    judged = {}
    for name in ("astronaut", "chelsea", "coffee"):
        first = photograph(name)
        for motion in (SMALL, MEDIUM, LARGE):
            bridge = Bridge(first, motion.of(first, 1))
            off = (bridge.at(0.5).astype(float) - motion.of(first, 0.5)) ** 2
            worst = np.sqrt(off[:352].mean(axis=2).reshape(11, 32, 20, 32).mean(axis=(1, 3))).max()
            judged[name, motion] = bridge.judged
            if bridge.judged.quality == "good":
                assert worst < GOOD
    assert sum(each.quality == "good" for each in judged.values()) >= 3
    astronaut = photograph("astronaut")
    strange = Bridge(astronaut, photograph("coffee")).judged
    assert strange.quality == "poor"
    assert strange.smears
    assert strange.alike < min(each.alike for each in judged.values())
    assert Bridge(astronaut, astronaut).judged.worst < 2


RED, BLUE = (np.broadcast_to(np.array(colour, np.uint8), (90, 160, 3)) for colour in ((200, 0, 0), (0, 0, 200)))


def test_pictures_fade_dip_slide_and_push():
    def at(kind, share, **more):
        return Transition(Join(kind, **more)).at(share, RED, BLUE)

    assert tuple(at("dissolve", 0.5)[40, 80]) == (100, 0, 100)
    assert tuple(at("dip", 0.5, colour="#ffffff")[40, 80]) == (255, 255, 255)
    slid = at("slide", 0.5)
    assert tuple(slid[40, 40]) == (200, 0, 0)
    assert tuple(slid[40, 120]) == (0, 0, 200)
    columns = np.broadcast_to(np.arange(160, dtype=np.uint8)[None, :, None], (90, 160, 3))
    pushed = Transition(Join("push")).at(0.5, columns, BLUE)
    assert tuple(pushed[40, 0]) == (80, 80, 80)  # what was in the middle is at the edge


def film(path, pictures):
    with av.open(str(path), "w") as out:
        video = out.add_stream("libx264", rate=25, options={"crf": "10"})
        video.width, video.height, video.pix_fmt = 640, 360, "yuv420p"
        for number, picture in enumerate(pictures):
            frame = av.VideoFrame.from_ndarray(picture, "rgb24").reformat(format="yuv420p")
            frame.pts, frame.time_base = number, Fraction(1, 25)
            out.mux(video.encode(frame))
        out.mux(video.encode())
    return path


@pytest.fixture
def jump(tmp_path):
    """A bridge of eight pictures between two films, and the files of both."""
    first = photograph("astronaut")
    films = {
        "a": film(tmp_path / "a.mp4", [first] * 25),
        "b": film(tmp_path / "b.mp4", [SMALL.of(first, 1)] * 25),
    }
    sides = [Scene((View(Camera(name, 0)),)) for name in films]
    return Blend(*sides, Join("bridge"), RATE * 8 // 25), films


def test_films_and_the_monitor_go_over_a_bridge_evenly(jump, tmp_path):
    blend, films = jump
    frame = Frame(640, 360, Fraction(25))
    studio = Studio(frame, films.__getitem__)
    shown = [studio.picture(blend, number * RATE // 25).to_ndarray(format="rgb24").astype(float) for number in range(8)]
    studio.close()
    steps = [np.abs(b - a).mean() for a, b in pairwise(shown)]
    whole = np.abs(shown[-1] - shown[0]).mean()
    assert max(steps) < whole / 2  # no jump is left
    write_stretch(tmp_path / "s.mp4", blend, blend.length, frame, films.__getitem__, NOBODY)
    with av.open(str(tmp_path / "s.mp4")) as opened:
        stretch = [picture.to_ndarray(format="rgb24").astype(float) for picture in opened.decode(video=0)]
    assert len(stretch) == 8
    assert all(np.abs(a - b).mean() < 3 for a, b in zip(shown, stretch, strict=True))
