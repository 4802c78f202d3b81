"""What a recogniser passes over is heard the second time; and no word lies across a rest."""

from __future__ import annotations

import random
from dataclasses import replace
from itertools import pairwise

import numpy as np
import pytest
import soundfile
import soxr
from conftest import truth

from jaskel.speech import align
from jaskel.speech.activity import voiced
from jaskel.speech.align import TimedWord, align_words, fit
from jaskel.speech.recognise import RATE_16K, HeardWord
from jaskel.speech.second_pass import with_passed_over, with_swallowed

SECONDS = 30


class Told:
    """Hears what it was told to hear, and keeps which sound it was asked about."""

    def __init__(self, texts: list[str], probability: float = 0.9) -> None:
        self.texts, self.probability = texts, probability
        self.asked: list[float] = []

    def __call__(self, sound, voice) -> list[HeardWord]:
        self.asked.append(len(sound) / RATE_16K)
        return [HeardWord(text, 0.0, self.asked[-1], self.probability) for text in self.texts]


@pytest.fixture(scope="module")
def spoken(talk) -> tuple[np.ndarray, list[tuple[float, float]], list[TimedWord]]:
    """Half a minute of speech at 16 kHz, its voice, and its true words."""
    sound, rate = soundfile.read(talk, dtype="float32", frames=SECONDS * 48_000)
    sound = soxr.resample(sound, rate, RATE_16K)
    words = [TimedWord(w["text"], w["start"], w["end"], 0.9) for w in truth("mending-a-sail")["words"] if w["end"] < SECONDS]
    sound = sound[: round((words[-1].end + 0.05) * RATE_16K)]  # the next word is not known
    return sound, voiced(sound), words


def test_a_sentence_that_was_passed_over_is_put_in_where_it_is_said(spoken):
    sound, voice, words = spoken
    gone = words[20:32]
    told = Told([word.text for word in gone])
    heard = with_passed_over(sound, [*words[:20], *words[32:]], voice, told)
    assert [word.text for word in heard] == [word.text for word in words]
    assert len(told.asked) == 1 and told.asked[0] < words[32].start - words[19].end + 0.2
    errors = [abs(word.start - true.start) for word, true in zip(heard[20:32], gone, strict=True)]
    assert sorted(errors)[len(errors) // 2] < 0.05 and max(errors) < 0.4


@pytest.mark.parametrize(("text", "asked"), [("the", 1), ("um", 0), ("eleven hundred", 0), ("1100", 0)])
def test_a_word_drawn_out_over_others_is_heard_again(spoken, text, asked):
    sound, voice, words = spoken
    first = next(at for at in range(9, 60) if 0.7 < words[at + 2].end - words[at].start < 0.95)
    hidden = words[first : first + 3]
    laid = TimedWord(text, hidden[0].start, hidden[-1].end, 0.9)
    told = Told([word.text for word in hidden])
    heard = with_passed_over(sound, [*words[:first], laid, *words[first + 3 :]], voice, told)
    assert len(told.asked) == asked
    expected = hidden if asked else [laid]
    assert [word.text for word in heard] == [word.text for word in (*words[:first], *expected, *words[first + 3 :])]


def test_guesses_and_single_words_are_left_out(spoken):
    sound, voice, words = spoken
    kept = [*words[:20], *words[32:]]
    assert with_passed_over(sound, kept, voice, Told(["made", "up"], 0.3)) == kept
    assert with_passed_over(sound, kept, voice, Told(["You"])) == kept


@pytest.mark.parametrize("missing", [(30, 32), (12, 13), (50, 53)])
def test_words_that_were_swallowed_are_put_in_among_their_neighbours(spoken, missing):
    sound, voice, words = spoken
    first, last = missing
    told = Told([word.text for word in words[first - 3 : last + 3]])
    heard = with_swallowed(sound, [*words[:first], *words[last:]], voice, told)
    assert [word.text for word in heard] == [word.text for word in words]
    assert all(a.start < b.start for a, b in pairwise(heard))
    for word, true in zip(heard[first:last], words[first:last], strict=True):
        assert abs(word.start - true.start) < 0.12


def test_a_guess_a_hesitation_and_a_voice_farther_away_are_not_put_in(spoken):
    sound, voice, words = spoken
    kept, around = [*words[:30], *words[32:]], [word.text for word in (*words[27:30], *words[32:35])]
    assert with_swallowed(sound, kept, voice, Told([*around[:3], "made", "up", *around[3:]], 0.3)) == kept
    assert with_swallowed(sound, kept, voice, Told([*around[:3], "um,", *around[3:]])) == kept
    away = sound.copy()
    away[round(words[30].start * RATE_16K) : round(words[31].end * RATE_16K)] *= 0.1
    told = Told(["never", "asked"])
    assert with_swallowed(away, kept, voice, told) == kept and not told.asked


def test_where_all_was_heard_nobody_listens_again(spoken):
    sound, voice, words = spoken
    told = Told(["never", "asked"])
    assert with_passed_over(sound, words, voice, told) == words == with_swallowed(sound, words, voice, told)
    assert not told.asked


def test_no_word_lies_across_a_rest(spoken):
    sound, _, words = spoken
    chance = random.Random(4)
    begins = sorted(chance.sample([word.start for word in words[2:-2]], 6))
    quiet = np.zeros(RATE_16K, np.float32)
    parts = np.split(sound, [round((begin - 0.01) * RATE_16K) for begin in begins])
    rested = np.concatenate([piece for part in parts for piece in (part, quiet)])
    voice = voiced(rested)
    aligned = align_words(rested, [HeardWord(word.text, word.start, word.end, 0.9) for word in words], voice)
    rests = [(a, b) for (_, a), (b, _) in pairwise(voice)]
    assert len(rests) >= len(begins)
    assert not [word for word in aligned if any(word.start < a and b < word.end for a, b in rests)]


def test_the_first_word_of_a_sentence_is_not_left_at_the_end_of_the_last_one(spoken, monkeypatch):
    sound, _, words = spoken
    small = ("the", "a", "and", "it", "so", "you", "i", "we", "my", "but", "for", "in", "is")
    first = next(at for at in range(5, len(words) - 2) if words[at].text.lower() in small)
    # A rest before it, and where the last word ends the first one of the next sentence.
    quiet = np.zeros(RATE_16K, np.float32)
    place = words[first].start - 0.01
    rested = np.concatenate([sound[: round(place * RATE_16K)], quiet, sound[round(place * RATE_16K) :]])
    true = [replace(word, start=word.start + 1, end=word.end + 1) for word in words[first:]]
    before = replace(words[first - 1], text="keel.", end=place - 0.1)
    stranded = replace(words[first], start=place - 0.1, end=place)
    laid = [*words[: first - 1], before, stranded, *true[1:]]
    monkeypatch.setattr(align, "_window", lambda *_: list(laid))
    aligned = align_words(rested, [], voiced(rested))
    assert abs(aligned[first].start - true[0].start) < 0.08
    assert aligned[first - 1].end == place and aligned[first].end <= aligned[first + 1].start
    # A hesitation may stand between two rests.
    laid[first] = replace(stranded, text="Er,")
    assert align_words(rested, [], voiced(rested))[first].start == stranded.start


def test_words_that_do_not_fit_are_told_from_those_that_do(spoken):
    sound, _, words = spoken
    first = sound[round((words[0].start - 0.1) * RATE_16K) : round((words[5].end + 0.1) * RATE_16K)]
    places = fit(first, [word.text for word in words[:6]])
    assert places is not None and len(places) == 6
    assert fit(sound[:1000], ["too", "short"]) is None
