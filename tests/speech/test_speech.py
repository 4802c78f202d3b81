"""Real speech through the real recogniser and aligner, from the command line as a script would."""

from __future__ import annotations

import json
import subprocess
import sys
from itertools import pairwise
from pathlib import Path

import numpy as np
import pytest
from conftest import DEMO, RATE, tone, truth, write_media

from bench.sync import speech_of
from jaskel.speech.activity import Window, part_end, windows
from jaskel.speech.align import spread
from jaskel.speech.measure import edge_errors, plain, word_error
from jaskel.speech.pronounce import pronunciation


def run(*arguments: str) -> subprocess.CompletedProcess[str]:
    return subprocess.run([sys.executable, "-m", "jaskel.cli", *arguments], capture_output=True, text=True, check=False)


@pytest.fixture(scope="module")
def to_camera(tmp_path_factory) -> dict:
    out = tmp_path_factory.mktemp("transcript") / "t.json"
    done = run("transcribe", str(DEMO / "mending-a-sail.mp4"), "--out", str(out))
    assert done.returncode == 0, done.stderr
    assert "of 2:38" in done.stderr
    return json.loads(out.read_text())


@pytest.mark.speech
class TestTranscribing:
    def test_words_are_right(self, to_camera):
        reference = [plain(word["text"]) for word in truth("mending-a-sail")["words"]]
        heard = [plain(word["text"]) for word in to_camera["words"]]
        assert word_error(reference, heard) < 0.12

    def test_words_lie_where_they_are_said(self, to_camera):
        words = [(w["text"], w["start"], w["end"]) for w in to_camera["words"]]
        errors = edge_errors(truth("mending-a-sail")["words"], words)
        assert len(errors.starts) > 300
        assert max(errors.percentile(50)) < 0.025
        assert max(errors.percentile(90)) < 0.075

    def test_nobody_is_thanked_who_was_not(self, to_camera):
        said = " ".join(plain(word["text"]) for word in to_camera["words"])
        assert "thank you for" in said
        assert "very much" not in said

    def test_the_form_is_as_promised(self, to_camera):
        assert abs(to_camera["duration"] - truth("mending-a-sail")["duration"]) < 0.1
        assert {"text", "start", "end", "confidence", "speaker"} == set(to_camera["words"][0])
        edges = [edge for word in to_camera["words"] for edge in (word["start"], word["end"])]
        assert edges == sorted(edges)
        assert all(w["end"] - w["start"] > 0.015 and 0 <= w["confidence"] <= 1 for w in to_camera["words"])


@pytest.mark.speech
def test_a_language_it_does_not_know_is_said_and_not_guessed(tmp_path):
    german = str(Path(__file__).with_name("german.ogg"))
    done = run("transcribe", german, "--language", "en", "--out", str(tmp_path / "t.json"))
    assert done.returncode == 2
    assert "does not sound like the language it was heard in (“en”)" in done.stderr.splitlines()[-1]
    assert not (tmp_path / "t.json").exists()


@pytest.mark.parametrize("kind", ["silence", "music", "text", "nothing"])
def test_bad_input_has_one_line_of_reason_and_code_2(tmp_path, kind):
    path = tmp_path / "a.wav"
    match kind:
        case "silence":
            write_media(path, tone(4) * 0)
        case "music":
            write_media(path, np.sum([tone(8, f) for f in (220, 277, 330)], axis=0) / 3)
        case "text":
            path.write_text("hello")
        case "nothing":
            pass
    done = run("transcribe", str(path), "--out", str(tmp_path / "t.json"))
    assert done.returncode == 2
    assert done.stderr.strip().splitlines()[-1].startswith("jaskel: ")
    assert not list(tmp_path.glob("*.json*"))


@pytest.fixture(scope="module")
def sound(tmp_path_factory) -> np.ndarray:
    """The piece to camera at 16 kHz."""
    return speech_of(DEMO / "mending-a-sail.mp4", tmp_path_factory.mktemp("pieces"))


class TestPieces:
    def parted(self, sound: np.ndarray, start: int = 0) -> list[Window]:
        return list(windows(lambda a, b: sound[a // 3 : b // 3], len(sound) * 3, start))

    def test_a_recording_is_parted_without_gaps_where_it_is_silent(self, sound):
        parts = self.parted(sound)
        assert parts[0].start == 0 and parts[-1].end == len(sound) * 3
        assert all(a.end == b.start for a, b in pairwise(parts))
        assert all(part.end - part.start <= 29 * RATE for part in parts)
        for part in parts:
            length = (part.end - part.start) / RATE
            assert len(part.sound) == (part.end - part.start) // 3
            assert all(0 <= a < b <= length for a, b in part.voice) and part.voice == sorted(part.voice)
        words = truth("mending-a-sail")["words"]
        assert not [w for w in words for part in parts[1:] if w["start"] + 0.05 < part.start / RATE < w["end"] - 0.05]

    def test_whoever_goes_on_in_the_middle_hears_the_same_parts(self, sound):
        parts = self.parted(sound)
        again = self.parted(sound, parts[3].start)
        assert [(part.start, part.end, part.voice) for part in again] == [(p.start, p.end, p.voice) for p in parts[3:]]

    def test_who_speaks_on_from_one_minute_into_the_next_is_not_parted(self, sound):
        spoken = np.tile(sound[16_000 * 31 : 16_000 * 38], 12)  # seven seconds of speech again and again
        for part in self.parted(spoken):
            for (_, end), (begin, _) in pairwise(part.voice):
                assert begin - end >= 0.03

    def test_parts_end_in_the_longest_silence(self):
        assert part_end([(0.0, 15.0), (15.2, 20.0), (22.0, 29.0)], 29.0) == 21.0
        assert part_end([(0.0, 29.0)], 29.0) == 29.0
        assert part_end([(0.0, 5.0)], 12.0) == 12.0

    @pytest.mark.parametrize(
        ("text", "phones"),
        [
            ("the", "DH AH"),
            ("um,", "AH M"),
            ("32", "TH ER T IY T UW"),
            ("boat's", "B OW T Z"),
            ("…", "AH"),
            ("strake", "S T R AE K"),
            ("DVD.", "D IY V IY D IY"),
            ("MR.", "M IH S T ER"),
            ("dvd", "D V D"),
        ],
    )
    def test_words_have_a_pronunciation(self, text, phones):
        known = {
            "the": "DH AH",
            "thirty": "TH ER T IY",
            "two": "T UW",
            "boat": "B OW T",
            "mr": "M IH S T ER",
            "d": "D IY",
            "v": "V IY",
        }
        assert pronunciation(text, known.get) == phones

    def test_spreading_fills_the_voice_and_nothing_else(self):
        places = spread([4, 4, 8], 0.0, 10.0, [(1.0, 3.0), (5.0, 7.0)])
        assert places == [(1.0, 2.0), (2.0, 3.0), (5.0, 7.0)]
