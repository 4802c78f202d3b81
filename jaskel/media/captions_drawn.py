"""Captions drawn: one renderer for the monitor and for films, so that both show the same pixels."""

from __future__ import annotations

import unicodedata
from collections.abc import Callable, Iterator, Sequence
from dataclasses import dataclass
from functools import lru_cache

import av
import numpy as np
from PIL import Image, ImageDraw, ImageFilter

from jaskel.core.captions.look import Look
from jaskel.core.captions.screens import LARGER, Moment, Screen, Shown
from jaskel.core.timebase import Ticks
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
        self._moments, self._next = moments, 0
        self._renderer = renderer
        self._screen: Screen | None = None
        self._patch: _Patch | None = None

    def over(self, frame: av.VideoFrame, at: Ticks) -> av.VideoFrame:
        """A picture (yuv420p, of the renderer's size) with what is seen of the captions at a place of the programme."""
        screen = self._screen
        while self._next < len(self._moments) and self._moments[self._next][0] <= at:
            screen = self._moments[self._next][1]
            self._next += 1
        if screen is not self._screen:
            drawing = self._renderer.draw(screen) if screen else None
            self._screen, self._patch = screen, _Patch(drawing) if drawing else None
        if self._patch is None:
            return frame
        planes = frame.to_ndarray()
        self._patch.lay(planes, frame.width, frame.height)
        return av.VideoFrame.from_ndarray(planes, "yuv420p")


