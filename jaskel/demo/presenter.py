"""Drawn presenters for the demo's cameras: heads that nod and turn a little, eyes that blink, a mouth that follows the voice.

Everything moves in fractions of a pixel from one frame to the next, as in front of a real camera, so that motion can be
followed and a join between two frames can be seen.
"""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass
from functools import lru_cache

import cv2
import numpy as np
from PIL import Image, ImageDraw, ImageFilter
from scipy.ndimage import gaussian_filter1d

SIZE = (640, 360)
FPS = 25
FINE = 3
"""Everything is drawn this many times as large, and made smaller as it is put in its place."""

HEAD = (320, 340)
NECK = (160, 292)
"""Size of the picture of a head before it is enlarged, and the point in it that it turns about."""

Points = list[tuple[float, float]]


@dataclass(frozen=True)
class Look:
    """Colours of one presenter and of what stands behind, and what tells them apart."""

    skin: str
    hair: str
    coat: str
    collar: str
    wall: str
    floor: str
    iris: str
    lips: str
    long_hair: bool = False
    bun: bool = False
    beard: bool = False
    cap: str = ""
    prop: str = "planks"


LOOKS = {
    "orla": Look(
        "#e2b08f", "#7a3f26", "#2f6f5b", "#f0e6d2", "#4b6670", "#2c3c43", "#4b6b52", "#b3574d", long_hair=True, prop="shelf"
    ),
    "teo": Look(
        "#cf9c78", "#a9a49b", "#2b4a78", "#d8c9a8", "#7a6247", "#43362a", "#3f5c77", "#a2604f", beard=True, cap="#8c3b2e"
    ),
    "ines": Look("#b07c58", "#241c1b", "#b5532f", "#ece2cf", "#8c9a94", "#56625f", "#4a3322", "#9c4a40", bun=True, prop="sail"),
}


def _rgb(colour: str, factor: float = 1.0) -> tuple[int, ...]:
    return tuple(min(255, round(int(colour[i : i + 2], 16) * factor)) for i in (1, 3, 5))


def _smooth(points: Points) -> list[tuple[float, float]]:
    """A closed curve through ``points`` (Catmull and Rom), enlarged for drawing."""
    known = np.array(points, float)
    before, after, beyond = np.roll(known, 1, 0), np.roll(known, -1, 0), np.roll(known, -2, 0)
    t = np.linspace(0, 1, 10, endpoint=False)[:, None, None]
    curve = 0.5 * (
        2 * known
        + (after - before) * t
        + (2 * before - 5 * known + 4 * after - beyond) * t**2
        + (3 * known - before - 3 * after + beyond) * t**3
    )
    return [tuple(point) for point in (curve.transpose(1, 0, 2).reshape(-1, 2) * FINE)]


class Sheet:
    """A transparent picture to draw on in the measures of the finished one."""

    def __init__(self, size: tuple[int, int]) -> None:
        self.image = Image.new("RGBA", (size[0] * FINE, size[1] * FINE))
        self.draw = ImageDraw.Draw(self.image)

    def shape(self, points: Points, fill: tuple[int, ...]) -> None:
        self.draw.polygon(_smooth(points), fill=fill)

    def oval(self, x: float, y: float, rx: float, ry: float, fill: tuple[int, ...]) -> None:
        self.draw.ellipse([v * FINE for v in (x - rx, y - ry, x + rx, y + ry)], fill=fill)

    def soft(self, points: Points, fill: tuple[int, ...], blur: float) -> None:
        """A shape without a hard edge that only colours what is there already."""
        layer = Image.new("RGBA", self.image.size, (*fill[:3], 0))
        ImageDraw.Draw(layer).polygon(_smooth(points), fill=fill)
        layer = layer.filter(ImageFilter.GaussianBlur(blur * FINE))
        alpha = self.image.getchannel("A")
        self.image.alpha_composite(layer)
        self.image.putalpha(alpha)
        self.draw = ImageDraw.Draw(self.image)


