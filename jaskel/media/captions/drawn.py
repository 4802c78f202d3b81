"""Captions drawn: one renderer for the monitor and for films, so that both show the same pixels."""

from __future__ import annotations

import unicodedata
from collections.abc import Iterator, Sequence
from dataclasses import dataclass
from functools import lru_cache
from itertools import pairwise

import av
import numpy as np
from PIL import Image, ImageDraw, ImageFilter

from jaskel.core.captions.look import Look
from jaskel.core.captions.screens import LARGER, Moment, Screen, Shown
from jaskel.core.timebase import Ticks
from jaskel.media.patch import Patch, copied, planes_of
from jaskel.media.typefaces import Font, Typefaces

LINE = 1.3
"""From one line to the next, in sizes of the letters."""

PADDING = 0.32, 0.1
"""How far a box reaches beyond its words to the sides, and above and below the line, in sizes of the letters."""


@dataclass(frozen=True)
class Safe:
    """Margins in per cent of the picture in which nothing stands: at each side, above and below."""

    sides: float
    top: float
    bottom: float


def safe_area(width: int, height: int) -> Safe:
    """The safe area of a picture of a shape.

    Wide ones by EBU R 95 (graphics safe area, 5 %); upright ones are shown with controls over their lower part.
    """
    if width >= height * 1.2:
        return Safe(5, 5, 5)
    return Safe(5, 6, 8) if width >= height * 0.8 else Safe(6, 8, 15)


@dataclass(frozen=True)
class Drawing:
    """A screen as it is drawn: its pixels (height, width, 4; straight alpha), and where their corner stands; all even."""

    x: int
    y: int
    pixels: np.ndarray

    @property
    def size(self) -> tuple[int, int]:
        """Width and height."""
        return self.pixels.shape[1], self.pixels.shape[0]

    def over(self, image: Image.Image) -> Image.Image:
        """A picture with this over it."""
        out = image.convert("RGBA")
        out.alpha_composite(Image.fromarray(self.pixels, "RGBA"), (self.x, self.y))
        return out.convert("RGB")


@dataclass(frozen=True)
class _Word:
    """A word in its line: where it begins and the base line it stands on, its width, and the runs it is set in."""

    x: float
    baseline: float
    width: float
    runs: tuple[tuple[str, Font], ...]
    rtl: bool


@dataclass(frozen=True)
class _Layout:
    """Where everything stands on the picture: words line by line, the boxes of lines, and the size of the letters."""

    words: tuple[tuple[_Word, ...], ...]
    boxes: tuple[tuple[float, float, float, float], ...]
    size: float


class Overlay:
    """Captions over the pictures of a film, which are asked for in order."""

    def __init__(self, moments: Sequence[Moment], renderer: Renderer) -> None:
        self.moments, self._next = moments, 0
        self._renderer = renderer
        self._screen: Screen | None = None
        self._patch: Patch | None = None

    @property
    def ranges(self) -> list[tuple[Ticks, Ticks]]:
        """Where in the programme something of them is seen; the last moment has nothing to be seen."""
        return [(at, end) for (at, screen), (end, _) in pairwise(self.moments) if screen]

    def anew(self) -> Overlay:
        """The same from anywhere on."""
        return Overlay(self.moments, self._renderer)

    def over(self, frame: av.VideoFrame, at: Ticks) -> av.VideoFrame:
        """A picture (yuv420p, of the renderer's size) with what is seen of the captions at a place of the programme."""
        screen = self._screen
        while self._next < len(self.moments) and self.moments[self._next][0] <= at:
            screen = self.moments[self._next][1]
            self._next += 1
        if screen is not self._screen:
            painted = self._renderer.paint(screen) if screen else None
            self._screen, self._patch = screen, None
            if screen and painted:
                self._patch = Patch(painted.left, painted.top, painted.planes * np.float32(screen.opaque))
        if self._patch is None:
            return frame
        shown = copied(frame)
        self._patch.lay(planes_of(shown))
        return shown


