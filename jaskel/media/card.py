"""The card of an episode: what is on the screen while there is only sound."""

from __future__ import annotations

from dataclasses import dataclass

from PIL import Image, ImageColor, ImageDraw, ImageFont

from jaskel.core.picture.style import USUAL_STYLE, Style
from jaskel.media.typefaces import font

LIGHT, DARK = "#fcfbf7", "#20262b"
"""Inks on dark and on light ground."""

SHADED = 0.45
"""A picture behind words is so much darker."""


@dataclass(frozen=True)
class Sheet:
    """What a card is drawn on: a colour or a picture, and the inks of its words and of its drawing."""

    paper: str
    ink: str
    accent: str
    style: Style
    picture: Image.Image | None = None

    @classmethod
    def of(cls, colour: str, style: Style) -> Sheet:
        """A colour, with whichever ink is further from it in lightness (ITU-R BT.601)."""
        red, green, blue = ImageColor.getrgb(colour)[:3]
        ink = DARK if 0.299 * red + 0.587 * green + 0.114 * blue > 140 else LIGHT
        return cls(colour, ink, ink if colour == style.accent else style.accent, style)

    @classmethod
    def over(cls, picture: Image.Image, style: Style) -> Sheet:
        """A picture, darker, so that light words can be read on it."""
        dark = Image.blend(picture, Image.new("RGB", picture.size, DARK), SHADED)
        return cls(DARK, LIGHT, LIGHT, style, dark)

    def image(self, size: tuple[int, int]) -> Image.Image:
        return self.picture.copy() if self.picture else Image.new("RGB", size, self.paper)


USUAL_SHEET = Sheet(USUAL_STYLE.paper, USUAL_STYLE.ink, USUAL_STYLE.accent, USUAL_STYLE)


def draw_card(
    title: str,
    show: str,
    size: tuple[int, int],
    sheet: Sheet = USUAL_SHEET,
    logo: Image.Image | None = None,
    *,
    bare: bool = False,
) -> Image.Image:
    """Title and show on paper, with staff lines as on a score; long titles are set smaller and in several lines.

    A ``bare`` one has no staff.
    """
    width, height = size
    image, style = sheet.image(size), sheet.style
    draw = ImageDraw.Draw(image)
    margin = width // 12
    for line in range(0 if bare else 5):
        y = height * 3 // 4 + line * height // 40
        draw.line((margin, y, width - margin, y), fill=_between(sheet.paper, sheet.ink, 0.17), width=max(1, height // 360))
    for number in range(0 if bare else 48):
        x = margin + (width - 2 * margin) * number / 47
        tall = height / 12 * abs(((number * 7919) % 97) / 97 - 0.35)
        centre = height * 3 / 4 + height / 20
        draw.line((x, centre - tall, x, centre + tall), fill=sheet.accent, width=max(1, width // 320))
    for scale in (9, 11, 14, 18, 24):
        face = font(style.heading, height // scale, 600)
        lines = _wrapped(title, face, width - 2 * margin)
        if len(lines) * height // scale * 1.25 < height * 0.42:
            break
    y = height // 6
    soft = _between(sheet.paper, sheet.ink, 0.7)
    draw.text((margin, y - height // 14), show, font=font(style.text, height // 22, 500), fill=soft)
    for text in lines:
        draw.text((margin, y), text, font=face, fill=sheet.ink)
        y += round(height / scale * 1.25)
    if logo:
        image.paste(logo, (width - margin - logo.width, height // 14), logo)
    return image


def draw_words(text: str, size: tuple[int, int], sheet: Sheet = USUAL_SHEET, logo: Image.Image | None = None) -> Image.Image:
    """Words in the middle of a full picture on paper, as large as they fit."""
    width, height = size
    image, style = sheet.image(size), sheet.style
    draw = ImageDraw.Draw(image)
    margin = width // 12
    for scale in (8, 10, 12, 16, 20, 26, 34):
        face = font(style.heading, max(8, min(width, height) // scale), 600)
        lines, step = _wrapped(text, face, width - 2 * margin), round(min(width, height) / scale * 1.3)
        if len(lines) * step < height * 0.8:
            break
    y = (height - len(lines) * step) // 2
    for line in lines:
        draw.text((width / 2, y), line, font=face, fill=sheet.ink, anchor="ma")
        y += step
    if logo:
        image.paste(logo, (width - margin - logo.width, height // 14), logo)
    return image


def _between(paper: str, ink: str, share: float) -> str:
    """A colour so far from one to another."""
    pairs = zip(ImageColor.getrgb(paper), ImageColor.getrgb(ink), strict=True)
    return "#" + "".join(f"{round(a + (b - a) * share):02x}" for a, b in pairs)


def _wrapped(text: str, face: ImageFont.FreeTypeFont, width: int) -> list[str]:
    lines = [""]
    for word in text.split():
        wider = f"{lines[-1]} {word}".strip()
        if face.getlength(wider) <= width or not lines[-1]:
            lines[-1] = wider
        else:
            lines.append(word)
    return lines
