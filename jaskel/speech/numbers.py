"""Recognised words with their numbers in the style of the show, before the words are timed."""

from __future__ import annotations

from collections.abc import Sequence

from jaskel.core.numbers import Style, rewritten
from jaskel.speech.recognise import HeardWord


def with_numbers(words: Sequence[HeardWord], style: Style, language: str) -> list[HeardWord]:
    """A number in figures takes the time of the words it stands for; one in words is parted over the time of its figures."""
    out = list(words)
    for change in reversed(rewritten([word.text for word in words], style, language)):
        span = words[change.first : change.last]
        said = change.text.split()
        start, each = span[0].start, (span[-1].end - span[0].start) / len(said)
        sure = min(word.probability for word in span)
        out[change.first : change.last] = [
            HeardWord(text, start + number * each, start + (number + 1) * each, sure) for number, text in enumerate(said)
        ]
    return out
