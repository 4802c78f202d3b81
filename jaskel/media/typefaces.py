"""The fonts that cards and captions are set in: families that ship with the page, those of scripts they lack, and a show's own.

Shipped families lie in several files, each with some of Unicode; which, says ``unicode.json`` beside them. A text is therefore
set in runs, each in the first font that has its letters.
"""

from __future__ import annotations

import json
import unicodedata
from collections.abc import Iterable, Iterator
from dataclasses import dataclass
from functools import lru_cache
from itertools import groupby
from pathlib import Path

from PIL import ImageFont

from jaskel.core.problem import Problem

FOLDER = Path(__file__).resolve().parents[2] / "frontend" / "dist" / "fonts"
"""Where the page's build puts them."""

FAMILIES = {
    "instrument-sans": "Instrument Sans",
    "literata": "Literata",
    "noto-sans": "Noto Sans",
    "noto-serif": "Noto Serif",
    "archivo": "Archivo",
    "nunito": "Nunito",
    "lora": "Lora",
    "bitter": "Bitter",
    "oswald": "Oswald",
    "jetbrains-mono": "JetBrains Mono",
}
"""Those one can choose, all under the SIL Open Font License."""

OTHERS = (
    "noto-sans", "noto-sans-arabic", "noto-sans-hebrew", "noto-sans-devanagari", "noto-sans-bengali", "noto-sans-thai",
    "noto-sans-georgian", "noto-sans-armenian", "noto-sans-jp", "noto-sans-sc", "noto-sans-kr",
)  # fmt: skip
"""Where letters are looked for that the chosen family lacks. Japanese goes before Chinese, which has no kana."""

OWN = "own/"
"""The font of a look that begins so is one of the show's own; the digest of its file follows."""

Font = ImageFont.FreeTypeFont


@dataclass(frozen=True)
class Typefaces:
    """Fonts by family; ``own`` is the folder with those that were added."""

    own: Path | None = None

    def runs(self, text: str, family: str, size: float, weight: int) -> list[tuple[str, Font]]:
        """A text in pieces, each with the font it is set in; ``size`` is in pixels."""
        sources = [*self._of(family), *(source for other in OTHERS for source in shipped(other))]
        found: list[tuple[str, Font]] = []
        last = sources[0]
        chosen: list[_Source] = []
        for letter in text:
            if not (unicodedata.combining(letter) and chosen) and not (letter.isspace() and chosen):
                last = next((source for source in sources if source.has(letter)), sources[0])
            chosen.append(last)
        at = 0
        for source, group in groupby(chosen):
            length = len([*group])
            found.append((text[at : at + length], _font(source.path, round(size, 2), weight)))
            at += length
        return found

    def _of(self, family: str) -> tuple[_Source, ...]:
        if not family.startswith(OWN):
            return shipped(family) or shipped("instrument-sans")
        path = self.own / family.removeprefix(OWN) if self.own else None
        return (_Source(path, EVERYTHING),) if path and path.exists() else shipped("instrument-sans")


SHIPPED_ONLY = Typefaces()


def sources_for(letters: Iterable[str], family: str) -> list[Path]:
    """The files of a shipped family, and of others, that together have some letters: the first has the commonest."""
    missing = {letter for letter in letters if not letter.isspace()}
    found: list[Path] = []
    for source in [*shipped(family), *(source for other in OTHERS for source in shipped(other))]:
        known = {letter for letter in missing if source.has(letter)}
        if known or not found:
            found.append(source.path)
            missing -= known
    return found


@dataclass(frozen=True)
class _Source:
    """A font file and the letters it has, as ranges."""

    path: Path
    ranges: tuple[tuple[int, int], ...]

    def has(self, letter: str) -> bool:
        code = ord(letter)
        # What is told of a file is what it may have: some letters of a range can be missing.
        return any(first <= code <= last for first, last in self.ranges) and code in _letters(self.path)


@lru_cache
def shipped(family: str) -> tuple[_Source, ...]:
    """The files of a shipped family, the commonest letters first; none where it is not there."""
    folder = FOLDER / family
    if not (folder / "unicode.json").exists():
        return ()
    known = json.loads((folder / "unicode.json").read_text())
    files = ((folder / f"{family}-{name.strip('[]')}-wght-normal.woff2", ranges) for name, ranges in known.items())
    found = [_Source(path, tuple(_ranges(ranges))) for path, ranges in files if path.exists()]
    return tuple(sorted(found, key=lambda source: not source.has("a")))


def _ranges(told: str) -> Iterator[tuple[int, int]]:
    """Ranges as CSS has them: ``U+0000-00FF,U+0131``."""
    for each in told.split(","):
        first, _, last = each.strip().removeprefix("U+").partition("-")
        yield int(first, 16), int(last or first, 16)


EVERYTHING = ((0, 0x10FFFF),)


@lru_cache(512)
def _letters(path: Path) -> frozenset[int]:
    """The letters that a font file has, by their codes."""
    from fontTools.ttLib import TTFont  # type: ignore[import-untyped]

    with TTFont(path, lazy=True) as font:
        return frozenset(font.getBestCmap() or {})


@lru_cache(512)
def _font(path: Path, size: float, weight: int) -> Font:
    font = ImageFont.truetype(path, size, layout_engine=ImageFont.Layout.RAQM)
    try:
        (axis,) = font.get_variation_axes()
        font.set_variation_by_axes([float(min(max(weight, axis["minimum"] or 0), axis["maximum"] or 1000))])
    except (OSError, ValueError):
        pass  # of one weight only, or with axes that say something else
    return font


def font(family: str, size: int, weight: int) -> Font:
    """The font of a shipped family that has the letters of most languages of Europe, at a size in pixels."""
    return _font(shipped(family)[0].path, size, weight)


MOST_BYTES = 20_000_000
"""No font file of a show's own is larger."""


def name_of(path: Path) -> str:
    """What a font file calls its family.

    Raises
    ------
    Problem
        ``no-font``.
    """
    from fontTools.ttLib import TTFont

    try:
        with TTFont(path, lazy=True) as font:
            name = font["name"].getBestFamilyName()
            if not font.getBestCmap():
                raise ValueError("no letters")
        ImageFont.truetype(path, 20, layout_engine=ImageFont.Layout.RAQM).getlength("a")
    except Exception as error:  # damaged fonts fail in as many ways as there are tables in them
        raise Problem(
            "no-font", "This is no font that can be read. Take a TrueType, OpenType or WOFF2 file (.ttf, .otf, .woff2)."
        ) from error
    return str(name or path.stem)