@lru_cache(maxsize=8)
def _backdrop(voice: str) -> np.ndarray:
    """What is behind a presenter, out of focus; float32 (360, 640, 3)."""
    look = LOOKS[voice]
    width, height = SIZE
    image = Image.new("RGB", SIZE, look.wall)
    draw = ImageDraw.Draw(image)
    if look.prop == "planks":
        for x in range(0, width, 46):
            draw.rectangle((x, 0, x + 43, height), fill=_rgb(look.wall, 0.86 + 0.09 * ((x // 46 * 7) % 4)))
        draw.polygon([(400, 196), (660, 128), (660, 300), (430, 320)], fill=_rgb(look.floor, 1.55))
        for step in (0, 26, 52, 78):
            draw.line([(405 + step // 4, 214 + step), (660, 150 + step)], fill=_rgb(look.floor, 1.1), width=3)
        draw.ellipse((70, 40, 128, 98), fill=_rgb("#ffd9a0"))
    elif look.prop == "shelf":
        draw.rectangle((455, 24, 610, 190), fill=_rgb("#b9d3d6"))
        draw.rectangle((455, 120, 610, 190), fill=_rgb("#86a8ab"))
        draw.rectangle((528, 24, 536, 190), fill=_rgb(look.floor, 1.4))
        draw.rectangle((446, 186, 620, 196), fill=_rgb(look.floor, 1.5))
        for y in (66, 158):
            draw.rectangle((0, y, 176, y + 8), fill=_rgb(look.floor, 1.5))
            for number, x in enumerate(range(10, 164, 24)):
                tint = ("#a2553f", "#c9a35b", "#5f7f76", "#d8ccb4")[number % 4]
                draw.rectangle((x, y - 36 - number * 5 % 13, x + 17, y), fill=_rgb(tint, 0.9))
    else:
        draw.polygon([(455, -10), (640, 292), (430, 300)], fill=_rgb("#efe8d8"))
        for y in range(30, 290, 42):
            draw.line([(452 - y // 13, y), (470 + y // 2, y + 14)], fill=_rgb("#d3c8b1"), width=2)
        draw.line([(455, -10), (430, 300)], fill=_rgb(look.floor, 1.3), width=7)
        for y in (60, 84, 108):
            draw.arc((40, y, 150, y + 60), 0, 360, fill=_rgb("#c79f63"), width=9)
    draw.rectangle((0, 306, width, height), fill=look.floor)
    picture = np.asarray(image.filter(ImageFilter.GaussianBlur(4.5)), np.float32)
    across, down = np.meshgrid(np.linspace(-1, 1, width), np.linspace(-1, 1, height))
    light = 1.08 - 0.22 * np.hypot(across + 0.35, down + 0.3)
    return (picture * light[..., None]).astype(np.float32)


@lru_cache(maxsize=8)
def _shoulders(voice: str) -> np.ndarray:
    """Neck, shoulders and collar; premultiplied RGBA float32 of the size of the picture, enlarged."""
    look = LOOKS[voice]
    sheet = Sheet(SIZE)
    coat: Points = [(150, 380), (176, 322), (232, 288), (290, 270), (350, 270), (408, 288), (464, 322), (490, 380)]
    sheet.shape(coat, _rgb(look.coat))
    sheet.soft([(396, 280), (470, 310), (490, 380), (420, 380)], (*_rgb(look.coat, 0.55), 150), 12)
    sheet.soft([(196, 310), (250, 284), (262, 300), (212, 350)], (*_rgb(look.coat, 1.4), 90), 8)
    sheet.shape([(284, 214), (356, 214), (360, 276), (320, 304), (280, 276)], _rgb(look.skin, 0.86))
    sheet.soft([(284, 222), (356, 222), (352, 254), (320, 262), (288, 254)], (*_rgb(look.skin, 0.55), 170), 6)
    sheet.shape([(274, 266), (292, 268), (320, 300), (314, 322), (284, 300)], _rgb(look.collar))
    sheet.shape([(366, 266), (348, 268), (320, 300), (326, 322), (356, 300)], _rgb(look.collar, 0.92))
    return _array(sheet)


@lru_cache(maxsize=8)
def _back_hair(voice: str) -> np.ndarray:
    look = LOOKS[voice]
    sheet = Sheet(HEAD)
    if look.long_hair:
        sheet.shape(
            [(160, 30), (236, 62), (258, 150), (262, 240), (236, 286), (84, 286), (58, 240), (62, 150), (84, 62)],
            _rgb(look.hair, 0.72),
        )
    if look.bun:
        sheet.oval(160, 34, 36, 30, _rgb(look.hair, 1.1))
        sheet.shape([(160, 44), (230, 84), (236, 160), (214, 196), (106, 196), (84, 160), (90, 84)], _rgb(look.hair, 0.9))
    return _array(sheet)


@lru_cache(maxsize=8)
def _head(voice: str) -> Image.Image:
    """The head with everything that does not move by itself."""
    look = LOOKS[voice]
    sheet, skin = Sheet(HEAD), look.skin
    for x, inner in ((87, 91), (233, 229)):
        sheet.oval(x, 164, 13, 22, _rgb(skin, 0.88))
        sheet.oval(inner, 166, 7, 13, _rgb(skin, 0.74))
    # fmt: off
    face: Points = [(160, 62), (208, 76), (232, 126), (229, 184), (208, 232), (178, 258), (142, 258), (112, 232), (91, 184),
        (88, 126), (112, 76)]
    # fmt: on
    sheet.shape(face, _rgb(skin))
    sheet.soft([(206, 84), (240, 130), (232, 200), (196, 256), (214, 196), (218, 130)], (*_rgb(skin, 0.62), 150), 10)
    sheet.soft([(112, 96), (150, 82), (182, 92), (178, 118), (124, 122)], (*_rgb(skin, 1.22), 110), 10)
    for x in (116, 204):
        sheet.soft([(x, 176), (x + 18, 190), (x, 206), (x - 18, 190)], (*_rgb(look.lips), 64), 8)
    if look.beard:
        # fmt: off
        jaw: Points = [(89, 158), (104, 196), (132, 208), (160, 203), (188, 208), (216, 196), (231, 158), (226, 210),
            (204, 250), (160, 278), (116, 250), (94, 210)]
        # fmt: on
        sheet.shape(jaw, _rgb(look.hair))
        sheet.soft([(196, 200), (226, 180), (214, 244), (170, 276), (186, 240)], (*_rgb(look.hair, 0.62), 150), 8)
        sheet.soft([(104, 206), (126, 222), (122, 246), (106, 230)], (*_rgb(look.hair, 1.25), 110), 6)
    else:
        sheet.soft([(136, 238), (184, 238), (160, 252)], (*_rgb(skin, 0.72), 120), 5)
    if look.long_hair:
        # fmt: off
        sheet.shape([(160, 40), (110, 52), (76, 104), (70, 176), (84, 196), (96, 142), (128, 100), (180, 82), (214, 116),
            (226, 160), (236, 196), (250, 176), (244, 100), (206, 52)], _rgb(look.hair))
        # fmt: on
        sheet.soft([(112, 64), (146, 52), (140, 82), (98, 118)], (*_rgb(look.hair, 1.6), 120), 6)
        sheet.soft([(214, 70), (246, 120), (244, 180), (228, 140)], (*_rgb(look.hair, 0.55), 140), 6)
    if look.bun:
        # fmt: off
        sheet.shape([(160, 46), (108, 60), (82, 116), (86, 150), (110, 104), (160, 90), (210, 104), (234, 150), (238, 116),
            (212, 60)], _rgb(look.hair))
        # fmt: on
        sheet.soft([(120, 66), (152, 56), (150, 78), (112, 92)], (*_rgb("#6a5a56"), 110), 6)
    if look.cap:
        sheet.shape([(160, 18), (220, 34), (244, 84), (240, 112), (80, 112), (76, 84), (100, 34)], _rgb(look.cap))
        sheet.shape([(76, 92), (160, 82), (244, 92), (247, 118), (160, 108), (73, 118)], _rgb(look.cap, 0.84))
        sheet.soft([(206, 30), (246, 80), (240, 110), (206, 100)], (*_rgb(look.cap, 0.55), 140), 9)
        for x in range(88, 240, 12):
            sheet.draw.line([(x * FINE, 92 * FINE), ((x + 1) * FINE, 112 * FINE)], fill=_rgb(look.cap, 0.7), width=3)
    return sheet.image


@dataclass(frozen=True)
class Face:
    """How a face is held in one frame.

    ``mouth`` is how far it is open and ``wide`` how far its corners are apart, ``lid`` how far the eyes are shut and
    ``brow`` how far the brows are raised, each from 0 to 1. ``turn`` (to the right) and ``nod`` (down) are in pixels by
    which the features wander over the head, ``tilt`` in degrees, ``x`` and ``y`` in pixels by which the head is moved,
    ``gaze`` from -1 (left) to 1.
    """

    mouth: float = 0.0
    wide: float = 0.5
    lid: float = 0.0
    brow: float = 0.0
    turn: float = 0.0
    nod: float = 0.0
    tilt: float = 0.0
    x: float = 0.0
    y: float = 0.0
    gaze: float = 0.0


def _features(voice: str, face: Face) -> Image.Image:
    """The head with eyes, brows, nose and mouth as they are in one frame."""
    look = LOOKS[voice]
    sheet = Sheet((1, 1))
    sheet.image = _head(voice).copy()
    sheet.draw = ImageDraw.Draw(sheet.image)
    dx, dy, skin = face.turn, face.nod, look.skin
    brow = _rgb(look.hair if look.hair != "#a9a49b" else "#7d786f", 0.75)
    for side in (-1, 1):
        x, y = 160 + side * 34 + dx, 158 + dy
        sheet.oval(x, y - 1, 20, 14, _rgb(skin, 0.9))
        opening = 9.5 * (1 - face.lid)
        if opening > 1.5:
            # fmt: off
            white: Points = [(x - 16, y + 1), (x - 7, y - opening), (x + 7, y - opening), (x + 16, y + 1),
                (x + 6, y + opening * 0.75), (x - 6, y + opening * 0.75)]
            # fmt: on
            corner = (round((x - 20) * FINE), round((y - 16) * FINE))
            mask = Image.new("L", (40 * FINE, 32 * FINE))
            ImageDraw.Draw(mask).polygon([(a - corner[0], b - corner[1]) for a, b in _smooth(white)], fill=255)
            eye = Sheet((40, 32))
            eye.image.paste(_rgb("#f5f0e8"), (0, 0, *eye.image.size))
            look_x, look_y = x - corner[0] / FINE + 4.5 * face.gaze, y - corner[1] / FINE
            eye.oval(look_x, look_y, 8.2, 8.2, _rgb(look.iris))
            eye.oval(look_x, look_y, 4.2, 4.2, (24, 18, 16))
            eye.oval(look_x - 2.6, look_y - 3, 1.9, 1.9, (255, 255, 255))
            sheet.image.paste(eye.image, corner, mask)
        # fmt: off
        lid: Points = [(x - 18, y + 2), (x - 8, y - opening - 1.5), (x + 8, y - opening - 1.5), (x + 18, y + 2),
            (x + 8, y - opening + 1.2), (x - 8, y - opening + 1.2)]
        # fmt: on
        sheet.shape(lid, _rgb(skin, 0.36))
        top = y - 24 - 5 * face.brow
        inner, outer = x - side * 17, x + side * 22
        sheet.shape([(inner, top + 4), (x, top - 4), (outer, top + 5), (x, top + 1.5)], brow)
    nose_x, nose_y = 160 + 1.5 * dx, 196 + 1.2 * dy
    # fmt: off
    sheet.shape([(nose_x - 5, 168 + dy), (nose_x + 9, nose_y - 8), (nose_x + 13, nose_y + 2), (nose_x, nose_y + 6),
        (nose_x - 13, nose_y + 2), (nose_x - 8, nose_y - 6)], _rgb(skin, 0.9))
    # fmt: on
    sheet.oval(nose_x - 2, nose_y - 5, 6, 6, _rgb(skin, 1.07))
    for side in (-1, 1):
        sheet.oval(nose_x + side * 7, nose_y + 3, 3, 2, _rgb(skin, 0.55))
    _mouth(sheet, look, face, 160 + 1.2 * dx, 223 + 1.1 * dy)
    return sheet.image


def _mouth(sheet: Sheet, look: Look, face: Face, x: float, y: float) -> None:
    half = 21 + 7 * face.wide - 5 * face.mouth
    gap = 12 * face.mouth
    up = 4.5 * (1 - face.mouth)
    # fmt: off
    lips: Points = [(x - half, y - up), (x - half * 0.4, y - 5 - gap * 0.55), (x, y - 3.5 - gap * 0.5),
        (x + half * 0.4, y - 5 - gap * 0.55), (x + half, y - up), (x + half * 0.45, y + 6 + gap),
        (x - half * 0.45, y + 6 + gap)]
    # fmt: on
    if look.beard:
        # fmt: off
        sheet.shape([(x - 34, y + 2), (x - 22, y - 12), (x, y - 14), (x + 22, y - 12), (x + 34, y + 2), (x + 14, y - 4),
            (x - 14, y - 4)], _rgb(look.hair, 1.12))
        # fmt: on
    sheet.shape(lips, _rgb(look.lips))
    inner = half * 0.82
    # fmt: off
    hole: Points = [(x - inner, y - up * 0.8), (x - inner * 0.4, y - 0.8 - gap * 0.5), (x + inner * 0.4, y - 0.8 - gap * 0.5),
        (x + inner, y - up * 0.8), (x + inner * 0.45, y + 0.8 + gap * 0.85), (x - inner * 0.45, y + 0.8 + gap * 0.85)]
    # fmt: on
    sheet.shape(hole, _rgb(look.lips, 0.32))
    if gap > 3:
        # fmt: off
        sheet.shape([(x - inner * 0.55, y - gap * 0.38), (x + inner * 0.55, y - gap * 0.38),
            (x + inner * 0.45, y - gap * 0.05), (x - inner * 0.45, y - gap * 0.05)], (240, 234, 224))
        # fmt: on
    if gap > 5:
        sheet.oval(x, y + gap * 0.62, inner * 0.42, gap * 0.22, _rgb(look.lips, 0.85))


def _array(sheet: Sheet | Image.Image) -> np.ndarray:
    image = sheet.image if isinstance(sheet, Sheet) else sheet
    """Its pixels with the colours multiplied by how opaque they are, uint8 (height, width, 4)."""
    return np.asarray(image.convert("RGBa"))


def _onto(ground: np.ndarray, layer: np.ndarray, placed: np.ndarray) -> None:
    """Put an enlarged, premultiplied layer on the ground by an affine map (2 × 3, from the layer to the picture)."""
    height, width = layer.shape[:2]
    corners = placed @ np.array([[0, width, 0, width], [0, 0, height, height], [1, 1, 1, 1]])
    left, top = np.clip(np.floor(corners.min(axis=1)), 0, None).astype(int)
    right, bottom = np.minimum(np.ceil(corners.max(axis=1)), SIZE).astype(int)
    inside = placed - np.array([[0, 0, left], [0, 0, top]])
    moved = cv2.warpAffine(layer, inside, (int(right - left), int(bottom - top)), flags=cv2.INTER_AREA)
    part = ground[top:bottom, left:right]
    part *= 1 - moved[..., 3:].astype(np.float32) / 255
    part += moved[..., :3]


def picture(voice: str, face: Face) -> np.ndarray:
    """One frame, uint8 of shape (360, 640, 3)."""
    ground = _backdrop(voice).copy()
    small = 1 / FINE
    turned = cv2.getRotationMatrix2D((NECK[0] * FINE, NECK[1] * FINE), -face.tilt, small)
    turned[:, 2] += np.array([320 + face.x, 274 + face.y]) - np.array(NECK) * FINE
    _onto(ground, _back_hair(voice), turned)
    _onto(ground, _shoulders(voice), np.array([[small, 0, face.x * 0.35], [0, small, 22 + face.y * 0.5]]))
    _onto(ground, _array(_features(voice, face)), turned)
    return np.clip(ground, 0, 255).astype(np.uint8)


def _wander(rng: np.random.Generator, count: int, seconds: float) -> np.ndarray:
    """Slow, aimless motion of about unit size."""
    slow = gaussian_filter1d(rng.standard_normal(count + 400), seconds * FPS)[200 : 200 + count]
    return slow / max(1e-9, slow.std())


def performance(voice: str, samples: np.ndarray, rate: int) -> Iterator[Face]:
    """How a presenter holds the face in each frame while speaking ``samples`` (float mono)."""
    rng = np.random.default_rng(sum(map(ord, voice)))
    hop = rate // FPS
    count = len(samples) // hop
    blocks = samples[: count * hop].reshape(count, hop)
    energy = np.sqrt((blocks**2).mean(axis=1))
    loud = np.percentile(energy[energy > energy.max() * 0.05], 85) if energy.max() > 0 else 1.0
    level = np.clip(energy / loud, 0, 1.3) ** 0.7
    mouth = np.clip(gaussian_filter1d(level, 0.9) * 0.95, 0, 1)
    crossings = (np.diff(np.signbit(blocks), axis=1) != 0).mean(axis=1)
    wide = np.clip(gaussian_filter1d(crossings * 6, 1.5), 0, 1)
    speaking = gaussian_filter1d((level > 0.2).astype(float), 12)
    lid = np.zeros(count)
    at = 30
    while at < count - 6:
        lid[at : at + 5] = (0.45, 1, 1, 0.6, 0.2)
        at += int(rng.integers(55, 130))
    beat = gaussian_filter1d(level, 5) - gaussian_filter1d(level, 30)
    turn, sway, lean, glance = (_wander(rng, count, seconds) for seconds in (1.1, 1.6, 2.2, 0.8))
    for i in range(count):
        lively = 0.45 + 0.55 * speaking[i]
        yield Face(
            mouth=float(mouth[i]),
            wide=float(wide[i]),
            lid=float(lid[i]),
            brow=float(np.clip(0.3 * speaking[i] + 1.2 * beat[i], 0, 1)),
            turn=float(3.2 * turn[i] * lively),
            nod=float(2.0 * sway[i] * lively + 7 * beat[i]),
            tilt=float(1.5 * lean[i] * lively),
            x=float(3.0 * lean[i] + 1.5 * turn[i]),
            y=float(1.2 * sway[i] + 5 * beat[i]),
            gaze=float(np.clip(0.35 * glance[i], -0.8, 0.8)),
        )


def frames(voice: str, samples: np.ndarray, rate: int) -> Iterator[np.ndarray]:
    """The pictures of a presenter speaking ``samples``."""
    for face in performance(voice, samples, rate):
        yield picture(voice, face)
