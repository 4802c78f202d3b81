"""The card of an episode: what is on the screen while there is only sound."""

from __future__ import annotations

from collections.abc import Callable

from PIL import Image, ImageDraw, ImageFont

from jaskel.core.source import Card, Drawn
from jaskel.media.typefaces import font

PAPER, INK, SOFT, BLUE = "#fcfbf7", "#20262b", "#5f666c", "#23559e"


def draw_card(title: str, show: str, size: tuple[int, int]) -> Image.Image:
    """Title and show on paper, with staff lines as on a score; long titles are set smaller and in several lines."""
    width, height = size
    image = Image.new("RGB", size, PAPER)
    draw = ImageDraw.Draw(image)
    margin = width // 12
    for line in range(5):
        y = height * 3 // 4 + line * height // 40
        draw.line((margin, y, width - margin, y), fill="#d9d4c8", width=max(1, height // 360))
    for number in range(48):
        x = margin + (width - 2 * margin) * number / 47
        tall = height / 12 * abs(((number * 7919) % 97) / 97 - 0.35)
        centre = height * 3 / 4 + height / 20
        draw.line((x, centre - tall, x, centre + tall), fill=BLUE, width=max(1, width // 320))
    for scale in (9, 11, 14, 18, 24):
        face = font("literata", height // scale, 600)
        lines = _wrapped(title, face, width - 2 * margin)
        if len(lines) * height // scale * 1.25 < height * 0.42:
            break
    y = height // 6
    draw.text((margin, y - height // 14), show, font=font("instrument-sans", height // 22, 500), fill=SOFT)
    for text in lines:
        draw.text((margin, y), text, font=face, fill=INK)
        y += round(height / scale * 1.25)
    return image


def draw_words(text: str, size: tuple[int, int]) -> Image.Image:
    """Words in the middle of a full picture on paper, as large as they fit."""
    width, height = size
    image = Image.new("RGB", size, PAPER)
    draw = ImageDraw.Draw(image)
    margin = width // 12
    for scale in (8, 10, 12, 16, 20, 26, 34):
        face = font("literata", max(8, min(width, height) // scale), 600)
        lines, step = _wrapped(text, face, width - 2 * margin), round(min(width, height) / scale * 1.3)
        if len(lines) * step < height * 0.8:
            break
    y = (height - len(lines) * step) // 2
    for line in lines:
        draw.text((width / 2, y), line, font=face, fill=INK, anchor="ma")
        y += step
    return image


def cards_of(title: str, show: str) -> Callable[[Card | Drawn, int, int], Image.Image]:
    """What draws the cards of an episode, and pictures of words."""

    def draw(shown: Card | Drawn, width: int, height: int) -> Image.Image:
        size = width, height
        return draw_words(shown.text, size) if isinstance(shown, Drawn) else draw_card(title, show, size)

    return draw


def _wrapped(text: str, face: ImageFont.FreeTypeFont, width: int) -> list[str]:
    lines = [""]
    for word in text.split():
        wider = f"{lines[-1]} {word}".strip()
        if face.getlength(wider) <= width or not lines[-1]:
            lines[-1] = wider
        else:
            lines.append(word)
    return lines