class Renderer:
    """Draws captions for pictures of one size."""

    def __init__(self, width: int, height: int, faces: Typefaces | None = None) -> None:
        self.width, self.height = width, height
        self._faces = faces or Typefaces()
        self._layout = lru_cache(64)(self._laid_out)
        self._boxes = lru_cache(64)(self._boxed)
        self._ink = lru_cache(1024)(_ink)
        self._enlarged = lru_cache(256)(self._grown)

    def place(self, screen: Screen) -> tuple[int, int, int, int] | None:
        """Where a screen is drawn: left, top, width and height; None where nothing of it is seen."""
        layout = self._layout_of(screen)
        if not layout.boxes:
            return None
        look, size = screen.look, layout.size
        reach = size * (0.4 + (look.outline + look.shadow * 2) / 100)
        left = max(0, int(min(box[0] for box in layout.boxes) - reach) // 2 * 2)
        top = max(0, int(min(box[1] for box in layout.boxes) - reach) // 2 * 2)
        right = min(self.width, int(max(box[2] for box in layout.boxes) + reach) // 2 * 2 + 2)
        bottom = min(self.height, int(max(box[3] for box in layout.boxes) + reach) // 2 * 2 + 2)
        return left, top, (right - left) // 2 * 2, (bottom - top) // 2 * 2

    def draw(self, screen: Screen) -> Drawing | None:
        """A screen drawn; None where nothing of it is seen."""
        painted = self.paint(screen)
        return Drawing(painted.left, painted.top, painted.pixels(screen.opaque)) if painted else None

    def paint(self, screen: Screen) -> _Canvas | None:
        """The same before it is put into whole numbers, and as if the screen were opaque."""
        place = self.place(screen)
        if place is None:
            return None
        layout, look = self._layout_of(screen), screen.look
        seen = tuple(any(word.opaque > 0 for word in line) for line in screen.lines)
        canvas = self._boxes(layout, look, seen, place).copy()
        words = [(self._enlarged(word, look, shown.larger), shown) for word, shown in _groups(layout, screen) if shown.opaque]
        shadow, outline = (
            look.shadow / 100 * layout.size,
            max(1, round(look.outline / 100 * layout.size)) if look.outline else 0,
        )
        if shadow:
            for word, shown in words:
                canvas.lay(self._inked(word, outline, shadow), word, look.shadow_colour, shown.opaque)
        if outline:
            for word, shown in words:
                canvas.lay(self._inked(word, outline), word, look.outline_colour, shown.opaque)
        for word, shown in words:
            canvas.lay(self._inked(word), word, _colour(look, shown), shown.opaque)
        return canvas

    def _inked(self, word: _Word, stroke: int = 0, shadow: float = 0.0) -> _Ink:
        """The letters of a word, perhaps with a ``stroke`` around them, or their shadow, so far below them."""
        x, y = (round(4 * (each % 1)) / 4 for each in (word.x, word.baseline))
        return self._ink(word.runs, word.rtl, x, y, stroke, round(shadow, 2))

    def _layout_of(self, screen: Screen) -> _Layout:
        return self._layout(tuple(tuple(word.text for word in line) for line in screen.lines), screen.spaced, screen.look)

    def _boxed(self, layout: _Layout, look: Look, seen: tuple[bool, ...], place: tuple[int, int, int, int]) -> _Canvas:
        """What is behind the words, of which only some lines are seen."""
        canvas = _Canvas(*place)
        boxes = [box for box, is_seen in zip(layout.boxes, seen, strict=True) if is_seen] if look.box != "none" else []
        if look.box == "all" and boxes:
            lefts, tops, rights, bottoms = zip(*layout.boxes, strict=True)
            boxes = [(min(lefts), min(tops), max(rights), max(bottoms))]
        for box in boxes:
            canvas.box(box, look.rounding / 100 * layout.size, look.box_colour)
        return canvas

    def _laid_out(self, lines: tuple[tuple[str, ...], ...], spaced: tuple[tuple[bool, ...], ...], look: Look) -> _Layout:
        safe = safe_area(self.width, self.height)
        wide = self.width * (1 - safe.sides / 50)
        high = self.height * (1 - (safe.top + safe.bottom) / 100)
        size = look.size / 100 * min(self.width, self.height)
        rows = self._rows(lines, spaced, look, size)
        pad = PADDING[0] if look.box != "none" else 0.0
        needed = max((width for _, width in rows), default=0) + 2 * pad * size
        fit = min(1.0, wide / needed if needed else 1.0, high / (len(rows) * LINE * size) if rows else 1.0)
        if fit < 1:  # small letters can be read with some effort, letters beyond the edge cannot
            size *= fit
            rows = self._rows(lines, spaced, look, size)
        return self._placed(rows, look, size, (self.width * safe.sides / 100, self.height * safe.top / 100, wide, high), pad)

    def _placed(
        self, rows: Sequence[tuple[list[_Word], float]], look: Look, size: float, area: tuple[float, float, float, float],
        pad: float,
    ) -> _Layout:  # fmt: skip
        """Rows at their place within the safe area (left, top, width, height)."""
        left, top, wide, high = area
        block, tall = max((width for _, width in rows), default=0) + 2 * pad * size, len(rows) * LINE * size
        x = left + {"left": 0.0, "centre": (wide - block) / 2, "right": wide - block}[look.across]
        y = top + {"top": 0.0, "middle": (high - tall) / 2, "bottom": high - tall}[look.down]
        x = min(max(x + look.x / 100 * self.width, left), max(left, left + wide - block))
        y = min(max(y + look.y / 100 * self.height, top), max(top, top + high - tall))
        words, boxes = [], []
        for number, (row, width) in enumerate(rows):
            free = block - 2 * pad * size - width
            begin = x + pad * size + {"left": 0.0, "centre": free / 2, "right": free}[look.across]
            above = y + number * LINE * size
            baseline = above + LINE * size / 2 + 0.35 * size
            words.append(tuple(_Word(begin + word.x, baseline, word.width, word.runs, word.rtl) for word in row))
            over = -PADDING[1] * size / 2 if look.box == "none" else 0.0
            boxes.append((begin - pad * size, above - over, begin + width + pad * size, above + LINE * size + over))
        return _Layout(tuple(words), tuple(boxes), size)

    def _rows(
        self, lines: tuple[tuple[str, ...], ...], spaced: tuple[tuple[bool, ...], ...], look: Look, size: float
    ) -> list[tuple[list[_Word], float]]:
        """The words of each line, as they stand from its left, in the order they are said; and its width."""
        base = next((rtl for line in lines for text in line if (rtl := _direction(text)) is not None), False)
        rows = []
        for line, spaces in zip(lines, spaced, strict=True):
            set_in = [tuple(self._faces.runs(_cased(text, look), look.font, size, look.weight)) for text in line]
            widths = [sum(font.getlength(text) for text, font in runs) for runs in set_in]
            space = self._faces.runs(" ", look.font, size, look.weight)[0][1].getlength(" ")
            directions = [base if (rtl := _direction(text)) is None else rtl for text in line]
            x, places = 0.0, [0.0] * len(line)
            order = _visual(directions, base)
            for position, number in enumerate(order):
                later = max(number, order[position - 1]) if position else 0
                if position and spaces[later]:
                    x += space
                places[number] = x
                x += widths[number]
            row = [
                _Word(at, 0.0, width, runs, rtl)
                for at, width, runs, rtl in zip(places, widths, set_in, directions, strict=True)
            ]
            rows.append((row, x))
        return rows

    def _grown(self, word: _Word, look: Look, larger: float) -> _Word:
        """A word grown about its middle."""
        if not larger:
            return word
        grown = 1 + LARGER * larger
        text = "".join(text for text, _ in word.runs)
        runs = tuple(self._faces.runs(text, look.font, word.runs[0][1].size * grown, look.weight))
        width = sum(font.getlength(part) for part, font in runs)
        return _Word(word.x - (width - word.width) / 2, word.baseline, width, runs, word.rtl)


@dataclass(frozen=True)
class _Ink:
    """How much each pixel of a word is covered, 0 to 1, and where the corner stands from the beginning of its base line."""

    cover: np.ndarray
    left: int
    top: int


def _ink(runs: tuple[tuple[str, Font], ...], rtl: bool, x: float, y: float, stroke: int, shadow: float) -> _Ink:
    """A word drawn with its beginning at a part of a pixel; or its ``shadow``, so far below it and blurred by half of that."""
    ascent, descent = (max(font.getmetrics()[side] for _, font in runs) for side in (0, 1))
    pad = stroke + 2 + round(2 * shadow)
    width = round(sum(font.getlength(text) for text, font in runs)) + 2 * pad + ascent // 2
    height = ascent + descent + 2 * pad + round(shadow)
    mask = Image.new("L", (width, height))
    draw = ImageDraw.Draw(mask)
    at = pad + x
    for text, font in reversed(runs) if rtl else runs:
        draw.text(
            (at, pad + ascent + y + shadow), text, fill=255, font=font, anchor="ls", stroke_width=stroke,
            direction="rtl" if rtl else "ltr",
        )  # fmt: skip
        at += font.getlength(text)
    if shadow:
        mask = mask.filter(ImageFilter.GaussianBlur(shadow / 2))
    left, top, right, bottom = mask.getbbox() or (0, 0, 1, 1)
    cover = np.asarray(mask.crop((left, top, right, bottom)), np.float32) / np.float32(255)
    return _Ink(cover, left - pad, top - pad - ascent)


class _Canvas:
    """Colours laid over one another within a part of the picture: red, green, blue and how opaque, premultiplied."""

    def __init__(self, left: int, top: int, width: int, height: int) -> None:
        self.left, self.top, self.width, self.height = left, top, width, height
        self.planes = np.zeros((4, height, width), np.float32)

    def copy(self) -> _Canvas:
        """Another one with the same on it."""
        new = _Canvas.__new__(_Canvas)
        new.left, new.top, new.width, new.height = self.left, self.top, self.width, self.height
        new.planes = self.planes.copy()
        return new

    def lay(self, ink: _Ink, word: _Word, colour: str, opaque: float) -> None:
        """Lay a word over what is there."""
        left = int(word.x // 1) + ink.left - self.left
        top = int(word.baseline // 1) + ink.top - self.top
        height, width = ink.cover.shape
        rows = slice(max(0, -top), min(height, self.height - top))
        columns = slice(max(0, -left), min(width, self.width - left))
        if rows.start < rows.stop and columns.start < columns.stop:
            self._cover(top + rows.start, left + columns.start, ink.cover[rows, columns], colour, opaque)

    def box(self, box: tuple[float, float, float, float], rounding: float, colour: str) -> None:
        """Lay a box with round corners over what is there, smoothed by drawing it four times as large."""
        scale = 4
        mask = Image.new("L", (self.width * scale, self.height * scale))
        left, top, right, bottom = ((each - by) * scale for each, by in zip(box, (self.left, self.top) * 2, strict=True))
        ImageDraw.Draw(mask).rounded_rectangle((left, top, right, bottom), min(rounding * scale, (bottom - top) / 2), fill=255)
        small = mask.resize((self.width, self.height), Image.Resampling.BOX)
        self._cover(0, 0, np.asarray(small, np.float32) / np.float32(255), colour, 1.0)

    def _cover(self, top: int, left: int, cover: np.ndarray, colour: str, opaque: float) -> None:
        """Lay a colour over a part of it, as opaque as cover and colour have it (Porter and Duff, "over")."""
        red, green, blue, through = _rgba(colour)
        cover = cover * np.float32(through * opaque)
        part = self.planes[:, top : top + cover.shape[0], left : left + cover.shape[1]]
        part += cover * (np.array((red, green, blue, 1.0), np.float32)[:, None, None] - part)

    def pixels(self, opaque: float) -> np.ndarray:
        """What was painted, in whole numbers and with straight alpha."""
        alpha = self.planes[3]
        painted = np.empty((self.height, self.width, 4), np.uint8)
        scale = 255 / np.maximum(alpha, 1e-6)
        for number, plane in enumerate(self.planes[:3]):
            painted[:, :, number] = np.minimum(plane * scale + 0.5, 255)
        painted[:, :, 3] = alpha * (255 * opaque) + 0.5
        return painted


def _groups(layout: _Layout, screen: Screen) -> Iterator[tuple[_Word, Shown]]:
    for words, line in zip(layout.words, screen.lines, strict=True):
        yield from zip(words, line, strict=True)


def _cased(text: str, look: Look) -> str:
    return text.upper() if look.case == "capitals" else text


def _rgba(colour: str) -> tuple[float, float, float, float]:
    """A colour of :data:`jaskel.core.captions.look.COLOUR`, each part from 0 to 1."""
    parts = [int(colour[at : at + 2], 16) / 255 for at in range(1, len(colour), 2)]
    return parts[0], parts[1], parts[2], parts[3] if len(parts) > 3 else 1.0


def _colour(look: Look, shown: Shown) -> str:
    """The colour of a word on its way from the colour of the look to its accent."""
    if not shown.accent:
        return look.colour
    mixed = [a + (b - a) * shown.accent for a, b in zip(_rgba(look.colour), _rgba(look.accent), strict=True)]
    return "#" + "".join(f"{round(255 * part):02x}" for part in mixed)


def _direction(text: str) -> bool | None:
    """Whether a word is written from right to left, by its first strong letter; None where it has none."""
    for letter in text:
        if (kind := unicodedata.bidirectional(letter)) in ("R", "AL"):
            return True
        if kind == "L":
            return False
    return None


def _visual(directions: Sequence[bool], base: bool) -> list[int]:
    """The words of a line by number, from left to right: rule L2 of the Unicode bidirectional algorithm, word by word."""
    order: list[int] = []
    at = 0
    while at < len(directions):
        end = at
        while end < len(directions) and directions[end] == directions[at]:
            end += 1
        run = [*range(at, end)]
        run = run[::-1] if directions[at] else run
        order = [*run, *order] if base else [*order, *run]
        at = end
    return order