class _Patch:
    """A drawing as it is laid over the planes of a picture: its parts, premultiplied, and how far the picture shows through."""

    def __init__(self, drawing: Drawing) -> None:
        opaque = drawing.pixels[:, :, 3].astype(np.float32) / 255
        colours = np.ascontiguousarray(drawing.pixels[:, :, :3])
        parts = av.VideoFrame.from_ndarray(colours, "rgb24").reformat(format="yuv444p").to_ndarray().astype(np.float32)
        width, height = drawing.size
        self._x, self._y, self._width, self._height = drawing.x, drawing.y, width, height
        self._bright, self._through = parts[0] * opaque + 0.5, 1 - opaque
        self._colours = [_halved(part * opaque) + 0.5 for part in parts[1:]]
        self._colours_through = 1 - _halved(opaque)

    def lay(self, planes: np.ndarray, width: int, height: int) -> None:
        """Lay it over the planes of a picture of a size, as :meth:`av.VideoFrame.to_ndarray` gives them."""
        bright = planes[self._y : self._y + self._height, self._x : self._x + self._width]
        bright[:] = bright * self._through + self._bright
        colours = planes[height:].reshape(2, height // 2, width // 2)
        for plane, colour in zip(colours, self._colours, strict=True):
            part = plane[self._y // 2 : (self._y + self._height) // 2, self._x // 2 : (self._x + self._width) // 2]
            part[:] = part * self._colours_through + colour


def _halved(plane: np.ndarray) -> np.ndarray:
    """A plane at half its size each way."""
    height, width = plane.shape
    return plane.reshape(height // 2, 2, width // 2, 2).mean(axis=(1, 3))


Enlarged = Callable[[_Word, Look, float], _Word]


class Renderer:
    """Draws captions for pictures of one size."""

    def __init__(self, width: int, height: int, faces: Typefaces | None = None) -> None:
        self.width, self.height = width, height
        self._faces = faces or Typefaces()
        self._layout = lru_cache(64)(self._laid_out)

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
        place = self.place(screen)
        if place is None:
            return None
        left, top, width, height = place
        layout, look = self._layout_of(screen), screen.look
        size = layout.size
        canvas = _Canvas(width, height, left, top)
        if look.box != "none":
            self._boxes(canvas, layout, screen)
        groups = [*_groups(layout, screen)]
        shadow, outline = look.shadow / 100 * size, max(1, round(look.outline / 100 * size)) if look.outline else 0
        if shadow:
            mask = canvas.letters(groups, self._enlarged, look, outline, down=shadow)
            canvas.lay(mask.filter(ImageFilter.GaussianBlur(shadow / 2)), look.shadow_colour)
        if outline:
            canvas.lay(canvas.letters(groups, self._enlarged, look, outline), look.outline_colour)
        for colour in dict.fromkeys(_colour(look, shown) for _, shown in groups):
            same = [(word, shown) for word, shown in groups if _colour(look, shown) == colour]
            canvas.lay(canvas.letters(same, self._enlarged, look, 0), colour)
        return Drawing(left, top, canvas.pixels(screen.opaque))

    def _layout_of(self, screen: Screen) -> _Layout:
        return self._layout(tuple(tuple(word.text for word in line) for line in screen.lines), screen.spaced, screen.look)

    def _boxes(self, canvas: _Canvas, layout: _Layout, screen: Screen) -> None:
        look = screen.look
        seen = [any(word.opaque > 0 for word in line) for line in screen.lines]
        boxes = [box for box, is_seen in zip(layout.boxes, seen, strict=True) if is_seen]
        if look.box == "all" and boxes:
            lefts, tops, rights, bottoms = zip(*layout.boxes, strict=True)
            boxes = [(min(lefts), min(tops), max(rights), max(bottoms))]
        for box in boxes:
            canvas.lay(canvas.box(box, look.rounding / 100 * layout.size), look.box_colour)

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

    def _enlarged(self, word: _Word, look: Look, larger: float) -> _Word:
        """A word grown about its middle."""
        grown = 1 + LARGER * larger
        text = "".join(text for text, _ in word.runs)
        runs = tuple(self._faces.runs(text, look.font, word.runs[0][1].size * grown, look.weight))
        width = sum(font.getlength(part) for part, font in runs)
        return _Word(word.x - (width - word.width) / 2, word.baseline, width, runs, word.rtl)


class _Canvas:
    """Colours laid over one another within a part of the picture; premultiplied while it is painted."""

    def __init__(self, width: int, height: int, left: int, top: int) -> None:
        self.width, self.height, self.left, self.top = width, height, left, top
        self._planes = np.zeros((4, height, width), np.float32)

    def letters(
        self, words: Sequence[tuple[_Word, Shown]], enlarged: Enlarged, look: Look, stroke: int, down: float = 0.0
    ) -> Image.Image:
        """A mask of words, each as opaque as it is, perhaps with a ``stroke`` around it, moved ``down``."""
        mask = Image.new("L", (self.width, self.height))
        draw = ImageDraw.Draw(mask)
        for word, shown in words:
            if shown.opaque <= 0:
                continue
            seen = enlarged(word, look, shown.larger) if shown.larger else word
            x = seen.x - self.left
            for text, font in reversed(seen.runs) if seen.rtl else seen.runs:
                draw.text(
                    (x, seen.baseline - self.top + down), text, fill=round(255 * shown.opaque), font=font, anchor="ls",
                    stroke_width=stroke, direction="rtl" if seen.rtl else "ltr",
                )  # fmt: skip
                x += font.getlength(text)
        return mask

    def box(self, box: tuple[float, float, float, float], rounding: float) -> Image.Image:
        """A mask of a box with round corners, smoothed by drawing it four times as large."""
        scale = 4
        mask = Image.new("L", (self.width * scale, self.height * scale))
        left, top, right, bottom = ((each - by) * scale for each, by in zip(box, (self.left, self.top) * 2, strict=True))
        ImageDraw.Draw(mask).rounded_rectangle((left, top, right, bottom), min(rounding * scale, (bottom - top) / 2), fill=255)
        return mask.resize((self.width, self.height), Image.Resampling.BOX)

    def lay(self, mask: Image.Image, colour: str) -> None:
        """Lay a colour over what is there, as opaque as the mask and the colour have it (Porter and Duff, "over")."""
        red, green, blue, opaque = _rgba(colour)
        cover = np.asarray(mask, np.float32) * np.float32(opaque / 255)
        for plane, part in zip(self._planes, (red, green, blue, 1.0), strict=True):
            plane += cover * (np.float32(part) - plane)

    def pixels(self, opaque: float) -> np.ndarray:
        """What was painted, with straight alpha."""
        alpha = self._planes[3]
        painted = np.empty((self.height, self.width, 4), np.uint8)
        scale = 255 / np.maximum(alpha, 1e-6)
        for number, plane in enumerate(self._planes[:3]):
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
