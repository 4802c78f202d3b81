"""Small words that were said twice and written once."""

from __future__ import annotations

from itertools import pairwise

import numpy as np
import pytest
from conftest import truth

from jaskel.core.tidy.fillers import DOUBLED
from jaskel.speech.activity import voiced
from jaskel.speech.align import TimedWord
from jaskel.speech.recognise import RATE_16K
from jaskel.speech.stumbles import with_stumbles
from jaskel.speech.weights import recogniser_for

SILENCE = np.zeros(RATE_16K * 10, np.float32)


class Weighing:
    """A recogniser to which what is said twice is less likely by a given amount; it keeps what it was asked."""

    languages = ("en",)

    def __init__(self, less: float) -> None:
        self.less = less
        self.asked: list[list[str]] = []

    def likelihoods(self, sound, texts, language):
        self.asked.append(list(texts))
        return [0.0, *(-self.less - extra for extra in range(len(texts) - 1))]


def sentence(middle: str, long: float = 0.4, rest: float = 0.0) -> list[TimedWord]:
    words, at = [], 0.5
    for text in ("We", "lost", middle, "beans", "twice"):
        length = long if text == middle else 0.3
        words.append(TimedWord(text, at, at + length, 0.9))
        at += length + (rest if text == middle else 0.0)
    return words


def texts(words: list[TimedWord]) -> list[str]:
    return [word.text for word in words]


def test_one_that_is_drawn_out_is_two_where_that_is_nearly_as_likely():
    asked = Weighing(4.0)
    found = with_stumbles(SILENCE, sentence("the"), [(0.4, 2.2)], asked, "en")
    assert texts(found) == ["We", "lost", "the,", "the", "beans", "twice"]
    assert asked.asked == [[f"We lost {said} beans twice" for said in ("the", "the, the", "the the")]]
    assert found[2].probability < 0.5 < found[3].probability
    assert all(a.end <= b.start + 1e-6 for a, b in pairwise(found))


def test_capitals_and_marks_stay_with_the_one_they_belong_to():
    assert texts(with_stumbles(SILENCE, sentence("The"), [], Weighing(0.0), "en"))[2:4] == ["The,", "the"]
    assert texts(with_stumbles(SILENCE, sentence("I"), [], Weighing(0.0), "en"))[2:4] == ["I,", "I"]
    assert texts(with_stumbles(SILENCE, sentence("it;"), [], Weighing(0.0), "en"))[2:4] == ["it,", "it;"]


@pytest.mark.parametrize(
    ("words", "less", "language"),
    [
        (sentence("the"), 5.0, "en"),
        (sentence("the", long=0.1, rest=0.3), 3.0, "en"),
        (sentence("the", long=0.1), 0.0, "en"),
        (sentence("tomatoes"), 0.0, "en"),
        (sentence("was..."), 0.0, "en"),
        (sentence("the"), 0.0, "de"),
        ([*sentence("the,")[:3], TimedWord("the", 1.5, 1.6, 0.9), *sentence("the,")[3:]], 0.0, "en"),
        ([], 0.0, "en"),
    ],
)
def test_others_stay_one(words, less, language):
    assert with_stumbles(SILENCE, words, [], Weighing(less), language) == words


@pytest.mark.speech
def test_the_recogniser_tells_a_stumble_from_a_slow_word(talk, tmp_path):
    from bench.sync import speech_of

    sound = speech_of(talk, tmp_path)
    said = [TimedWord(w["text"], w["start"], w["end"], 0.9) for w in truth("mending-a-sail")["words"] if w["end"] < 20]
    sound = sound[: round((said[-1].end + 0.05) * RATE_16K)]
    recogniser, voice = recogniser_for("en"), voiced(sound)
    assert texts(with_stumbles(sound, said, voice, recogniser, "en")) == texts(said)
    at = next(at for at in range(4, len(said) - 4) if said[at].text in DOUBLED and said[at].end - said[at].start > 0.1)
    begin, end = (round(edge * RATE_16K) for edge in (said[at].start, said[at].end))
    stumbling = np.concatenate([sound[:end], np.zeros(RATE_16K // 20, np.float32), sound[begin:]])
    more = (end - begin) / RATE_16K + 0.05
    drawn_out = TimedWord(said[at].text, said[at].start, said[at].end + more, 0.9)
    later = [TimedWord(w.text, w.start + more, w.end + more, 0.9) for w in said[at + 1 :]]
    found = with_stumbles(stumbling, [*said[:at], drawn_out, *later], voiced(stumbling), recogniser, "en")
    assert texts(found) == [*texts(said[:at]), f"{said[at].text},", *texts(said[at:])]
    assert abs(found[at + 1].start - later[0].start + (end - begin) / RATE_16K) < 0.1
