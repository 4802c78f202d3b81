"""Recordings in other languages: found by themselves, heard, and timed without a dictionary of pronunciations."""

from __future__ import annotations

import json
from itertools import pairwise
from pathlib import Path
from statistics import median

import numpy as np
import pytest
import soundfile
import soxr
from conftest import RATE
from rapidfuzz.distance import Levenshtein

from jaskel.cli import main
from jaskel.core.spellings import Spelling
from jaskel.core.tidy.finding import plain
from jaskel.speech.attention import by_attention, fitting
from jaskel.speech.house import house, mended
from jaskel.speech.language import spoken_in
from jaskel.speech.recognise import HeardWord
from jaskel.speech.script import fit_text
from jaskel.speech.transcribe import transcribe
from jaskel.speech.weights import recogniser_for

SPOKEN = Path(__file__).parents[1] / "fixtures" / "languages"
"""Five sentences each by a synthetic voice, with rests between them whose edges are known: made by espeak-ng."""


def said(language):
    sound, _ = soundfile.read(SPOKEN / f"{language}.ogg", dtype="float32")
    sentences = json.loads((SPOKEN / f"{language}.json").read_text())
    return lambda start, end: sound[start // 3 : end // 3], 3 * len(sound), sentences


def heard(language):
    sound, length, _ = said(language)
    return [word for part in transcribe(sound, length, recogniser_for(language), language) for word in part.words]


@pytest.mark.parametrize("language", ["it", "de", "es"])
def test_the_language_is_found_by_itself(language):
    sound, length, _ = said(language)
    assert spoken_in(sound, length).language == language


def test_english_is_found_and_silence_is_what_was_expected(talk):
    sound, _ = soundfile.read(talk, dtype="float32")
    sound = soxr.resample(sound, RATE, 16_000)
    assert spoken_in(lambda start, end: sound[start // 3 : end // 3], 3 * len(sound)).language == "en"
    assert spoken_in(lambda start, end: np.zeros((end - start) // 3, np.float32), 20 * RATE, expected="fr").language == "fr"


def test_words_and_edges_in_german():
    words, (_, _, sentences) = heard("de"), said("de")
    text = [plain(word) for sentence in sentences for word in sentence["text"].split()]
    assert Levenshtein.distance([plain(word.text) for word in words], text) <= 0.35 * len(text)
    off = [min(abs(word.start / RATE - sentence["start"]) for word in words) for sentence in sentences]
    off += [min(abs(word.end / RATE - sentence["end"]) for word in words) for sentence in sentences]
    assert median(off) <= 0.04
    assert all(a.end <= b.start for a, b in pairwise(words))


@pytest.mark.parametrize("language", ["it", "de", "es"])
def test_a_known_text_is_fitted_without_a_dictionary(language):
    sound, length, sentences = said(language)
    text = [(word, sentence) for sentence in sentences for word in sentence["text"].split()]
    script = fit_text(sound, length, [word for word, _ in text], recogniser_for(language), language)
    assert [index for index, _ in script.words] == list(range(len(text)))
    off = []
    for sentence in sentences:
        inside = [word for index, word in script.words if text[index][1] is sentence]
        off += [abs(inside[0].start / RATE - sentence["start"]), abs(inside[-1].end / RATE - sentence["end"])]
    assert median(off) <= 0.02 and max(off) <= 0.1


def test_what_was_typed_is_fitted_where_it_is_said_and_nowhere_else():
    sound, _, sentences = said("it")
    first, other = sentences[0], sentences[2]
    begin, end = round((first["start"] - 0.2) * RATE), round((first["end"] + 0.2) * RATE)
    here = sound(begin, end)
    places = fitting(recogniser_for("it"), "it", here, first["text"].split())
    assert places is not None and len(places) == len(first["text"].split())
    assert places[0][0] == pytest.approx(0.2, abs=0.05)
    assert places[-1][1] == pytest.approx(first["end"] - first["start"] + 0.2, abs=0.05)
    assert fitting(recogniser_for("it"), "it", here, other["text"].split()) is None


def test_house_spellings_of_other_languages_mend_only_what_is_doubted():
    known = house([Spelling("Tarn Hythe")], "it")
    words = [HeardWord(text, index, index + 0.5, 0.95) for index, text in enumerate(["siamo", "a", "Tarn", "Hait", "oggi"])]
    assert [word.text for word in mended(words, known)] == [word.text for word in words]
    doubted = [HeardWord(word.text, word.start, word.end, 0.3 if word.text in ("Tarn", "Hait") else 0.95) for word in words]
    said_so = " ".join(word.text for word in mended(doubted, house([Spelling("Tarn Hait")], "it")))
    assert said_so == "siamo a Tarn Hait oggi"
    assert "Tarn Hythe" in " ".join(
        word.text for word in mended(doubted, house([Spelling("Tarn Hythe", ("Tarn Hait",))], "it"))
    )


def test_from_the_command_line(tmp_path, capsys):
    assert main(["transcribe", str(SPOKEN / "it.ogg"), "--out", str(tmp_path / "it.json")]) == 0
    told = json.loads((tmp_path / "it.json").read_text())
    assert told["language"] == "it" and "Buongiorno" in " ".join(word["text"] for word in told["words"])
    assert "language: it" in capsys.readouterr().err


class TestByAttention:
    """Rough times, as the recogniser's attention gives them, kept to the voice."""

    def test_a_word_across_a_rest_keeps_to_its_larger_side(self):
        words = [HeardWord("uno", 0.9, 2.6, 0.9), HeardWord("due", 2.6, 3.0, 0.9)]
        (one, two) = by_attention(np.zeros(0), words, [(1.0, 1.4), (2.5, 3.0)])
        assert (one.start, one.end, two.start, two.end) == (1.0, 1.4, 2.6, 3.0)

    def test_one_in_a_rest_goes_to_the_voice_beside_it_or_is_loose(self):
        words = [HeardWord("uno", 0.5, 0.8, 0.9), HeardWord("due", 5.0, 5.2, 0.9)]
        near, far = by_attention(np.zeros(0), words, [(1.0, 2.0)])
        assert near.fitted and (near.start, near.end) == (1.0, pytest.approx(1.3))
        assert not far.fitted

    def test_none_begins_before_the_last_has_ended(self):
        words = [HeardWord("uno", 1.0, 1.6, 0.9), HeardWord("due", 1.2, 1.5, 0.9), HeardWord("tre", 1.3, 1.9, 0.9)]
        timed = by_attention(np.zeros(0), words, [(0.9, 2.0)])
        assert all(a.start <= a.end <= b.start for a, b in pairwise(timed))
