"""Numbers as a show wants them written: in figures, in words, or as the recogniser wrote them.

English has years, times, money and percent besides; the other languages have plain numbers.
"""

from __future__ import annotations

import re
from collections.abc import Iterator, Sequence
from dataclasses import dataclass
from typing import Literal

Style = Literal["heard", "figures", "words"]
STYLES: tuple[Style, ...] = ("heard", "figures", "words")

FROM_TEN = 10
"""Numbers below ten stay in words where they stand alone: "one by one", "two or three"."""

LANGUAGES = ("de", "en", "es", "fr", "it", "nl", "pt")
"""Languages whose numbers are known in both ways."""

CURRENCIES = {"dollar": "$", "pound": "£", "euro": "€"}
UNITS = frozenset(
    ("percent", "kilometres", "kilometers", "metres", "meters", "kilos", "kilograms", "grams", "degrees", "hertz", "decibels")
)
"""Before these a number is in figures however small it is."""

BEFORE_A_TIME = {"at", "about", "around", "by", "until", "till", "past", "before", "after", "from", "to"}

_END = re.compile(r"([.,;:!?…\"”’)\]]*)$")


@dataclass(frozen=True, slots=True)
class Written:
    """The words from index ``first`` to ``last`` (which is one after them), written as ``text``."""

    first: int
    last: int
    text: str


def rewritten(words: Sequence[str], style: Style, language: str) -> list[Written]:
    """What changes in the words of a transcript for its numbers to be in a style; nothing in languages not known."""
    if language not in LANGUAGES or style == "heard":
        return []
    changes = _figures(words, language) if style == "figures" else _in_words(words, language)
    return [each for each in changes if each.text != " ".join(words[each.first : each.last])]


class _Token:
    def __init__(self, text: str, apart: bool) -> None:
        self._text, self._apart = text, apart

    def text(self) -> str:
        return self._text

    def nt_separated(self, _previous: object) -> bool:
        return self._apart

    def not_a_number_part(self) -> bool:
        return False


def _figures(words: Sequence[str], language: str) -> Iterator[Written]:
    from text_to_num import find_numbers

    bare = [_END.sub("", word) for word in words]
    # A comma or a full stop parts two numbers; hyphens within one do not.
    parted = [(index, part) for index, word in enumerate(bare) for part in word.lower().replace("-", " ").split()]
    apart = [place > 0 and parted[place - 1][0] < at and words[at - 1] != bare[at - 1] for place, (at, _) in enumerate(parted)]
    tokens = [_Token(part, gap) for (_, part), gap in zip(parted, apart, strict=True)]
    found = []
    for number in find_numbers(tokens, language, 0):
        first, last = parted[number.start][0], parted[number.end - 1][0] + 1
        if any(character.isdigit() for word in bare[first:last] for character in word):
            continue
        found.append((first, last, str(number.text), float(number.value) if not number.is_ordinal else None))
    place = 0
    while place < len(found):
        first, last, text, value = found[place]
        following = found[place + 1] if place + 1 < len(found) else None
        place += 1
        adjoining = language == "en" and following and following[0] == last and words[last - 1] == bare[last - 1]
        if following and adjoining and (joined := _year_or_time(bare, first, value, following)):
            yield Written(first, following[1], joined + _mark(words[following[1] - 1]))
            place += 1
            continue
        yield from _alone(words, bare, (first, last, text, value), language)


_Found = tuple[int, int, str, float | None]


def _year_or_time(bare: Sequence[str], first: int, value: float | None, following: _Found) -> str | None:
    """Two numbers side by side that are one: "nineteen ninety", "at eight thirty"."""
    second = following[3]
    if value is None or second is None or second != int(second) or not 0 < second < 100:
        return None
    if value in (*range(11, 20), 20) and second >= 10:
        return f"{value:.0f}{second:.0f}"
    before = bare[first - 1].lower() if first else ""
    after = bare[following[1]].lower() if following[1] < len(bare) else ""
    timely = before in BEFORE_A_TIME or after in {"am", "pm", "a.m", "p.m", "o'clock"}
    return f"{value:.0f}:{second:02.0f}" if timely and 1 <= value <= 12 and 10 <= second < 60 else None


def _alone(words: Sequence[str], bare: Sequence[str], found: _Found, language: str) -> Iterator[Written]:
    first, last, text, value = found
    unit = bare[last].lower() if last < len(bare) and words[last - 1] == bare[last - 1] else ""
    if language == "en" and value is not None:
        if sign := CURRENCIES.get(unit.removesuffix("s")):
            yield Written(first, last + 1, f"{sign}{text}{_mark(words[last])}")
            return
        if unit == "percent":
            yield Written(first, last + 1, f"{text}%{_mark(words[last])}")
            return
    if value is None:
        if int(re.sub(r"\D", "", text) or 0) < FROM_TEN:
            return  # "first" and "second" are more often no numbers
    elif value < FROM_TEN and value == int(value) and unit not in UNITS:
        return
    yield Written(first, last, text + _mark(words[last - 1]))


def _mark(word: str) -> str:
    found = _END.search(word)
    return found[1] if found else ""


_NUMBER = re.compile(r"([$£€]?)(\d+(?:,\d{3})*(?:\.\d+)?)(st|nd|rd|th|s)?(%?)")
_TIME = re.compile(r"(\d{1,2}):(\d\d)")


def _in_words(words: Sequence[str], language: str) -> Iterator[Written]:
    for index, word in enumerate(words):
        mark = _mark(word)
        spoken = _spoken(word[: len(word) - len(mark)] if mark else word, language)
        if spoken:
            begins = index == 0 or bool(re.search(r"[.!?…][\"”’)]*$", words[index - 1]))
            yield Written(index, index + 1, (spoken[0].upper() + spoken[1:] if begins else spoken) + mark)


def _spoken(text: str, language: str) -> str | None:
    from num2words import num2words

    def say(value: float, form: str = "cardinal") -> str:
        said = str(num2words(value, lang=language, to=form))
        return said.replace(" and ", " ").replace(",", "") if language == "en" else said

    if language == "en" and (time := _TIME.fullmatch(text)):
        hour, minute = int(time[1]), int(time[2])
        return f"{say(hour)} {say(minute) if minute > 9 else f'oh {say(minute)}'}" if minute else f"{say(hour)} o’clock"
    found = _NUMBER.fullmatch(text)
    if not found or (language != "en" and found[0] != found[2]):
        return None
    sign, digits, ending, percent = found.groups()
    plain = digits.replace(",", "")
    value: float = float(plain) if "." in plain else int(plain)
    if value > 1e12:
        return None
    is_year = (
        len(plain) == 4 and plain == digits and isinstance(value, int) and 1100 <= value <= 2099 and not sign and not percent
    )
    if ending == "s":
        years = say(value, "year") if is_year else say(value)
        return re.sub(r"y$", "ie", years) + "s" if value % 10 == 0 else None
    if ending:
        return say(value, "ordinal") if isinstance(value, int) else None
    said = say(value, "year" if is_year and language == "en" else "cardinal")
    if sign:
        unit = next(name for name, known in CURRENCIES.items() if known == sign)
        return f"{said} {unit if value == 1 else unit + 's'}"
    return f"{said} percent" if percent else said
