"""Texts fitted to real speech: what was said and when, what was not, and what does not belong at all."""

from __future__ import annotations

import json
import subprocess
import sys

import numpy as np
import pytest
import soundfile
from conftest import DEMO, RATE, truth

from bench.sync import speech_of
from jaskel.core.problem import Problem
from jaskel.core.transcript import Word
from jaskel.speech.measure import edge_errors
from jaskel.speech.script import Script, fit_text, guided
from jaskel.speech.weights import recogniser_for

SECONDS = 75
NEVER_SAID = ["this", "paragraph", "was", "written", "down", "but", "nobody", "ever", "read", "it", "out", "at", "all"]

pytestmark = pytest.mark.speech


def said() -> list[dict]:
    words = sorted(truth("interview")["words"], key=lambda word: word["start"])
    return [word for word in words if word["kind"] == "speech" and word["end"] < SECONDS - 1]


@pytest.fixture(scope="module")
def sound(tmp_path_factory) -> np.ndarray:
    return speech_of(DEMO / "interview.mp4", tmp_path_factory.mktemp("script"))[: SECONDS * 16_000]


def fitted(sound: np.ndarray, text: list[str]) -> Script:
    return fit_text(lambda a, b: sound[a // 3 : b // 3], SECONDS * RATE, text, recogniser_for("en"))


def test_words_get_the_times_at_which_they_are_said(sound):
    text = [word["text"] for word in said()]
    script = fitted(sound, text)
    assert [index for index, _ in script.words] == sorted(index for index, _ in script.words)
    assert len(script.words) > 0.97 * len(text)
    errors = edge_errors(said(), [(w.text, w.start / RATE, w.end / RATE) for _, w in script.words])
    assert max(errors.percentile(50)) < 0.03
    assert script.share > 0.8


def test_what_was_never_said_is_told_apart(sound):
    text = [word["text"] for word in said()]
    script = fitted(sound, text[:90] + NEVER_SAID + text[90:])
    ((begin, end),) = script.unspoken
    assert abs(begin - 90) <= 2 and abs(end - 90 - len(NEVER_SAID)) <= 2
    assert not [w for i, w in script.words if 92 < i < 90 + len(NEVER_SAID) - 2]


def test_another_sentence_in_its_place_is_none_of_the_text(sound):
    text = [word["text"] for word in said()]
    script = fitted(sound, text[:60] + NEVER_SAID + text[70:])
    assert any(first <= 62 and last >= 58 + len(NEVER_SAID) for first, last in script.unspoken)
    begin, end = said()[60]["start"], said()[69]["end"]
    assert sum(begin - 0.5 < word.start / RATE < end + 0.5 for word in script.besides) >= 7


def test_what_was_said_besides_is_told(sound):
    words = said()
    left_out = range(40, 52)
    script = fitted(sound, [word["text"] for i, word in enumerate(words) if i not in left_out])
    begin, end = words[40]["start"], words[51]["end"]
    inside = [w for w in script.besides if begin - 0.5 < w.start / RATE < end + 0.5]
    assert len(inside) >= 8


@pytest.mark.parametrize("letters", ["M I S D N", "Em I Es Di En", "MISDN"])
def test_letters_that_are_heard_as_one_word_are_as_many_words_as_the_text_has(sound, letters):
    words, spelled = said(), letters.split()
    first, last = words[40], words[44]
    known = [Word(word["text"], round(word["start"] * RATE), round(word["end"] * RATE), 0.9) for word in words]
    known[40:45] = [Word("M-I-S-D-N.", known[40].start, known[44].end, 0.9)]
    text = [word["text"] for word in words]
    text[40:45] = spelled
    script = fit_text(lambda a, b: sound[a // 3 : b // 3], SECONDS * RATE, text, recogniser_for("en"), known=known)
    here = [word for index, word in script.words if 40 <= index < 40 + len(spelled)]
    assert [word.text for word in here] == spelled and not script.unspoken
    assert all(first["start"] - 0.5 < word.start / RATE < word.end / RATE < last["end"] + 0.5 for word in here)


def test_a_text_of_something_else_is_recognised_as_such(sound):
    with pytest.raises(Problem, match="does not belong to the recording"):
        fitted(sound, ["the", "quick", "brown", "fox", "jumps", "over", "the", "lazy", "dog", "while", "it", "rains"] * 12)


def test_from_the_command_line(tmp_path, talk):
    text, out = tmp_path / "sail.txt", tmp_path / "sail.json"
    words = sorted(truth("mending-a-sail")["words"], key=lambda word: word["start"])
    said = [word["text"] for word in words if word["kind"] == "speech" and word["end"] < soundfile.info(talk).duration]
    text.write_text("INES: " + " ".join(said) + "\nINES: Again.")
    command = [sys.executable, "-m", "jaskel.cli", "align", str(talk), str(text), "--out", str(out)]
    subprocess.run(command, check=True, capture_output=True)
    body = json.loads(out.read_text())
    assert {word["speaker"] for word in body["words"]} == {"Ines"}
    assert all(0 <= word["start"] < word["end"] <= body["duration"] for word in body["words"])
    text.write_bytes(b"")
    told = subprocess.run(command, check=False, capture_output=True, text=True)
    assert told.returncode == 2 and "no words" in told.stderr


class TestGuiding:
    def guide(self, heard: str, written: str) -> str:
        words = [Word(text, i * 9000, i * 9000 + 8000, 0.6) for i, text in enumerate(heard.split())]
        return " ".join(word.text for word in guided(words, written.split()))

    def test_words_are_spelt_as_written_where_they_sound_alike(self):
        assert (
            self.guide("welcome to rope walk with teoh", "Welcome to Ropewalk, with Teo.") == "Welcome to Ropewalk, with Teo."
        )

    def test_what_was_said_otherwise_stays_as_it_was_heard(self):
        heard = "so we flood her quite slowly um until she drinks"
        assert self.guide(heard, "So we flood her, until she drinks.") == "So we flood her, quite slowly um until she drinks."
        assert self.guide(heard, "Nothing here belongs to it.") == heard
