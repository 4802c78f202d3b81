"""Where two voices speak at once, by talks whose voices are known."""

from __future__ import annotations

from pathlib import Path

import numpy as np
import pytest
import soundfile
import soxr
from conftest import RATE

from jaskel.core.transcript import Word
from jaskel.speech.activity import voiced
from jaskel.speech.together import spoken_over, together

pytestmark = pytest.mark.speech

TALKS = Path(__file__).resolve().parents[2] / "bench" / "talks"


def heard(name: str, seconds: float) -> np.ndarray:
    """The beginning of a talk by one voice, as loud as all others."""
    sound, rate = soundfile.read(TALKS / f"{name}.opus", frames=round(seconds * RATE), dtype="float32")
    one = soxr.resample(sound if sound.ndim == 1 else sound.mean(axis=1), rate, 16_000).astype(np.float32)
    return one * np.float32(0.05 / np.sqrt(np.mean(one**2)))


def found(sound: np.ndarray) -> list[tuple[float, float]]:
    ranges = together(lambda a, b: sound[a // 3 : b // 3], len(sound) * 3)
    return [(a / RATE, b / RATE) for a, b in ranges]


def seconds(ranges: list[tuple[float, float]]) -> np.ndarray:
    """Which hundredths of a second lie in ranges."""
    at = np.zeros(8_000, bool)
    for begin, end in ranges:
        at[round(begin * 100) : round(end * 100)] = True
    return at


@pytest.mark.parametrize("name", ["bright-and-even", "calm-with-hum", "clear-with-hiss"])
def test_nobody_speaks_over_one_voice(name):
    assert sum(end - begin for begin, end in found(heard(name, 40))) < 0.2


@pytest.mark.parametrize(("one", "other"), [("bright-and-even", "beside-a-fan"), ("calm-with-hum", "clear-with-hiss")])
def test_who_breaks_in_is_heard_and_nobody_before_or_after(one, other):
    """Longer than the minute that is listened to at once: the second voice comes in before its end, and stays beyond it."""
    talk, second = heard(one, 70), heard(other, 14)
    mixed = talk.copy()
    mixed[53 * 16_000 : 53 * 16_000 + len(second)] += second
    both = seconds(voiced(talk)) & seconds([(53 + a, 53 + b) for a, b in voiced(second)])
    told = seconds(found(mixed))
    assert (told & both).sum() > 0.4 * both.sum()
    assert told[: 53 * 100 - 20].sum() + told[6720:].sum() < 20  # hundredths of a second
    assert (told & ~both).sum() < 0.3 * told.sum()


def test_silence_and_what_is_shorter_than_a_window():
    assert found(np.zeros(16_000 * 7, np.float32)) == []
    assert found(np.zeros(800, np.float32)) == []


def test_words_that_are_mostly_spoken_over_are_marked():
    words = [Word("one", 0, 100), Word("two", 100, 200), Word("three", 200, 300), Word("[laughter]", 300, 400)]
    marked = spoken_over(words, [(90, 155), (240, 400)])
    assert [word.over for word in marked] == [False, True, True, False]
    assert [word.over for word in spoken_over(marked, [])] == [False] * 4
