"""Telling voices apart in real and made-up talk."""

from __future__ import annotations

import json
import subprocess
import sys

import pytest
import soundfile
from conftest import DEMO, RATE, truth

from bench.sync import speech_of
from bench.voices import error, speakers, talk
from jaskel.core.transcript import Word
from jaskel.speech.voices import voices_of

pytestmark = pytest.mark.speech


@pytest.fixture(scope="module")
def people(tmp_path_factory):
    return speakers(tmp_path_factory.mktemp("people"))


def told(sound, words, count=None):
    return voices_of(lambda a, b: sound[a // 3 : b // 3], words, count)


def test_the_mixed_interview_has_two_voices(tmp_path):
    sound = speech_of(DEMO / "interview.mp4", tmp_path)
    words: list[Word] = []
    for w in sorted(truth("interview")["words"], key=lambda w: w["start"]):
        if not words or round(w["start"] * RATE) >= words[-1].end:
            words.append(Word(w["text"], round(w["start"] * RATE), round(w["end"] * RATE), 1.0, w["voice"]))
    found = told(sound, words)
    assert set(found) == {0, 1}
    assert error(words, found) < 0.05


@pytest.mark.parametrize("cast", [("ines", "teo"), ("ines", "lower")])
def test_two_voices_in_noise_at_uneven_levels(people, cast):
    sound, words = talk({name: people[name] for name in cast}, 120, 48, 5)
    assert error(words, told(sound, words)) < 0.05
    assert error(words, told(sound, words, 2)) < 0.05


@pytest.mark.parametrize("voice", ["orla", "teo", "ines"])
def test_one_voice_is_not_taken_for_several(people, voice):
    sound, words = talk({voice: people[voice]}, 120, 48, 6)
    assert set(told(sound, words)) == {0}


def test_no_words_have_no_voices(people):
    assert told(people["teo"][0], []) == []


def test_a_single_word_has_one(people):
    assert told(people["teo"][0], [Word("so", RATE, 2 * RATE)]) == [0]


def test_from_the_command_line_with_spellings(tmp_path):
    sound, rate = soundfile.read(DEMO / "interview-teo.ogg", frames=48_000 * 30)
    orla, _ = soundfile.read(DEMO / "interview-orla.ogg", frames=48_000 * 30)
    soundfile.write(tmp_path / "talk.wav", sound + orla, rate)
    (tmp_path / "names.txt").write_text("Ropewalk: rope walk\nTarn Hythe: tarnife\n\nTeo Marsh\n")
    command = [sys.executable, "-m", "jaskel.cli", "transcribe", str(tmp_path / "talk.wav"), "--out", str(tmp_path / "t.json")]
    more = ["--spellings", str(tmp_path / "names.txt"), "--voices", "2"]
    subprocess.run([*command, *more], check=True, capture_output=True)
    words = json.loads((tmp_path / "t.json").read_text())["words"]
    assert {word["speaker"] for word in words} == {"Voice 1", "Voice 2"}
    assert any(word["text"].startswith("Ropewalk") for word in words)
    alone = subprocess.run([*command, "--voices", "auto"], check=True, capture_output=True)
    assert alone.returncode == 0
    assert {word["speaker"] for word in json.loads((tmp_path / "t.json").read_text())["words"]} <= {"Voice 1", "Voice 2"}
    wrong = subprocess.run([*command, "--voices", "9"], check=False, capture_output=True, text=True)
    assert wrong.returncode == 2 and "from 1 to 6" in wrong.stderr
