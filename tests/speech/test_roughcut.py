"""``jaskel roughcut`` on real speech: what is asked for goes, all else stays, and the report tells it."""

from __future__ import annotations

import json
import subprocess
import sys
from pathlib import Path

import numpy as np
import pysubs2
import pytest
import soundfile
from conftest import DEMO, RATE, tone, truth, write_media

pytestmark = pytest.mark.speech


def roughcut(*arguments: object) -> subprocess.CompletedProcess[str]:
    command = [sys.executable, "-m", "jaskel.cli", "roughcut", *map(str, arguments)]
    return subprocess.run(command, capture_output=True, text=True, check=False)


@pytest.fixture(scope="module")
def take(tmp_path_factory) -> Path:
    """The first minute of the piece to camera: false starts, hesitations and long rests."""
    import av

    path = tmp_path_factory.mktemp("take") / "take.wav"
    with av.open(str(DEMO / "mending-a-sail.mp4")) as file:
        frames = [frame.to_ndarray().mean(axis=0) for frame in file.decode(audio=0)]
        rate = file.streams.audio[0].rate
    soundfile.write(path, np.concatenate(frames)[: 60 * rate], rate)
    return path


def test_everything_that_is_asked_for_goes_and_is_told(take, tmp_path):
    out, report = tmp_path / "out.wav", tmp_path / "r.json"
    captions, text = tmp_path / "c.srt", tmp_path / "t.txt"
    done = roughcut(
        take, "--out", out, "--fillers", "all", "--rests", "0.8:0.4", "--retakes",
        "--report", report, "--captions", captions, "--transcript", text, "--timeline", tmp_path / "a.edl",
    )  # fmt: skip
    assert done.returncode == 0, done.stderr
    told = json.loads(report.read_text())
    assert abs(told["before"] - 60) < 0.1
    assert abs(soundfile.info(out).duration - told["after"]) < 0.01
    assert {"kind", "start", "end", "text", "action"} == set(told["findings"][0])
    faults = truth("mending-a-sail")["faults"]
    for kind, least in (("retake", 0.7), ("filler", 0.5)):
        real = [f for f in faults if f["kind"] == kind and f["end"] < 60]
        found = [t for t in told["findings"] if t["kind"] in (kind, "voice without words")]
        hit = sum(any(t["start"] < f["end"] and t["end"] > f["start"] for t in found) for f in real)
        assert hit >= least * len(real), (kind, hit, len(real))
    assert {t["action"] for t in told["findings"] if t["kind"] == "long rest"} == {"shorten"}
    assert "Hello" in text.read_text()
    events = [line for line in (tmp_path / "a.edl").read_text().splitlines() if line[:3].isdigit()]
    assert len(events) >= len(told["findings"]) / 2 and all("  A  " in line for line in events)
    assert pysubs2.load(str(captions))[-1].end / 1000 <= told["after"] + 0.01


def test_with_a_script_its_lines_lead(take, tmp_path):
    faults = [fault for fault in truth("mending-a-sail")["faults"] if fault["end"] < 60]
    script, out, report = tmp_path / "script.txt", tmp_path / "out.wav", tmp_path / "r.json"
    good = [fault for fault in faults if fault["kind"] == "good take"]
    script.write_text("\n\n".join(["We begin with a line that nobody says.", *(fault["text"] for fault in good)]))
    done = roughcut(take, "--out", out, "--retakes", "--script", script, "--report", report)
    assert done.returncode == 0, done.stderr
    gone = [(t["start"], t["end"]) for t in json.loads(report.read_text())["findings"] if t["kind"] == "retake"]

    def covered(fault) -> float:
        shared = sum(max(0, min(end, fault["end"]) - max(start, fault["start"])) for start, end in gone)
        return shared / (fault["end"] - fault["start"])

    assert len(good) >= 3 and all(covered(fault) < 0.1 for fault in good), (good, gone)
    assert all(covered(fault) > 0.6 for fault in faults if fault["kind"] == "retake"), (faults, gone)


def test_without_an_option_that_kind_is_left_alone(take, tmp_path):
    out, report = tmp_path / "out.mp3", tmp_path / "r.json"
    done = roughcut(take, "--out", out, "--rests", "1.0:0.5", "--report", report)
    assert done.returncode == 0, done.stderr
    assert {t["kind"] for t in json.loads(report.read_text())["findings"]} == {"long rest"}
    assert out.stat().st_size > 100_000


@pytest.mark.parametrize(
    ("arguments", "told"),
    [
        (["--out", "x.ogg"], "--out takes a name"),
        (["--out", "x.wav", "--rests", "long"], "--rests takes two numbers"),
        (["--out", "x.wav", "--rests", "0.5:1"], "cannot become longer"),
    ],
)
def test_bad_options_have_one_line_of_reason(tmp_path, arguments, told):
    path = write_media(tmp_path / "a.wav", tone(2))
    done = roughcut(path, *arguments)
    assert done.returncode == 2
    assert told in done.stderr and done.stderr.count("\n") == 1


def test_a_recording_without_speech_is_told_and_nothing_is_written(tmp_path):
    path = write_media(tmp_path / "a.wav", np.zeros(4 * RATE, np.float32))
    done = roughcut(path, "--out", tmp_path / "x.wav", "--retakes")
    assert done.returncode == 2 and "No speech" in done.stderr
    assert not (tmp_path / "x.wav").exists()
