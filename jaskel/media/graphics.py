"""Cards, lower thirds, titles, logo and bar, drawn in the house style: one renderer for the monitor and for films."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from dataclasses import dataclass, field
from functools import lru_cache
from pathlib import Path

import av
import numpy as np
from PIL import Image, ImageDraw, ImageFilter, ImageOps

from jaskel.core.picture.card import AS_IN_STYLE, CardLook
from jaskel.core.picture.framing import Box
from jaskel.core.picture.graphic import Bar, Graphic, Logo, Overlay, Placed, Strap, Tag, Title
from jaskel.core.picture.style import USUAL_STYLE, PulseForm, Style
from jaskel.core.plan.picture import Carded, SoundPicture
from jaskel.core.plan.sound_picture import EVERY
from jaskel.core.source import OPENING, Card, Drawn
from jaskel.core.timebase import Ticks
from jaskel.media.captions.drawn import Drawing, safe_area
from jaskel.media.card import Sheet, draw_card, draw_words
from jaskel.media.patch import Patch, copied, planes_of, premultiplied
from jaskel.media.typefaces import SHIPPED_ONLY, Font, Typefaces

INKS = ("#5f666c", "#23559e", "#2f7355", "#6d4575", "#a86f12", "#1e6f7a", "#8c2f24")
"""The colours of voices by their numbers, as pages have them; grey where nobody is known."""

BARS = 48
"""So many of the last levels are drawn: about two seconds."""


def _recent(levels: bytes, number: int) -> list[float]:
    """The last levels up to a place, 0 to 1, the newest last."""
    before = levels[max(0, number - BARS + 1) : number + 1]
    return [0.0] * (BARS - len(before)) + [each / 255 for each in before]


ON_CARD, BY_ITSELF = (0.72, 0.16), (0.5, 0.42)
"""How far down a drawing of the voice stands, and how high it goes to each side, by the height of the card or of its place."""


def draw_pulse(
    image: Image.Image, form: PulseForm, levels: Sequence[float], colour: str, lies: tuple[float, float] = ON_CARD
) -> None:
    """Draw levels on a picture, the newest in the middle and older ones towards both sides; or as a circle."""
    width, height = image.size
    draw = ImageDraw.Draw(image)
    middle, high = height * lies[0], height * lies[1]
    if form == "circle":
        radius = high * (0.44 + 0.56 * levels[-1]) / (1.35 if lies == BY_ITSELF else 1)
        for share, opaque in ((1.35, 60), (1.0, 255)):
            r = radius * share
            ring = Image.new("L", image.size)
            ImageDraw.Draw(ring).ellipse((width / 2 - r, middle - r, width / 2 + r, middle + r), fill=opaque)
            image.paste(colour, (0, 0), ring)
        return
    step = width * 0.8 / (2 * BARS)
    sides = [(sign * number, level) for number, level in enumerate(reversed(levels)) for sign in (-1, 1)]
    points = sorted((width / 2 + number * step, level * (1 - abs(number) / BARS * 0.7)) for number, level in sides)
    if form == "bars":
        for x, level in points:
            tall = max(height / 360, high * level)
            draw.line((x, middle - tall, x, middle + tall), fill=colour, width=max(1, round(step * 0.55)))
    else:
        for sign in (-1, 1):
            draw.line(
                [(x, middle + sign * high * level) for x, level in points],
                fill=colour,
                width=max(2, height // 200),
                joint="curve",
            )


@lru_cache(4)
def _bare_card(artist: Artist, look: CardLook, width: int, height: int) -> Image.Image:
    """The card without anything drawn in its lower part."""
    logo = artist.logo(height // 8) if look.logo else None
    sheet = artist.sheet(look, width, height)
    return draw_card(look.text or artist.title, artist.show, (width, height), sheet, logo, bare=True)


def _no_pictures(_digest: str) -> Path | None:
    return None


@dataclass(frozen=True)
class Artist:
    """Draws the cards and graphics of an episode.

    Attributes
    ----------
    title, show
        What cards say.
    style
        The house style.
    faces
        The fonts that can be had.
    pictures
        The file of a logo, by its digest; None where it is gone.
    """

    title: str
    show: str
    style: Style = USUAL_STYLE
    faces: Typefaces = SHIPPED_ONLY
    pictures: Callable[[str], Path | None] = field(default=_no_pictures)

    def card(self, shown: Card | Drawn | Carded, width: int, height: int) -> Image.Image:
        """A card, or a full picture of words."""
        size = width, height
        card, look = (shown.card, shown.look) if isinstance(shown, Carded) else (shown, AS_IN_STYLE)
        sheet = self.sheet(look, width, height)
        if isinstance(card, Drawn):
            logo = self.logo(height // 8) if look != AS_IN_STYLE and look.logo else None
            return draw_words(card.text, size, sheet, logo)
        logo = self.logo(height // 8) if look.logo else None
        return draw_card(look.text or self.title, self.show, size, sheet, logo)

    def sheet(self, look: CardLook, width: int, height: int) -> Sheet:
        """What a card is drawn on, and the inks that can be read on it."""
        if look.picture:
            return Sheet.over(self.backdrop(look.picture, width, height), self.style)
        if look.colour:
            return Sheet.of(look.colour, self.style)
        return Sheet(self.style.paper, self.style.ink, self.style.accent, self.style)

    def pulse(self, shown: SoundPicture, after: Ticks, width: int, height: int) -> Image.Image:
        """The card with what is drawn of the voice so many ticks after its layer begins."""
        image = _bare_card(self, shown.look, width, height).copy()
        now, colour = shown.speaks(after), self._ink(shown, after)
        draw_pulse(image, shown.form, _recent(shown.levels, (shown.since + after) // EVERY), colour)
        if now and now.name:
            unit = min(width, height) / 100
            row = _Row(self, now.name, self.style.text, 3.6 * unit, 600, width * 0.8)
            row.draw(ImageDraw.Draw(image), (width - row.width) / 2, height - 7.5 * unit, colour)
        return image

    def voice(self, shown: SoundPicture, after: Ticks, width: int, height: int) -> Image.Image:
        """What is drawn of the voice so many ticks after its layer begins, by itself."""
        image = Image.new("RGBA", (width, height))
        draw_pulse(image, shown.form, _recent(shown.levels, (shown.since + after) // EVERY), self._ink(shown, after), BY_ITSELF)
        return image

    def _ink(self, shown: SoundPicture, after: Ticks) -> str:
        """The colour of who speaks."""
        now = shown.speaks(after)
        return INKS[now.number % len(INKS)] if now else self.style.accent

    def graphic(self, graphic: Graphic, width: int, height: int) -> Drawing | None:
        """What is drawn of a graphic over a picture of a size; None where that is nothing."""
        sheet = _Sheet(width, height, self)
        match graphic:
            case Strap(name, role):
                sheet.strap(name, role)
            case Title(text, down):
                sheet.title(text, down)
            case Tag(text, below):
                sheet.tag(text, below)
            case Logo():
                sheet.logo(self.logo(round(self.style.logo_size / 100 * min(width, height))))
            case Placed(kind, box):
                sheet.placed(kind, box)
            case Bar():
                sheet.bar()
        return sheet.drawing()

    def backdrop(self, digest: str, width: int, height: int) -> Image.Image:
        """A picture of the house style that fills a frame; its paper where it is gone."""
        file = self.pictures(digest)
        if not file or not file.exists():
            return Image.new("RGB", (width, height), self.style.paper)
        with Image.open(file) as opened:
            solid = Image.new("RGBA", opened.size, self.style.paper)
            solid.alpha_composite(opened.convert("RGBA"))
        return ImageOps.fit(solid.convert("RGB"), (width, height))

    def letters(self, family: str, size: float, weight: int, text: str) -> list[tuple[str, Font]]:
        """Text in the fonts that have its letters."""
        return self.faces.runs(text, family, size, weight)

    def logo(self, height: int) -> Image.Image | None:
        file = self.pictures(self.style.logo) if self.style.logo else None
        return _scaled(file, height) if file and file.exists() else None


@lru_cache(16)
def _scaled(file: Path, height: int) -> Image.Image:
    """A picture at a height, but not wider than four times that."""
    with Image.open(file) as opened:
        picture = opened.convert("RGBA")
    by = min(height / picture.height, 4 * height / picture.width)
    size = max(1, round(picture.width * by)), max(1, round(picture.height * by))
    return picture.resize(size, Image.Resampling.LANCZOS)


class _Sheet:
    """A transparent picture that one graphic is drawn on."""

    def __init__(self, width: int, height: int, artist: Artist) -> None:
        self._image = Image.new("RGBA", (width, height))
        self._draw = ImageDraw.Draw(self._image)
        self._artist, self._style = artist, artist.style
        self._unit = min(width, height) / 100
        safe = safe_area(width, height)
        self._left, self._right = width * safe.sides / 100, width * (1 - safe.sides / 100)
        self._top, self._bottom = height * safe.top / 100, height * (1 - safe.bottom / 100)

    def drawing(self) -> Drawing | None:
        """What was drawn, cropped to even places."""
        box = self._image.getbbox()
        if box is None:
            return None
        left, top = box[0] // 2 * 2, box[1] // 2 * 2
        right, bottom = (min(side // 2 * 2, -(-at // 2) * 2) for at, side in zip(box[2:], self._image.size, strict=True))
        return Drawing(left, top, np.asarray(self._image.crop((left, top, max(right, left + 2), max(bottom, top + 2)))))

    def strap(self, name: str, role: str) -> None:
        """A slip of paper with a pencil's line at its side, or letters over a line."""
        unit, style = self._unit, self._style
        slip = style.strap == "slip"
        room = self._right - self._left - 6 * unit
        rows = [
            _Row(self._artist, text, family, size * unit, weight, room)
            for text, family, size, weight in ((name, style.heading, 5.2, 650), (role, style.text, 3.5, 500))
            if text
        ]
        if not rows:
            return
        width = max(row.width for row in rows) + (5 if slip else 0) * unit
        height = sum(row.size for row in rows) * 1.35 + (2.6 if slip else 1.6) * unit
        x = self._left if style.side == "left" else self._right - width
        y = self._bottom - height
        ink = style.ink if slip else "#fcfbf7"
        if slip:
            self._draw.rounded_rectangle((x, y, x + width, y + height), unit * 0.5, fill=style.paper + "f2")
            self._draw.rectangle((x, y, x + 0.9 * unit, y + height), fill=style.accent)
        else:
            self._shadow(x, y, width, height)
            self._draw.rectangle((x, y + height - 0.5 * unit, x + width, y + height), fill=style.accent)
        at = y + (1.3 if slip else 0.2) * unit
        for row in rows:
            begin = x + (3 if slip else 0) * unit
            if style.side == "right":
                begin = x + width - row.width - (2 if slip else 0) * unit
            row.draw(self._draw, begin, at, ink)
            at += row.size * 1.35

    def title(self, text: str, down: str) -> None:
        """Words in the middle, at the top or at the bottom, as large as they fit, with a soft shadow."""
        unit = self._unit
        room = self._right - self._left
        size, rows = 9.0, []
        while size > 2:
            rows = _wrapped(self._artist, text, self._style.heading, size * unit, 650, room)
            if len(rows) * size * 1.25 * unit < (self._bottom - self._top) * 0.5 and all(row.width <= room for row in rows):
                break
            size -= 0.5
        tall = len(rows) * size * 1.25 * unit
        y = {"top": self._top, "middle": (self._top + self._bottom - tall) / 2, "bottom": self._bottom - tall}[down]
        width = max((row.width for row in rows), default=0)
        self._shadow(self._left + (room - width) / 2, y, width, tall)
        for row in rows:
            row.draw(self._draw, self._left + (room - row.width) / 2, y, "#fcfbf7")
            y += size * 1.25 * unit

    def tag(self, text: str, below: Box | None) -> None:
        """A small slip with a name, under somebody's picture or at its lower edge; or a line at the bottom, in the middle."""
        unit, style = self._unit, self._style
        width, height = self._image.size
        slot = below or Box(0.0, 0.0, 1.0, 1.0)
        row = _Row(self._artist, text, style.text, 3.4 * unit, 600, slot.width * width - 4 * unit)
        high = row.size * 1.7
        x = (slot.x + slot.width / 2) * width - row.width / 2
        y = (slot.y + slot.height) * height - high * 0.6 if below else self._bottom - high
        y = min(y, self._bottom - high)
        self._draw.rounded_rectangle(
            (x - 1.4 * unit, y, x + row.width + 1.4 * unit, y + high), unit * 0.5, fill=style.paper + "f2"
        )
        row.draw(self._draw, x, y + row.size * 0.15, style.ink)

    def logo(self, picture: Image.Image | None) -> None:
        """The logo in its corner."""
        if picture is None:
            return
        down, across = self._style.corner.split()
        x = self._left if across == "left" else self._right - picture.width
        y = self._top if down == "upper" else self._bottom - picture.height
        self._image.alpha_composite(picture, (max(0, round(x)), max(0, round(y))))

    def placed(self, kind: str, box: Box) -> None:
        """The card, or the logo as large as it fits, in a place of the picture."""
        width, height = self._image.size
        wide, high = max(2, round(box.width * width)), max(2, round(box.height * height))
        x, y = round(box.x * width), round(box.y * height)
        if kind == "card":
            drawn = self._artist.card(OPENING, wide, high).convert("RGBA")
        else:
            logo = self._artist.logo(high)
            if logo is None:
                return
            drawn = ImageOps.contain(logo, (wide, high))
        self._image.alpha_composite(drawn, (x + (wide - drawn.width) // 2, y + (high - drawn.height) // 2))

    def bar(self) -> None:
        """A bar over the whole width, as it is at the end."""
        width, height = self._image.size
        high = max(2, round(0.9 * self._unit))
        y = 0 if self._style.bar == "top" else height - high
        self._draw.rectangle((0, y, width, y + high), fill=self._style.accent)

    def _shadow(self, x: float, y: float, width: float, height: float) -> None:
        """Darken what is behind light letters, so that they can be read over any picture."""
        shade = Image.new("L", self._image.size)
        pad = 1.5 * self._unit
        ImageDraw.Draw(shade).rounded_rectangle((x - pad, y - pad, x + width + pad, y + height + pad), pad, fill=150)
        shade = shade.filter(ImageFilter.GaussianBlur(pad))
        dark = Image.new("RGBA", self._image.size, "#20262b")
        dark.putalpha(shade)
        self._image.alpha_composite(dark)


class _Row:
    """A line of letters, smaller where it has no room otherwise."""

    def __init__(self, artist: Artist, text: str, family: str, size: float, weight: int, room: float) -> None:
        self.runs = artist.letters(family, size, weight, text)
        self.width = sum(font.getlength(part) for part, font in self.runs)
        if self.width > room:
            size *= room / self.width
            self.runs = artist.letters(family, size, weight, text)
            self.width = sum(font.getlength(part) for part, font in self.runs)
        self.size = size

    def draw(self, draw: ImageDraw.ImageDraw, x: float, y: float, colour: str) -> None:
        for part, font in self.runs:
            draw.text((x, y + self.size), part, font=font, fill=colour, anchor="ls")
            x += font.getlength(part)


def _wrapped(artist: Artist, text: str, family: str, size: float, weight: int, room: float) -> list[_Row]:
    def row(line: str) -> _Row:
        return _Row(artist, line, family, size, weight, float("inf"))

    rows: list[_Row] = []
    for paragraph in text.splitlines() or [""]:
        line = ""
        for word in paragraph.split():
            wider = f"{line} {word}".strip()
            if line and row(wider).width > room:
                rows.append(row(line))
                line = word
            else:
                line = wider
        rows.append(row(line))
    return rows


class Graphics:
    """What is drawn over the pictures of a film of one size."""

    def __init__(self, overlays: Sequence[Overlay], artist: Artist, width: int, height: int) -> None:
        self._overlays, self._artist = overlays, artist
        self._size = width, height
        self._patch = lru_cache(32)(self._drawn)

    def over(self, frame: av.VideoFrame, at: Ticks) -> av.VideoFrame:
        """A picture (yuv420p) with what is drawn over it at a place of the programme."""
        shown: av.VideoFrame | None = None
        for overlay in self._overlays:
            if overlay.begin <= at < overlay.until and (patch := self._patch(overlay.graphic)):
                shown = shown or copied(frame)
                patch.lay(planes_of(shown), *overlay.seen(at))
        return shown or frame

    def _drawn(self, graphic: Graphic) -> Patch | None:
        drawing = self._artist.graphic(graphic, *self._size)
        return Patch(drawing.x, drawing.y, premultiplied(drawing.pixels)) if drawing else None
