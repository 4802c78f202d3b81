"""Every form of export is written of a real edition, with a picture, a voice and music."""

from __future__ import annotations

import io
from zipfile import ZipFile

import numpy as np
import opentimelineio as otio
import pytest
import soundfile
from conftest import RATE, tone, write_media
from PIL import Image
from test_retyping import operate

from jaskel.core.transcript import Word
from jaskel.media.forms import FORMS


@pytest.fixture
def edition(jaskel, tmp_path):
    episode = jaskel.episode()["id"]
    film = jaskel.upload(episode, write_media(tmp_path / "talk.mp4", tone(6), pictures=150))["id"]
    music = jaskel.upload(episode, write_media(tmp_path / "theme.wav", np.float32(tone(10))))["id"]
    jaskel.work()
    jaskel.words(film, [Word(f"word{n}.", n * RATE, n * RATE + RATE // 2) for n in range(6)])
    made = jaskel.get(f"/api/episodes/{episode}")["editions"][0]["id"]
    bed = {"recording": music, "begins": {"to": "beginning"}, "ends": {"to": "end"}}
    operate(jaskel, made, kind="bed", **bed)
    jaskel.post(f"/api/episodes/{episode}/chapters", {"edition": made, "laid": 2 * RATE, "title": "Later"}, 201)
    return made


@pytest.mark.parametrize("form", [*FORMS])
def test_it_is_written(jaskel, edition, form):
    job = jaskel.post(f"/api/editions/{edition}/exports", {"form": form}, 202)
    jaskel.work("export")
    made = jaskel.client.get(f"/api/exports/{job['id']}/file")
    assert made.status_code == 200 and len(made.data) > 10, form


def test_a_bundle_has_the_originals_under_their_names(jaskel, edition, tmp_path):
    job = jaskel.post(f"/api/editions/{edition}/exports", {"form": "otioz"}, 202)
    jaskel.work("export")
    made = jaskel.client.get(f"/api/exports/{job['id']}/file").data
    with ZipFile(io.BytesIO(made)) as bundle:
        names = {*bundle.namelist()}
        assert bundle.read("media/theme.wav")[:4] == b"RIFF"
    assert {"media/talk.mp4", "media/theme.wav", "content.otio", "version.txt"} <= names
    (tmp_path / "a.otioz").write_bytes(made)
    timeline = otio.adapters.read_from_file(str(tmp_path / "a.otioz"))
    assert [each.name for each in timeline.tracks.markers] == ["Later"]
    assert len(timeline.video_tracks()) == 1 and len(timeline.audio_tracks()) == 3


def made(jaskel, edition, form, **more):
    job = jaskel.post(f"/api/editions/{edition}/exports", {"form": form} | more, 202)
    jaskel.work("export")
    return jaskel.client.get(f"/api/exports/{job['id']}/file").data


def test_a_selection_alone_is_exported(jaskel, edition):
    sound, rate = soundfile.read(io.BytesIO(made(jaskel, edition, "wav", part=[RATE, 3 * RATE + 480])))
    assert (len(sound), rate) == (2 * RATE + 480, RATE)
    jaskel.post(f"/api/editions/{edition}/exports", {"form": "wav", "part": [RATE, RATE]}, 422)


@pytest.mark.parametrize("form", ["gif", "webp"])
def test_moving_pictures_of_a_selection_last_as_long_as_it(jaskel, edition, form):
    with Image.open(io.BytesIO(made(jaskel, edition, form, part=[RATE, 3 * RATE]))) as image:
        assert image.n_frames == 25 and min(image.size) <= 360
        total = 0
        for number in range(image.n_frames):
            image.seek(number)
            image.load()
            total += image.info["duration"]
    assert total == 2000


def test_a_picture_is_that_at_its_place_and_has_the_captions_that_are_burned_in(jaskel, edition):
    bare, other, titled = (
        np.asarray(Image.open(io.BytesIO(made(jaskel, edition, "png", part=[at, at + RATE], captions=captions))).convert("RGB"))
        for at, captions in ((2 * RATE, []), (4 * RATE, []), (2 * RATE, ["burned in"]))
    )
    assert bare.shape == other.shape == titled.shape and (bare != titled).any()
