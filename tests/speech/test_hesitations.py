"""Hesitations that were written as little words."""

from __future__ import annotations

import json
from pathlib import Path

import numpy as np
import pytest

from bench.sync import speech_of
from jaskel.speech.align import TimedWord
from jaskel.speech.hesitations import with_hesitations
from jaskel.speech.recognise import RATE_16K
from jaskel.speech.weights import recogniser_for

SILENCE = np.zeros(RATE_16K * 10, np.float32)


class Weighing:
    """A recogniser to which an "uh" is less likely than any other text by a given amount; it keeps what it was asked."""

    languages = ("en",)

    def __init__(self, less: float) -> None:
        self.less = less
        self.asked: list[str] = []

    def likelihoods(self, sound, texts, language):
        self.asked.append(texts[0])
        return [-self.less if " uh," in text else -100.0 if " um," in text or " er," in text else 0.0 for text in texts]


def sentence(middle: str, rest: float = 0.2, probability: float = 0.8) -> list[TimedWord]:
    """Four words around a short one; rests of so many seconds on either side of that."""
    words, at = [], 0.5
    for text in ("We", "lost", middle, "half", "of"):
        at += rest if text in (middle, "half") else 0.02
        words.append(TimedWord(text, at, at + 0.25, probability))
        at += 0.25
    return words


def texts(words: list[TimedWord]) -> list[str]:
    return [word.text for word in words]


def test_a_little_word_between_two_rests_is_one_where_that_is_nearly_as_likely():
    found = with_hesitations(SILENCE, sentence("her,"), Weighing(4.0), "en")
    assert texts(found) == ["We", "lost", "uh,", "half", "of"]
    assert found[2].probability < 0.5 and (found[2].start, found[2].end) == (1.24, 1.49)


def test_it_stays_where_that_is_unlikely_or_the_recogniser_was_sure():
    words = sentence("her,")
    assert with_hesitations(SILENCE, words, Weighing(8.0), "en") == words
    unsure = with_hesitations(SILENCE, sentence("her,", probability=0.4), Weighing(8.0), "en")
    assert texts(unsure)[2] == "uh,"
    sure = sentence("her,", probability=0.99)
    assert with_hesitations(SILENCE, sure, Weighing(4.0), "en") == sure


@pytest.mark.parametrize(
    ("words", "language"),
    [(sentence("her,", rest=0.03), "en"), (sentence("yesterday,"), "en"), (sentence("um,"), "en"), (sentence("her,"), "de")],
)
def test_others_are_not_asked_about(words, language):
    asked = Weighing(0.0)
    assert with_hesitations(SILENCE, words, asked, language) == words
    assert not asked.asked


@pytest.mark.speech
def test_the_recogniser_takes_what_was_said_for_likelier_than_what_was_not(tmp_path):
    talk = Path("bench/talks/light-and-dry.opus")
    said = [word for word in json.loads(talk.with_suffix(".truth.json").read_text())["words"] if word["end"] < 12]
    sound = speech_of(talk, tmp_path)[: 12 * RATE_16K]
    whole = " ".join(word["text"] for word in said)
    turned = " ".join(word["text"] for word in reversed(said))
    right, wrong, other = recogniser_for("en").likelihoods(sound, [whole, turned, "Nobody ever said this."], "en")
    assert right > wrong and right / len(said) > other / 4
