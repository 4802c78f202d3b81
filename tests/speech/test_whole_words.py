"""Words as the recogniser writes them: what it gives in parts is one word."""

from __future__ import annotations

from types import SimpleNamespace

import pytest

from jaskel.speech.recognise import MOST_CERTAIN, _whole_words


def segment(*parts: str, probability: float = 0.8):
    words = [SimpleNamespace(word=part, start=i, end=i + 0.5, probability=probability) for i, part in enumerate(parts)]
    return SimpleNamespace(words=words)


@pytest.mark.parametrize(
    ("parts", "words"),
    [
        ((" tele", "-marketers", " call"), ["tele-marketers", "call"]),
        ((" open", "-", "source"), ["open", "source"]),
        ((" T", ".O.", " is"), ["T.O.", "is"]),
        ((" www", ".harbour", ".example"), ["www.harbour.example"]),
        ((" 3", ".5", " or", " -5"), ["3.5", "or", "-5"]),
        ((" a", "—", " b"), ["a", "b"]),
        (("昨", "日", "は"), ["昨", "日", "は"]),
    ],
)
def test_parts_without_a_space_before_them_are_joined(parts, words):
    assert [word.text for word in _whole_words(segment(*parts))] == words


def test_a_joined_word_lasts_as_long_as_its_parts_and_is_as_likely_as_the_least_of_them():
    made = segment(" tele", "-marketers")
    made.words[1].probability = 0.3
    (word,) = _whole_words(made)
    assert (word.start, word.end, word.probability) == (0, 1.5, 0.3)


def test_no_recogniser_is_certain():
    (word,) = _whole_words(segment(" yes", probability=1.0))
    assert word.probability == MOST_CERTAIN < 1
