"""Hostile files are taken in, or refused in words; whatever they hold, nothing breaks and nothing is left."""

from __future__ import annotations

import random
from pathlib import Path

import numpy as np
import pytest
from conftest import RATE
from sqlalchemy import select

from bench.hostile.media import files, known, with_damaged_stamp, write
from jaskel.media.conform import conform
from jaskel.media.conformed import ConformedSound
from jaskel.media.probe import probe
from jaskel.store.models import Job, Recording

SAMPLE = 90


def memory(what: str) -> int:
    """Bytes of this process: ``VmRSS`` now, ``VmHWM`` at most."""
    return int(Path("/proc/self/status").read_text().split(f"{what}:")[1].split()[0]) * 1024


def test_a_sample_of_hostile_files(jaskel, tmp_path):
    episode = jaskel.episode()["id"]
    Path("/proc/self/clear_refs").write_text("5")  # what other tests held does not count
    before = memory("VmRSS")
    for path in files(tmp_path / "hostile", SAMPLE, seed=random.Random(7).randrange(10**6)):
        url = f"/api/episodes/{episode}/recordings?name={path.name}&transcribe=false&placed=false"
        response = jaskel.client.post(url, data=path.read_bytes())
        assert response.status_code in (201, 409, 422), (path, response.text)
        jaskel.work("prepare", "keys", "picture", "faces")
    with jaskel.workshop.home.database.read() as session:
        for job in session.scalars(select(Job)):
            name = session.get_one(Recording, job.subject).name
            assert job.state in ("done", "failed"), name
            assert "inside Jaskel" not in job.trouble, name
        wanted = set(session.scalars(select(Recording.digest)))
    root = jaskel.workshop.home.vault.root
    assert not list((root / "incoming").iterdir())
    assert {path.name for path in root.glob("originals/*/*")} <= wanted
    assert not list(root.glob("**/.*.partial"))
    assert memory("VmHWM") - before < 800e6


@pytest.fixture
def conformed(tmp_path):
    def made(path):
        info = probe(path, path.name)
        return conform(path, info, tmp_path / "sound.flac", tmp_path / "peaks.bin"), tmp_path / "sound.flac"

    return made


class TestClocks:
    def test_sound_that_begins_half_a_day_late_is_read_without_the_silence(self, conformed, tmp_path):
        done, _ = conformed(write(tmp_path / "a.mkv", shift=lambda _: 40_000 * RATE, pictures=True))
        assert abs(done.length - RATE) < 0.1 * RATE

    def test_a_damaged_stamp_says_nothing(self, conformed, tmp_path):
        done, _ = conformed(with_damaged_stamp(write(tmp_path / "a.ts", 4), 600))
        assert abs(done.length - 4 * RATE) < 0.1 * RATE

    def test_a_pause_of_minutes_is_kept(self, conformed, tmp_path):
        done, _ = conformed(write(tmp_path / "a.mkv", shift=lambda n: 200 * RATE if n >= 20 else 0))
        assert abs(done.length - 201 * RATE) < 0.1 * RATE

    def test_silence_has_an_end(self, conformed, tmp_path):
        done, _ = conformed(write(tmp_path / "a.mkv", shift=lambda n: n * 3_000 * RATE))
        assert done.length < 7 * 3_600 * RATE


class TestSamples:
    def test_what_is_no_number_is_silence(self, conformed, tmp_path):
        path = next(known(tmp_path, "no-numbers.wav"))
        _, sound = conformed(path)
        with ConformedSound(sound) as file:
            heard = file.read(0, RATE)[:, 0]
        assert heard[100] == heard[200] == heard[300] == 0
        assert abs(heard[1000] - 0.3 * np.sin(2 * np.pi * 200 * 1000 / RATE)) < 1e-4

    def test_sound_above_full_scale_keeps_its_shape(self, conformed, tmp_path):
        path = next(known(tmp_path, "loud.wav"))
        _, sound = conformed(path)
        with ConformedSound(sound) as file:
            heard = file.read(0, RATE)[:, 0]
        wanted = 3.6 * np.sin(2 * np.pi * 200 * np.arange(RATE) / RATE)
        assert np.abs(heard - wanted).max() < 1e-5

    def test_sixty_four_channels_are_mixed(self, conformed, tmp_path):
        path = next(known(tmp_path, "channels-64.wav"))
        done, sound = conformed(path)
        assert done.length == 4800
        with ConformedSound(sound) as file:
            assert 0 < np.abs(file.read(0, 4800)).max() < 0.2

    def test_a_rate_that_changes_midway_is_followed(self, conformed, tmp_path):
        path = next(known(tmp_path, "changes.aac"))
        done, _ = conformed(path)
        assert done.length > 3.5 * RATE


def test_pixels_of_an_impossible_shape_are_taken_as_square(tmp_path):
    for path in known(tmp_path, "aspect-"):
        shown = probe(path, path.name).picture
        assert (shown.width, shown.height) == ((68, 48) if "true" in path.name else (64, 48))
