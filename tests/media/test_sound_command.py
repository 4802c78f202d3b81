"""``jaskel sound`` from the command line: what comes out is measured, and what cannot be done is told."""

from __future__ import annotations

import json

import numpy as np
import pyloudnorm
import pytest
import soundfile
from conftest import RATE, write_media

from jaskel.cli import main
from jaskel.media.conform import conform
from jaskel.media.probe import probe


def speech(seconds: float = 8, level: float = 0.05) -> np.ndarray:
    rng = np.random.default_rng(4)
    syllables = np.repeat(rng.uniform(0, 1, round(seconds * 5) + 1), RATE // 5)[: round(seconds * RATE)]
    carrier = sum(np.sin(2 * np.pi * 130 * n * np.arange(len(syllables)) / RATE) / n for n in range(1, 20))
    return (level * carrier * syllables).astype(np.float32)


def read(path) -> np.ndarray:
    conform(path, probe(path, path.name), path.with_suffix(".c.flac"), path.with_suffix(".peaks"))
    return soundfile.read(path.with_suffix(".c.flac"), dtype="float64", always_2d=True)[0]


@pytest.mark.parametrize("ending", ["wav", "flac", "mp3", "m4a", "ogg"])
def test_the_loudness_is_reached_in_every_form(tmp_path, ending):
    source = write_media(tmp_path / "in.wav", speech())
    out, report = tmp_path / f"out.{ending}", tmp_path / "r.json"
    assert main(["sound", str(source), "--out", str(out), "--loudness", "-19", "--report", str(report)]) == 0
    made = read(out)
    assert pyloudnorm.Meter(RATE).integrated_loudness(made) == pytest.approx(-19, abs=0.2 if ending in ("wav", "flac") else 0.6)
    assert 20 * np.log10(np.abs(made).max()) <= -0.5
    told = json.loads(report.read_text())
    assert told["after"]["loudness"] == pytest.approx(-19, abs=0.2) and told["after"]["peak"] <= -1
    assert told["before"]["loudness"] < -19.5 or told["before"]["loudness"] > -18.5
    if ending in ("wav", "flac"):
        assert len(made) == len(speech())


def test_without_anything_to_do_the_sound_is_the_same(tmp_path):
    source = write_media(tmp_path / "in.flac", speech())
    assert main(["sound", str(source), "--out", str(tmp_path / "out.flac"), "--noise", "0"]) == 0
    assert np.array_equal(read(source), read(tmp_path / "out.flac"))


def test_noise_is_taken_out_and_its_amount_counts(tmp_path):
    hiss = (0.01 * np.random.default_rng(1).standard_normal(len(speech()))).astype(np.float32)
    quiet = speech()
    quiet[2 * RATE : 4 * RATE] = 0
    source = write_media(tmp_path / "in.wav", quiet + hiss)
    rests = []
    for amount in (0, 50, 100):
        out = tmp_path / f"{amount}.wav"
        assert main(["sound", str(source), "--out", str(out), "--noise", str(amount)]) == 0
        rests.append(20 * np.log10(read(out)[round(2.5 * RATE) : round(3.5 * RATE)].std() + 1e-9))
    assert rests[1] < rests[0] - 4 and rests[2] < rests[0] - 15


def test_a_chain_from_a_file(tmp_path):
    chain = tmp_path / "mine.json"
    chain.write_text('[{"kind": "gain", "decibels": -6}]')
    source = write_media(tmp_path / "in.wav", speech())
    assert main(["sound", str(source), "--out", str(tmp_path / "out.wav"), "--chain", str(chain)]) == 0
    assert read(tmp_path / "out.wav").std() / read(source).std() == pytest.approx(10 ** (-6 / 20), abs=0.01)


@pytest.mark.parametrize(
    ("options", "told"),
    [
        (["--chain", "wide open"], "no chain called"),
        (["--chain", "nonsense.json"], "not a chain that Jaskel can use"),
        (["--chain", "missing.json"], "missing.json"),
        (["--noise", "120"], "0 to 100"),
        (["--loudness", "3"], "-60 to -5 LUFS"),
        (["--peak", "2"], "-20 to 0 dBTP"),
        (["--out", "out.avi"], "--out"),
    ],
)
def test_what_cannot_be_meant_is_told_in_one_line(tmp_path, monkeypatch, capsys, options, told):
    monkeypatch.chdir(tmp_path)
    (tmp_path / "nonsense.json").write_text("[7]")
    write_media(tmp_path / "in.wav", speech(2))
    assert main(["sound", "in.wav", "--out", "out.wav", *options]) == 2
    said = capsys.readouterr().err.strip().splitlines()
    assert told in said[-1] and said[-1].startswith("jaskel: ")
    assert not (tmp_path / "out.wav").exists() and not (tmp_path / "out.avi").exists()


def test_silence_cannot_be_brought_to_a_loudness(tmp_path, capsys):
    source = write_media(tmp_path / "in.wav", speech() * 0)
    assert main(["sound", str(source), "--out", str(tmp_path / "out.wav"), "--loudness", "-16"]) == 2
    assert "silent" in capsys.readouterr().err
    assert not (tmp_path / "out.wav").exists()
